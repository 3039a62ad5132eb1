import Papa from 'papaparse'
import type { Delimiter } from './dialect'
import { harmless } from './formulas'
import { numberText, type DecimalSign } from './numbers'

export type Cell = string | number | boolean | null

interface Way {
  delimiter: Delimiter
  decimal: DecimalSign
}

/**
 * Records as text (RFC 4180), each line ended. Texts that a spreadsheet would run are made harmless; numbers have the
 * table's decimal sign; null is empty.
 */
export const tableText = (
  records: readonly (readonly Cell[])[],
  { delimiter, decimal }: Way = { delimiter: ',', decimal: '.' },
): string => {
  const texts = records.map((cells) => cells.map((cell) => cellText(cell, decimal)))
  return texts.length === 0 ? '' : `${Papa.unparse(texts, { delimiter, newline: '\r\n' })}\r\n`
}

const cellText = (cell: Cell, decimal: DecimalSign): string => {
  if (cell === null) return ''
  return typeof cell === 'number' ? numberText(cell, decimal) : harmless(String(cell))
}

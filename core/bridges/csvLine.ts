import { harmless } from '../formats/csv/formulas'
import { numberText } from '../formats/csv/numbers'
import { textOf, type Carried } from '../messages/carried'
import type { CsvWay } from './settings'

const delimiters: Record<CsvWay['delimiter'], string> = { ',': ',', ';': ';', tab: '\t' }

/**
 * One record as a line of a file (RFC 4180), with its end. A text that a spreadsheet would run as a formula is made
 * harmless by an apostrophe in front, as in all tables that leave from here; numbers are none.
 */
export const csvLine = (values: readonly Carried[], way: CsvWay): string =>
  values.map((value) => cellOf(value, way)).join(delimiters[way.delimiter]) + (way.newline === 'crlf' ? '\r\n' : '\n')

const cellOf = (value: Carried, way: CsvWay): string => {
  if (value === null || value === undefined) return way.quote === 'all' ? '""' : ''
  if (typeof value === 'number') return quoted(Number.isFinite(value) ? numberText(value, way.decimal) : String(value), way, false)
  if (typeof value === 'bigint' || typeof value === 'boolean') return quoted(String(value), way, false)
  return quoted(value instanceof Date ? textOf(value) : harmless(textOf(value)), way, true)
}

const quoted = (text: string, { quote, delimiter }: CsvWay, isText: boolean): string => {
  const must = quote === 'all' || (quote === 'text' && isText) || /["\r\n]/.test(text) || text.includes(delimiters[delimiter])
  return must || text !== text.trim() ? `"${text.replaceAll('"', '""')}"` : text
}

/** The line that names the columns. */
export const csvHeader = (names: readonly string[], way: CsvWay): string => csvLine([...names], way)

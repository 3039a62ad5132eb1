import { firstRecords } from './records'
import { numberIn, type DecimalSign } from './numbers'

export const delimiters = [',', ';', '\t', '|'] as const
export type Delimiter = (typeof delimiters)[number]

/** How a table is written as text. */
export interface Dialect {
  delimiter: Delimiter
  decimal: DecimalSign
}

const looked = 64 * 1024
const mostRecords = 50

/** Some spreadsheets say their delimiter in a line before the first. */
const saysDelimiter = /^sep=(.)\n/

/** The text without the line that only says the delimiter, and how many lines that took. */
export const withoutHint = (text: string): { text: string; hint: Delimiter | null; lines: number } => {
  const said = saysDelimiter.exec(text)
  const hint = delimiters.find((delimiter) => delimiter === said?.[1]) ?? null
  return hint && said ? { text: text.slice(said[0].length), hint, lines: 1 } : { text, hint: null, lines: 0 }
}

/**
 * How a text is written, as far as its beginning tells. What names the most columns is the delimiter; where no name is
 * known, what divides the lines most evenly.
 *
 * @param isName whether a cell of the first record names a column
 */
export const dialectOf = (text: string, isName: (cell: string) => boolean): Dialect => {
  const start = text.slice(0, looked)
  const ways = delimiters.map((delimiter) => wayOf(firstRecords(start, delimiter, mostRecords), delimiter, isName))
  const best = ways.reduce((a, b) => (b.names > a.names || (b.names === a.names && b.even > a.even) ? b : a))
  return { delimiter: best.delimiter, decimal: decimalOf(best.records) }
}

const wayOf = (records: string[][], delimiter: Delimiter, isName: (cell: string) => boolean) => {
  const [first = []] = records
  const names = first.filter(isName).length
  const alike = records.filter(({ length }) => length === first.length).length
  return { delimiter, records, names, even: first.length > 1 ? alike * first.length : 0 }
}

/** What stands in more numbers that have a fraction; in doubt a point. */
const decimalOf = (records: readonly string[][]): DecimalSign => {
  const cells = records.flat().map((cell) => cell.trim())
  const with_ = (sign: DecimalSign) => cells.filter((cell) => cell.includes(sign) && numberIn(cell, sign) !== null).length
  return with_(',') > with_('.') ? ',' : '.'
}

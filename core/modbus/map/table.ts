import { plainName } from '../../formats/column'
import { dialectOf, withoutHint } from '../../formats/csv/dialect'
import { meant } from '../../formats/csv/formulas'
import { noNumber, numberIn, type DecimalSign } from '../../formats/csv/numbers'
import { recordsOf, UnreadableCsv, withPlainLines } from '../../formats/csv/records'
import { tableText } from '../../formats/csv/write'
import { formatReference, parseAddress } from '../address'
import { mapEntry, type MapEntry } from './entry'

/** A map as a table: an address stands in it as it travels, and counted from 1. */

export const mapColumns = ['path', 'address', 'reference', 'type', 'word_order', 'length', 'gain', 'tells'] as const
export type MapColumn = (typeof mapColumns)[number]

const other: Record<string, MapColumn> = { tag: 'path', at: 'address', order: 'word_order' }

const columnMeant = (header: string): MapColumn | null => {
  const name = plainName(header)
  return mapColumns.find((column) => column === name) ?? other[name] ?? null
}

export const referenceOf = ({ at }: Pick<MapEntry, 'at'>): string => {
  const parsed = parseAddress(at)
  if (!parsed.ok) return ''
  const { unit } = parsed.address
  return `${unit === null ? '' : `${unit}:`}${formatReference(parsed.address)}`
}

/** What stands in the cells of an entry. */
export type MapCells = Record<MapColumn, string>

export const mapCells = (entry: MapEntry): MapCells => ({
  path: entry.path,
  address: entry.at,
  reference: referenceOf(entry),
  type: entry.type,
  word_order: entry.order,
  length: entry.type === 'string' ? String(entry.length) : '',
  gain: String(entry.gain),
  tells: entry.tells,
})

export const mapTable = (entries: readonly MapEntry[]): string =>
  tableText([
    [...mapColumns],
    ...entries.map((entry) => {
      const cells = mapCells(entry)
      return mapColumns.map((column) => (column === 'gain' ? entry.gain : cells[column] || null))
    }),
  ])

export interface TableProblem {
  line: number
  message: string
}

/** What a table says: its entries, and line by line what cannot be read. An entry that names both addresses lies at the first. */
export const readMapTable = (text: string): { entries: MapEntry[]; problems: TableProblem[] } => {
  const { text: plain, hint, lines } = withoutHint(withPlainLines(text.replace(/^\ufeff/, '')))
  const { delimiter: found, decimal } = dialectOf(plain, (cell) => columnMeant(cell) !== null)
  const entries: MapEntry[] = []
  const problems: TableProblem[] = []
  let header: (MapColumn | null)[] | null = null
  try {
    for (const records of recordsOf(plain, hint ?? found))
      for (const { line, cells } of records) {
        if (!header) {
          header = cells.map(columnMeant)
          const lacks = lackOf(header)
          if (lacks) return { entries: [], problems: [{ line: line + lines, message: lacks }] }
          continue
        }
        const read = entryOf(header, cells, decimal)
        if (read.ok) entries.push(read.entry)
        else problems.push({ line: line + lines, message: read.problem })
      }
  } catch (error) {
    if (!(error instanceof UnreadableCsv)) throw error
    problems.push({ line: error.line + lines, message: error.problem })
  }
  return header ? { entries, problems } : { entries: [], problems: [{ line: 1, message: 'The file is empty.' }] }
}

const lackOf = (header: readonly (MapColumn | null)[]): string | null => {
  if (!header.includes('path')) return 'No column names the tags: it is called path.'
  return header.includes('address') || header.includes('reference')
    ? null
    : 'No column says where they lie: it is called address, or reference.'
}

/** `column`: where it is wrong. */
export type ReadEntry = { ok: true; entry: MapEntry } | { ok: false; column: MapColumn; problem: string }

const columnOf: Record<string, MapColumn> = { at: 'address', order: 'word_order' }

/** What cells say; those that are empty are as usual. */
export const entryIn = (cells: Partial<MapCells>, decimal: DecimalSign = '.'): ReadEntry => {
  const cell = (column: MapColumn) => (cells[column] ?? '').trim()
  const number = (column: MapColumn) => (cell(column) === '' ? undefined : (numberIn(cell(column), decimal) ?? NaN))
  for (const column of ['length', 'gain'] as const)
    if (Number.isNaN(number(column))) return { ok: false, column, problem: noNumber(cell(column), decimal) }
  const given = {
    path: cell('path'),
    at: cell('address') || cell('reference'),
    type: cell('type').toLowerCase(),
    order: cell('word_order').toUpperCase() || undefined,
    ...{ length: number('length'), gain: number('gain') },
    tells: cell('tells').toLowerCase() || undefined,
  }
  const checked = mapEntry.safeParse(given)
  if (checked.success) return { ok: true, entry: checked.data }
  const { path, message } = checked.error.issues[0]!
  const field = String(path[0] ?? 'path')
  return { ok: false, column: columnOf[field] ?? (field as MapColumn), problem: message }
}

const entryOf = (header: readonly (MapColumn | null)[], cells: readonly string[], decimal: DecimalSign): ReadEntry =>
  entryIn(Object.fromEntries(header.flatMap((column, i) => (column ? [[column, meant(cells[i] ?? '')]] : []))), decimal)

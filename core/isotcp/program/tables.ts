import { dialectOf, withoutHint } from '../../formats/csv/dialect'
import { plainName } from '../../formats/column'
import { recordsOf, UnreadableCsv, withPlainLines } from '../../formats/csv/records'
import { parseAddress } from '../address'
import type { Declared, Program, TypeRef } from './declared'

/** Names that columns of symbol tables and block layouts have. */
const columnNames = {
  name: ['name', 'symbol', 'tag', 'variable', 'path'],
  type: ['type', 'data_type', 'datatype'],
  at: ['address', 'offset', 'logical_address', 'at'],
  comment: ['comment', 'description'],
} as const
type Column = keyof typeof columnNames

const meant = (header: string): Column | null =>
  (Object.keys(columnNames) as Column[]).find((column) => (columnNames[column] as readonly string[]).includes(plainName(header))) ?? null

/** Whether a text is such a table, by its first line. */
export const isTable = (text: string): boolean => {
  try {
    return columnsIn(withPlainLines(text)).columns.filter(Boolean).length >= 3
  } catch (error) {
    if (error instanceof UnreadableCsv) return false
    throw error
  }
}

const columnsIn = (whole: string) => {
  const { text, hint, lines } = withoutHint(whole.replace(/^\ufeff/, ''))
  const delimiter = hint ?? dialectOf(text, (cell) => meant(cell) !== null).delimiter
  const [first = []] = recordsOf(text, delimiter)
  return { text, delimiter, lines, columns: (first[0]?.cells ?? []).map(meant) }
}

/**
 * A table of symbols (name, address, type, comment), or the layout of a block (name, type, offset as in 4 or 4.1,
 * comment). Each line has its own place.
 */
export const readTable = (whole: string): Program => {
  const found: Program = { types: new Map(), groups: [{ name: '', variables: [] }], problems: [] }
  const { text, delimiter, lines, columns } = columnsIn(withPlainLines(whole))
  try {
    for (const records of recordsOf(text, delimiter))
      for (const { line, cells } of records) {
        if (line === 1 || cells.every((cell) => cell.trim() === '')) continue
        const cell = (column: Column) => (cells[columns.indexOf(column)] ?? '').trim()
        const one = lineOf({ name: cell('name'), type: cell('type'), at: cell('at'), comment: cell('comment') }, line + lines)
        if (typeof one === 'string') found.problems.push({ line: line + lines, text: one })
        else found.groups[0]!.variables.push(one)
      }
  } catch (error) {
    if (!(error instanceof UnreadableCsv)) throw error
    found.problems.push({ line: error.line, text: `${error.problem}.` })
  }
  return found
}

const lineOf = (cells: Record<Column, string>, line: number): Declared | string => {
  const { name, at, comment } = cells
  if (name === '') return 'It has no name.'
  const type = typeIn(cells.type)
  if (type === null) return `${name} is of type “${cells.type}”, which cannot be read.`
  if (!/^\d+(\.\d)?$/.test(at) && !parseAddress(at).ok) return `${name} lies at “${at}”, which is neither an offset nor an address.`
  return { name, type, at, comment, line }
}

const typeIn = (text: string): TypeRef | null => {
  const array = /^array\s*\[\s*(-?\d+)\s*\.\.\s*(-?\d+)\s*\]\s*of\s+(.+)$/i.exec(text)
  if (array) {
    const of = typeIn(array[3]!)
    return of && { kind: 'array', ranges: [[Number(array[1]), Number(array[2])]], of }
  }
  const plain = /^"?(\w+)"?(?:\s*[[(]\s*(\d+)\s*[\])])?$/.exec(text)
  return plain ? { kind: 'named', name: plain[1]!.toUpperCase(), length: plain[2] === undefined ? null : Number(plain[2]) } : null
}

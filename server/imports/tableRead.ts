import { dialectOf, withoutHint } from '#core/formats/csv/dialect'
import { decoded, encodingOf } from '#core/formats/csv/encoding'
import { firstRecords, recordsOf, UnreadableCsv, withPlainLines, type CsvRecord } from '#core/formats/csv/records'
import { fault, type Fault } from '#core/faults/catalogue'
import type { ImportSettings, ImportStatus } from '#shared/imports'
import { columnMeant, usualColumns } from '#shared/tagCsv/header'
import { Refusal } from '../answers/refusal'

/** As many lines as a site may have tags, and then some. */
const mostLines = 200_000

type Found = NonNullable<ImportStatus['found']>

/** A file as a table: how it is written, and its records, which are read a piece at a time. */
export interface TableRead {
  found: Found
  /** Why that is not enough; null: it is. */
  why: Fault | null
  /** Characters of the text. */
  length: number
  records(): Generator<{ records: CsvRecord[]; read: number }>
}

/** Looks into a file; whatever is not chosen is found out. */
export const readTable = (name: string, bytes: Uint8Array, settings: ImportSettings): TableRead => {
  const encoding = settings.encoding ?? encodingOf(bytes)
  const { text, hint, lines: hintLines } = withoutHint(withPlainLines(decoded(bytes, encoding)))
  const dialect = dialectOf(text, (cell) => columnMeant(cell) !== null)
  const delimiter = settings.delimiter ?? hint ?? dialect.delimiter
  const [first = []] = firstRecords(text, delimiter, 1)
  const header = settings.header ?? true
  const columns = columnsOf(first, header, settings.columns)
  const namesTags = columns.some(({ column }) => column === 'path')
  return {
    found: { encoding, delimiter, decimal: settings.decimal ?? dialect.decimal, header, columns },
    why: namesTags ? null : fault('import.no-path', { name, found: namesIn(first, header) }),
    length: text.length,
    *records() {
      let isFirst = true
      let [lines, read] = [0, 0]
      try {
        for (const piece of recordsOf(text, delimiter)) {
          const records = isFirst && header ? piece.slice(1) : piece
          isFirst = false
          lines += records.length
          if (lines > mostLines) throw new Refusal(fault('import.too-long', { name, most: mostLines }))
          for (const record of records) record.line += hintLines
          read = Math.min(text.length, read + pieceLength(piece))
          yield { records, read }
        }
      } catch (error) {
        throw error instanceof UnreadableCsv ? unreadable(name, error, hintLines) : error
      }
    },
  }
}

const unreadable = (name: string, { line, column, problem }: UnreadableCsv, before: number) =>
  new Refusal(fault('import.unreadable', { name, problem: `line ${line + before}, column ${column}: ${problem}` }))

/** About; for how far it is. */
const pieceLength = (piece: readonly CsvRecord[]) =>
  piece.reduce((sum, { cells }) => sum + cells.reduce((length, cell) => length + cell.length + 1, 0), 0)

/** By what was chosen, else by their names, else in our own order. A column that two claim is the first one's. */
const columnsOf = (first: readonly string[], header: boolean, chosen: ImportSettings['columns']): Found['columns'] => {
  const taken = new Set<string>()
  return first.map((cell, index) => {
    const meant = chosen ? (chosen[index] ?? null) : header ? columnMeant(cell) : (usualColumns[index] ?? null)
    const column = meant !== null && !taken.has(meant) ? meant : null
    if (column) taken.add(column)
    return { title: header ? cell.trim() : `Column ${index + 1}`, column }
  })
}

const mostNamed = 12
const namesIn = (first: readonly string[], header: boolean) => {
  if (first.length === 0) return 'It is empty.'
  const named = first.slice(0, mostNamed).map((cell) => `“${cell.trim().slice(0, 40)}”`)
  return `Its first line ${header ? 'names' : 'holds'} ${named.join(', ')}${first.length > mostNamed ? ' …' : ''}.`
}

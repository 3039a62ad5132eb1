import { fault } from '#core/faults/catalogue'
import { textOf, type Carried } from '#core/messages/carried'
import { readerOf, setColumnOf, type ColumnReader, type SetColumn } from '#core/records/columns'
import type { SqlDialect } from '#core/sql/settings'
import type { TagValue } from '#core/tags/types'
import { visible } from '#core/text/visible'
import type { AskedRows } from '../links/receiving'
import { thrown } from './work'

export interface ReadColumns {
  /** All that was asked for. */
  all: SetColumn[]
  /** Those that become tags. */
  shown: SetColumn[]
  readers: ColumnReader[]
  /** Where in a row each of those stands. */
  places: number[]
  /** Where the key stands; -1: there is none. */
  keyAt: number
}

/** What the columns of an answer become; kept from answer to answer while they are the same. */
export class Columns {
  private known: { asked: AskedRows['columns']; read: ReadColumns } | null = null

  /** @param chosen those that become tags; none: all of them */
  constructor(private settings: { chosen: readonly string[]; key: string; nulls: string | null }) {}

  of({ columns }: Pick<AskedRows, 'columns'>, dialect: SqlDialect): ReadColumns {
    if (this.known && isSame(this.known.asked, columns)) return this.known.read
    const read = this.read(columns, dialect)
    this.known = { asked: columns, read }
    return read
  }

  get last(): ReadColumns | null {
    return this.known?.read ?? null
  }

  private read(columns: AskedRows['columns'], dialect: SqlDialect): ReadColumns {
    const { chosen, key, nulls } = this.settings
    const all = columns.map((column) => setColumnOf(column, dialect))
    const at = (name: string) => all.findIndex((column) => column.name === name)
    for (const name of [...chosen, key]) if (name !== '' && at(name) < 0) throw thrown(noColumn(name, all))
    const places = chosen.length > 0 ? chosen.map(at) : all.map((_, i) => i).filter((i) => at(all[i]!.name) === i)
    const shown = places.map((i) => all[i]!)
    return { all, shown, places, readers: shown.map((column) => readerOf(column, nulls)), keyAt: key === '' ? -1 : at(key) }
  }
}

const noColumn = (column: string, all: readonly SetColumn[]) =>
  fault('records.no-column', { column, there: all.map(({ name }) => name).join(', ') || 'no columns' })

const isSame = (a: AskedRows['columns'], b: AskedRows['columns']) =>
  a.length === b.length &&
  a.every((one, i) => {
    const other = b[i]!
    return (
      one.name === other.name &&
      one.type === other.type &&
      one.declared === other.declared &&
      one.digits === other.digits &&
      one.decimals === other.decimals
    )
  })

export const valuesOf = ({ places, readers }: ReadColumns, row: readonly Carried[]): (TagValue | undefined)[] =>
  readers.map((read, i) => read(row[places[i]!] ?? null))

/** How rows are called by their key: each by another name. Throws a fault where they are not. */
export const labelsOf = ({ keyAt, all }: ReadColumns, rows: readonly (readonly Carried[])[]): string[] => {
  const { name } = all[keyAt]!
  const missing = rows.filter((row) => row[keyAt] === null || row[keyAt] === undefined).length
  if (missing > 0) throw thrown(fault('records.no-key', { column: name, count: missing }))
  const labels = rows.map((row) => labelOf(row[keyAt]!))
  const seen = new Set<string>()
  for (const label of labels) {
    if (seen.has(label)) throw thrown(fault('records.same-key', { column: name, key: label }))
    seen.add(label)
  }
  return labels
}

const longestLabel = 500
export const labelOf = (key: Carried): string => visible(textOf(key)).slice(0, longestLabel)

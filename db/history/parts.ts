import type pg from 'pg'
import type { Tier } from '#core/history/bucket'

/** The tables of what was recorded, each parted by time. A part is made before something goes there, and dropped as a whole. */

export const shelves = ['sample', 'second', 'minute', 'hour'] as const
/** Single samples, or a tier of buckets. */
export type Shelf = 'sample' | Tier

export const tableOf = (shelf: Shelf) => `history_${shelf}`

type Span = 'day' | 'month' | 'year'
const spans: Record<Shelf, Span> = { sample: 'day', second: 'day', minute: 'month', hour: 'year' }

/** A part of a table, and what it is for: from, up to but without; Unix milliseconds. */
export interface Part {
  shelf: Shelf
  name: string
  from: number
  to: number
}

const two = (value: number) => String(value).padStart(2, '0')

/** The part that a moment falls into; days, months and years are those of UTC. */
export const partAt = (shelf: Shelf, at: number): Part => {
  const date = new Date(at)
  const [year, month, day] = [date.getUTCFullYear(), date.getUTCMonth(), date.getUTCDate()]
  const table = tableOf(shelf)
  switch (spans[shelf]) {
    case 'day':
      return {
        ...{ shelf, name: `${table}_${year}_${two(month + 1)}_${two(day)}` },
        ...{ from: Date.UTC(year, month, day), to: Date.UTC(year, month, day + 1) },
      }
    case 'month':
      return { shelf, name: `${table}_${year}_${two(month + 1)}`, from: Date.UTC(year, month), to: Date.UTC(year, month + 1) }
    case 'year':
      return { shelf, name: `${table}_${year}`, from: Date.UTC(year, 0), to: Date.UTC(year + 1, 0) }
  }
}

/** Which part a table is by its name; null: none of ours. */
export const partCalled = (name: string): Part | null => {
  const match = /^history_(sample|second|minute|hour)_(\d{4})(?:_(\d\d))?(?:_(\d\d))?$/.exec(name)
  if (!match) return null
  const [, shelf, year, month, day] = match
  const part = partAt(shelf as Shelf, Date.UTC(Number(year), Number(month ?? 1) - 1, Number(day ?? 1)))
  return part.name === name ? part : null
}

type Connection = Pick<pg.ClientBase, 'query'>

export const makePart = async (db: Connection, { shelf, name, from, to }: Part): Promise<void> => {
  const [begin, end] = [new Date(from).toISOString(), new Date(to).toISOString()]
  await db.query(`create table if not exists ${name} partition of ${tableOf(shelf)} for values from ('${begin}') to ('${end}')`)
}

export const dropPart = async (db: Connection, { name }: Part): Promise<void> => {
  await db.query(`drop table if exists ${name}`)
}

export interface MeasuredPart extends Part {
  bytes: number
  rows: number
}

/** All parts that are there, the oldest first, with what they take on disk and about how many rows they hold. */
export const measuredParts = async (db: Connection): Promise<MeasuredPart[]> => {
  const { rows } = await db.query<{ name: string; bytes: string | number; rows: number }>(`
    select child.relname as name, pg_total_relation_size(child.oid) as bytes,
      greatest(child.reltuples, coalesce(pg_stat_get_live_tuples(child.oid), 0))::float8 as rows
    from pg_inherits join pg_class child on child.oid = inhrelid join pg_class parent on parent.oid = inhparent
    where parent.relname = any('{${shelves.map(tableOf).join(',')}}') and child.relkind = 'r'`)
  return rows
    .flatMap(({ name, bytes, rows: count }) => {
      const part = partCalled(name)
      return part ? [{ ...part, bytes: Number(bytes), rows: Math.max(0, Math.round(count)) }] : []
    })
    .sort((a, b) => a.from - b.from)
}

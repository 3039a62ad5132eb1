import type pg from 'pg'
import { copyOut } from './copying'
import type { CopyReader } from './copyRows'

/** Single samples as the database has them. */
export interface StoredSample {
  at: number
  arrived: number
  quality: number
  /** NaN: it has none. */
  number: number
  text: string | null
}

export interface ReplacedSample extends StoredSample {
  /** When another one took its place. */
  replacedAt: number
}

/** Samples of one series that are no earlier than `from` and earlier than `to`; Unix milliseconds. */
export interface SamplesAsked {
  id: number
  from: number
  to: number
  most: number
  /** The latest first. */
  isBackwards?: boolean
}

export const idList = (ids: readonly number[]) => `'{${ids.map(Math.trunc).join(',')}}'::int[]`
export const literal = (at: number) => `'${new Date(at).toISOString()}'::timestamptz`
const within = ({ id, from, to }: Pick<SamplesAsked, 'id' | 'from' | 'to'>) =>
  `series = ${Math.trunc(id)} and at >= ${literal(from)} and at < ${literal(to)}`

export const samplesBetween = (asked: SamplesAsked) => {
  const order = asked.isBackwards ? 'at desc' : 'at'
  return `select at, arrived, quality, number, text from (
    select distinct on (at) at, arrived, quality, number, text from history_sample
    where ${within(asked)} order by ${order}, arrived desc limit ${Math.trunc(asked.most)}
  ) one order by ${order}`
}

/** Of one time the one that was replaced last comes first, or last where they come backwards (OPC 10000-11, 6.5.3.3). */
export const replacedSamples = async (db: pg.ClientBase, asked: SamplesAsked): Promise<ReplacedSample[]> => {
  const order = asked.isBackwards ? 'at desc, arrived' : 'at, arrived desc'
  const rows = await copyOut(
    db,
    `select replaced_at, at, arrived, quality, number, text from (
      select *, lead(arrived) over (partition by at order by arrived) as replaced_at from history_sample where ${within(asked)}
    ) one where replaced_at is not null order by ${order} limit ${Math.trunc(asked.most)}`,
  )
  const samples: ReplacedSample[] = []
  while (rows.next()) samples.push({ replacedAt: rows.time(), ...readSample(rows) })
  return samples
}

export const timesHiding = async (db: pg.ClientBase, asked: Pick<SamplesAsked, 'id' | 'from' | 'to'>): Promise<number[]> => {
  const rows = await copyOut(db, `select at from history_sample where ${within(asked)} group by at having count(*) > 1`)
  const times: number[] = []
  while (rows.next()) times.push(rows.time())
  return times
}

export const readSample = (rows: CopyReader): StoredSample => ({
  at: rows.time(),
  arrived: rows.time(),
  quality: rows.int4() >>> 0,
  number: rows.float8(),
  text: rows.textOrNull(),
})

export const readSamples = (rows: CopyReader): StoredSample[] => {
  const samples: StoredSample[] = []
  while (rows.next()) samples.push(readSample(rows))
  return samples
}

/** The last row of each series before a moment. */
export const lastBefore = (ids: readonly number[], at: number, how: '<' | '<=', columns: string, table = 'history_sample') => {
  const order = table === 'history_sample' ? 'at desc, arrived desc' : 'at desc'
  return `select found.* from unnest(${idList(ids)}) wanted (id) cross join lateral (
    select ${columns} from ${table} where series = wanted.id and at ${how} ${literal(at)} order by ${order} limit 1) found`
}

import { sql, type Kysely } from 'kysely'
import type { DataType } from '#core/tags/types'
import type { Database } from '../tables'

/** How far back a series goes, of those that were ever recorded; Unix milliseconds. */
export interface Beginning {
  id: number
  type: DataType
  isRecorded: boolean
  /** Of its samples, and of all that is kept of it, minutes and hours too. */
  sampleAt: number | null
  at: number | null
}

export const beginningsOf = async (db: Kysely<Database>, ids: readonly number[]): Promise<Map<number, Beginning>> => {
  const { rows } = await sql<{ id: number; type: DataType; recording: boolean; sample: Date | null; first: Date | null }>`
    select series.id, series.type, series.recording, oldest.at as sample, least(
      oldest.at,
      (select at from history_minute where series = series.id order by at limit 1),
      (select at from history_hour where series = series.id order by at limit 1)
    ) as first
    from history_series series
    left join lateral (select at from history_sample where series = series.id order by at limit 1) oldest on true
    where series.id = any(${[...ids]}::int[])`.execute(db)
  return new Map(
    rows.map(({ id, type, recording, sample, first }) => {
      const [sampleAt, at] = [sample?.getTime() ?? null, first?.getTime() ?? null]
      return [id, { id, type, isRecorded: recording, sampleAt, at }]
    }),
  )
}

/** A stretch of one series. */
export interface SeriesStretch {
  id: number
  from: number
  to: number
}

/** About how many samples there are in each. */
export const countsIn = async (db: Kysely<Database>, stretches: readonly SeriesStretch[]): Promise<number[]> => {
  if (stretches.length === 0) return []
  const times = (of: 'from' | 'to') => stretches.map((one) => new Date(one[of]).toISOString())
  const { rows } = await sql<{ samples: number }>`
    select (select coalesce(sum(count), 0)::float8 from history_minute where series = one.id and at >= one.since and at < one.upto) as samples
    from unnest(${stretches.map(({ id }) => id)}::int[], ${times('from')}::timestamptz[], ${times('to')}::timestamptz[])
      with ordinality one (id, since, upto, place) order by one.place`.execute(db)
  return rows.map(({ samples }) => samples)
}

import { sql, type Kysely } from 'kysely'
import type { Database } from '../tables'

/** An input of equipment, and the tag that it is bound to. */
export interface BoundInput {
  id: number
  bound: number
}

export interface PastOffered extends BoundInput {
  /** What was recorded of the bound tag from then on, up to when the input’s own past begins; Unix milliseconds. */
  from: number
  to: number
  /** About. */
  samples: number
}

/** Both are rarely recorded from the very same moment on. */
const leastMs = 60_000
/** What is recorded of the tags that inputs are bound to, from before those themselves were recorded. */
export const pastOffered = async (db: Kysely<Database>, inputs: readonly BoundInput[]): Promise<PastOffered[]> => {
  const { rows } = await sql<{ id: number; bound: number; since: Date; upto: Date; samples: number }>`
    select pair.id, pair.bound, oldest.at as since, own.at as upto,
      (select coalesce(sum(minute.count), 0)::float8 from history_minute minute where minute.series = pair.bound and minute.at >= oldest.at and minute.at < own.at) as samples
    from unnest(${inputs.map(({ id }) => id)}::int[], ${inputs.map(({ bound }) => bound)}::int[]) pair (id, bound)
    join history_series series on series.id = pair.id and series.recording
    cross join lateral (select at from history_sample where series = pair.bound order by at limit 1) oldest
    cross join lateral (select least(
      (select at from history_sample where series = pair.id order by at limit 1),
      (select at from history_minute where series = pair.id order by at limit 1),
      (select at from history_hour where series = pair.id order by at limit 1)
    ) as at) own
    where own.at - oldest.at >= ${leastMs} * interval '1 ms' order by pair.id`.execute(db)
  return rows.map(({ since, upto, ...rest }) => ({ ...rest, from: since.getTime(), to: upto.getTime() }))
}

import type pg from 'pg'
import { bucketStart, tierMs } from '#core/history/bucket'
import { quality } from '#core/tags/quality'
import { bucketColumns } from '#db/history/buckets'
import { copyInto } from '#db/history/copying'
import { placesIn } from '#db/history/copyRows'
import { makePart, partAt, type Part, type Shelf } from '#db/history/parts'
import type { Parcel, ParcelHead } from './parcel'

type Connection = Pick<pg.ClientBase, 'query'>

const dayMs = 86_400_000
/** A node that lost its line does not know which of the parcels on their way arrived: so many of the last are known by their ids. */
const mostNoted = 32
const sampleColumns = 'series, at, arrived, quality, number, text'

/** Which parts of tables are known to be there. */
export class KnownParts {
  private known = new Set<string>()

  async require(db: Connection, parts: readonly Part[]) {
    for (const part of parts) {
      if (this.known.has(part.name)) continue
      await makePart(db, part)
      this.known.add(part.name)
    }
  }

  forget() {
    this.known.clear()
  }
}

export interface NodeState {
  parcel: string
  /** Minutes and hours before these are made; Unix milliseconds. */
  minutesTo: number
  hoursTo: number
}

/** @param isFar whether it is a node’s, whose minutes say nothing about those of others */
export const stateOf = async (db: Connection, node: string, isFar = false): Promise<NodeState> => {
  const { rows } = await db.query<{ parcel: string; minutes_to: Date; hours_to: Date }>(
    'select parcel, minutes_to, hours_to from history_state where node = $1 for update',
    [node],
  )
  const [row] = rows
  if (row) return { parcel: row.parcel, minutesTo: row.minutes_to.getTime(), hoursTo: row.hours_to.getTime() }
  const now = Date.now()
  const state = { parcel: '', minutesTo: bucketStart(now, tierMs.minute), hoursTo: bucketStart(now, tierMs.hour) }
  const values = [node, '', new Date(state.minutesTo), new Date(state.hoursTo), isFar]
  await db.query('insert into history_state (node, parcel, minutes_to, hours_to, far) values ($1, $2, $3, $4, $5)', values)
  return state
}

/** From now on this is the machine whose minutes and hours are those of the site; whoever was it before brings what is left, late. */
export const leadHistory = (db: Connection, name: string) =>
  inTransaction(db, async () => {
    await db.query(
      `insert into history_state (node, parcel, minutes_to, hours_to, far)
         select $1, '', max(minutes_to), max(hours_to), false from history_state where not far having count(*) > 0
       on conflict (node) do update set far = false,
         minutes_to = greatest(history_state.minutes_to, excluded.minutes_to), hours_to = greatest(history_state.hours_to, excluded.hours_to)`,
      [name],
    )
    await db.query('update history_state set far = true where node <> $1 and not far', [name])
  })

export const inTransaction = async <T>(db: Connection, work: () => Promise<T>): Promise<T> => {
  await db.query('begin')
  try {
    const result = await work()
    await db.query('commit')
    return result
  } catch (error) {
    await db.query('rollback').catch(() => {})
    throw error
  }
}

/** Whose a parcel is. */
export interface ParcelOwner {
  /** Under which name it is noted how far its record is stored. */
  state: string
  /** The node that its series are of; empty: the machine that leads. */
  node: string
  /** Whether it may come long after others were stored: what was made of those is made again. */
  isLate: boolean
}

/**
 * Brings a parcel where it belongs, in one step, unless it is there already. Returns how it stands with the node’s history.
 * @param isDoubted its minutes collide with what is there: they are made from their samples again
 */
export const storeParcel = async (
  db: Connection,
  { state: name, node, isLate }: ParcelOwner,
  parcel: Parcel,
  parts: KnownParts,
  isDoubted = false,
): Promise<NodeState> => {
  await parts.require(db, partsFor(parcel))
  return inTransaction(db, async () => {
    const state = await stateOf(db, name, isLate)
    const { head, rows } = parcel
    const stored = state.parcel.split(' ')
    if (stored.includes(head.id)) return state
    if (head.begins) await beginAnew(db, state, head.begins, parts, node)
    if (head.series.length > 0 && (node !== '' || !isLate)) await storeSeries(db, head.series, node)
    if (rows.sample.length > 0) await copyInto(db, `history_sample (${sampleColumns})`, [rows.sample])
    if (isDoubted || (isLate && (await hasHours(db, rows.minute)))) await doubtMinutes(db, rows.minute)
    else {
      if (rows.second.length > 0) await copyInto(db, `history_second (${bucketColumns})`, [rows.second])
      if (rows.minute.length > 0) await copyInto(db, `history_minute (${bucketColumns})`, [rows.minute])
    }
    if (rows.late.length > 0) await copyInto(db, 'history_late (series, minute)', [rows.late])
    if (head.again.length > 0) await storeAgain(db, head.again)
    const before = reopened(state, head.reopens)
    const minutesTo = Math.max(head.minutesTo ?? 0, before.minutesTo)
    const noted = isLate ? [...stored, head.id].slice(-mostNoted).join(' ') : head.id
    await db.query('update history_state set parcel = $2, minutes_to = $3, hours_to = $4 where node = $1', [
      ...[name, noted, new Date(minutesTo), new Date(before.hoursTo)],
    ])
    return { parcel: noted, minutesTo, hoursTo: before.hoursTo }
  })
}

/** What was made before the clock was set back is made again where it comes again. */
const reopened = ({ minutesTo, hoursTo }: NodeState, from: number | null) =>
  from === null
    ? { minutesTo, hoursTo }
    : { minutesTo: Math.min(minutesTo, from), hoursTo: Math.min(hoursTo, bucketStart(from, tierMs.hour)) }

const partsFor = ({ head, rows }: Parcel): Part[] => {
  const shelves: Shelf[] = ['sample']
  if (rows.second.length > 0) shelves.push('second')
  if (rows.minute.length > 0) shelves.push('minute')
  const days = new Set(head.days)
  // where it is marked that nothing was recorded
  if (head.begins?.from) days.add(Math.floor(head.begins.from / dayMs))
  return [...days].flatMap((day) => shelves.map((shelf) => partAt(shelf, day * dayMs)))
}

/** What was recorded before has no closed minutes from some time on; and since then there is a gap. */
const beginAnew = async (
  db: Connection,
  { minutesTo }: NodeState,
  { from }: NonNullable<ParcelHead['begins']>,
  parts: KnownParts,
  far: string,
) => {
  await db.query(
    `insert into history_late (series, minute)
      select distinct sample.series, date_trunc('minute', sample.at, 'UTC') from history_sample sample
        join history_series on history_series.id = sample.series and history_series.node = $2
        where sample.at >= $1`,
    [new Date(minutesTo), far],
  )
  if (from === null) return
  await parts.require(db, [partAt('sample', from)])
  await db.query(
    `with gap as (
        insert into history_sample (series, at, arrived, quality)
        select id, $1, now(), $2 from history_series where recording and node = $3 returning series, at)
      insert into history_late (series, minute) select series, date_trunc('minute', at, 'UTC') from gap`,
    [new Date(from), quality.BadNoData | 0, far],
  )
}

/** Who stops to record a series that somebody else began to meanwhile says nothing about it any more. */
const storeSeries = async (db: Connection, series: ParcelHead['series'], far: string) => {
  await db.query(
    `insert into history_series (id, path, type, unit, recording, since, node)
      select *, $7 from unnest($1::int[], $2::text[], $3::text[], $4::text[], $5::boolean[], $6::timestamptz[])
      on conflict (id) do update
        set path = excluded.path, type = excluded.type, unit = excluded.unit, recording = excluded.recording, node = excluded.node
        where excluded.recording or history_series.node = excluded.node`,
    [
      series.map(({ id }) => id),
      series.map(({ path }) => path),
      series.map(({ type }) => type),
      series.map(({ unit }) => unit),
      series.map(({ recording }) => recording),
      series.map(({ at }) => new Date(at)),
      far,
    ],
  )
  if (far === '') return
  const ids = series.map(({ id }) => id)
  await db.query('insert into history_origin select id, $2 from unnest($1::int[]) id on conflict do nothing', [ids, far])
}

/**
 * Whether hours were made already that these minutes belong to: they are made again then. Whoever makes hours meanwhile is waited for,
 * or waits.
 */
const hasHours = async (db: Connection, minutes: Uint8Array): Promise<boolean> => {
  if (minutes.length === 0) return false
  const { rows } = await db.query<{ hours_to: Date }>('select hours_to from history_state where not far for share')
  const hoursTo = Math.max(...rows.map((row) => row.hours_to.getTime()))
  for (const [, at] of placesIn(minutes)) if (at < hoursTo) return true
  return false
}

/** Rollups of which others brought in the past, and since when and until when. */
export const foundLate = async (db: Connection): Promise<{ id: number; from: number; to: number }[]> => {
  const { rows } = await db.query<{ series: number; since: Date; upto: Date }>(
    'update history_again set noticed = true where not noticed returning series, since, upto',
  )
  return rows.map(({ series, since, upto }) => ({ id: series, from: since.getTime(), to: upto.getTime() }))
}

const storeAgain = async (db: Connection, again: ParcelHead['again']) => {
  const left = again.flatMap(({ id, span }) => (span ? [{ id, ...span }] : []))
  await db.query('delete from history_again where series = any($1) and noticed', [again.filter(({ isAll }) => isAll).map(({ id }) => id)])
  await db.query(
    `insert into history_again (series, since, upto, noticed)
      select series, since, upto, true from unnest($1::int[], $2::timestamptz[], $3::timestamptz[]) made (series, since, upto)
      on conflict (series) do update set since = least(history_again.since, excluded.since), upto = greatest(history_again.upto, excluded.upto)`,
    [left.map(({ id }) => id), left.map(({ from }) => new Date(from)), left.map(({ to }) => new Date(to))],
  )
}

/** Instead of minutes that were made already: that they are to be made again. */
const doubtMinutes = async (db: Connection, minutes: Uint8Array) => {
  await db.query('create temporary table if not exists doubted (like history_minute) on commit delete rows')
  await copyInto(db, `doubted (${bucketColumns})`, [minutes])
  await db.query('insert into history_late (series, minute) select series, at from doubted')
}

import type pg from 'pg'
import { bucketStart, tierMs, type Bucket } from '#core/history/bucket'
import { hourOf, minuteOf } from '#core/history/minuteBuckets'
import { addBucket, bucketColumns, readBucket, readColumns } from '#db/history/buckets'
import { copyInto, copyOut } from '#db/history/copying'
import { CopyRows } from '#db/history/copyRows'
import { partAt } from '#db/history/parts'
import { goodNumber } from '#core/history/goodNumber'
import { inTransaction, type KnownParts, type NodeState } from './storing'

type Connection = Pick<pg.ClientBase, 'query'>

/** So many minutes are mended in one step, and so many series in one step of an hour. */
const mostAtOnce = 1000

interface Place {
  series: number
  at: number
}

const literal = (at: number) => `'${new Date(at).toISOString()}'::timestamptz`
const valuesOf = (places: readonly Place[]) => places.map(({ series, at }) => `(${series}, ${literal(at)})`).join(',')

/**
 * Makes minutes again from their samples, where something came late or was not seen as a whole; and the hours over them.
 * @param oldest minutes before it have no samples any more, and stay as they are
 * @returns how many marks it worked off
 */
export const mendMinutes = (db: Connection, { hoursTo }: NodeState, oldest: number, parts: KnownParts): Promise<number> =>
  inTransaction(db, async () => {
    const { rows: marks } = await db.query<{ id: number; series: number; minute: Date }>(
      'select id, series, minute from history_late order by id limit $1',
      [mostAtOnce],
    )
    if (marks.length === 0) return 0
    const minutes = distinct(marks.map(({ series, minute }) => ({ series, at: minute.getTime() }))).filter(({ at }) => at >= oldest)
    if (minutes.length > 0) {
      await remakeMinutes(db, minutes, parts)
      const hours = distinct(minutes.map(({ series, at }) => ({ series, at: bucketStart(at, tierMs.hour) })))
      await remakeHours(
        db,
        hours.filter(({ at }) => at < hoursTo),
        parts,
      )
    }
    await db.query('delete from history_late where id = any($1)', [marks.map(({ id }) => id)])
    return marks.length
  })

/** Makes the next hour that is over, some series at a time. @returns how far hours are made now; null: there was nothing to do */
export const makeHour = async (
  db: Connection,
  node: string,
  { minutesTo, hoursTo }: NodeState,
  parts: KnownParts,
): Promise<number | null> => {
  const end = bucketStart(minutesTo, tierMs.hour)
  if (hoursTo >= end) return null
  const next = await db.query<{ at: Date | null }>('select min(at) as at from history_minute where at >= $1 and at < $2', [
    new Date(hoursTo),
    new Date(end),
  ])
  const first = next.rows[0]?.at?.getTime()
  const hour = first === undefined ? end : bucketStart(first, tierMs.hour)
  const done = hour === end ? end : hour + tierMs.hour
  await inTransaction(db, async () => {
    // whoever brings minutes of it meanwhile is waited for, or waits
    await db.query('select 1 from history_state where node = $1 for update', [node])
    if (hour < end) {
      const { rows } = await db.query<{ series: number }>('select distinct series from history_minute where at >= $1 and at < $2', [
        new Date(hour),
        new Date(done),
      ])
      for (let i = 0; i < rows.length; i += mostAtOnce)
        await remakeHours(
          db,
          rows.slice(i, i + mostAtOnce).map(({ series }) => ({ series, at: hour })),
          parts,
        )
    }
    await db.query('update history_state set hours_to = $2 where node = $1', [node, new Date(done)])
  })
  return done
}

const distinct = (places: readonly Place[]): Place[] => [...new Map(places.map((place) => [`${place.series} ${place.at}`, place])).values()]

const remakeMinutes = async (db: Connection, minutes: readonly Place[], parts: KnownParts) => {
  const asked = await copyOut(
    db,
    `select late.series, late.minute, sample.at, sample.quality, sample.number
      from (values ${valuesOf(minutes)}) late (series, minute)
      join history_sample sample on sample.series = late.series and sample.at >= late.minute and sample.at < late.minute + interval '1 minute'
      order by late.series, late.minute, sample.at, sample.arrived`,
  )
  const made = { minute: new CopyRows(), second: new CopyRows() }
  const at: number[] = []
  const end = ({ series, at: start }: Place, times: readonly number[], values: readonly number[]) => {
    const buckets = minuteOf(start, times, values)
    addBucket(made.minute, series, buckets.minute)
    for (const second of buckets.seconds) addBucket(made.second, series, second)
    at.push(start)
  }
  let place: Place | null = null
  let [times, values]: number[][] = [[], []]
  while (asked.next()) {
    const [series, start, time, code, number] = [asked.int4(), asked.time(), asked.time(), asked.int4(), asked.float8()]
    if (place === null || place.series !== series || place.at !== start) {
      if (place) end(place, times!, values!)
      place = { series, at: start }
      ;[times, values] = [[], []]
    }
    // of two at one time the one that came later holds
    const i = times!.at(-1) === time ? times!.length - 1 : times!.length
    times![i] = time
    values![i] = goodNumber(number, code)
  }
  if (place) end(place, times!, values!)
  const late = `(values ${valuesOf(minutes)}) late (series, minute)`
  await db.query(`delete from history_minute made using ${late} where made.series = late.series and made.at = late.minute`)
  await db.query(
    `delete from history_second made using ${late}
      where made.series = late.series and made.at >= late.minute and made.at < late.minute + interval '1 minute'`,
  )
  await store(db, 'minute', made.minute, at, parts)
  await store(db, 'second', made.second, at, parts)
}

const remakeHours = async (db: Connection, hours: readonly Place[], parts: KnownParts) => {
  if (hours.length === 0) return
  const asked = await copyOut(
    db,
    `select whole.hour, ${readColumns.replaceAll(/\w+/g, (name) => `minute.${name}`)}
      from (values ${valuesOf(hours)}) whole (series, hour)
      join history_minute minute on minute.series = whole.series and minute.at >= whole.hour and minute.at < whole.hour + interval '1 hour'
      order by minute.series, minute.at`,
  )
  const byHour = new Map<string, { place: Place; minutes: Bucket[] }>()
  while (asked.next()) {
    const [at, series] = [asked.time(), asked.int4()]
    const key = `${series} ${at}`
    const known = byHour.get(key) ?? { place: { series, at }, minutes: [] }
    known.minutes.push(readBucket(asked))
    byHour.set(key, known)
  }
  const made = new CopyRows()
  for (const { place, minutes } of byHour.values()) addBucket(made, place.series, hourOf(place.at, minutes))
  await db.query(
    `delete from history_hour made using (values ${valuesOf(hours)}) whole (series, hour) where made.series = whole.series and made.at = whole.hour`,
  )
  await store(
    db,
    'hour',
    made,
    hours.map(({ at }) => at),
    parts,
  )
}

const store = async (db: Connection, tier: 'second' | 'minute' | 'hour', rows: CopyRows, at: readonly number[], parts: KnownParts) => {
  if (rows.count === 0) return
  const needed = new Map(at.map((start) => partAt(tier, start)).map((part) => [part.name, part]))
  await parts.require(db, [...needed.values()])
  await copyInto(db, `history_${tier} (${bucketColumns})`, [rows.take()])
}

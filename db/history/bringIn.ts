import pg from 'pg'
import { bucketStart, tierMs } from '#core/history/bucket'
import type { PastSample } from '#core/history/pastTable'
import { copyInto } from './copying'
import { CopyRows } from './copyRows'
import { makePart, partAt, type Part } from './parts'

export interface SeriesBrought {
  id: number
  path: string
  type: string
  unit: string
}

/** So many rows go to the database in one step. */
const rowsAtOnce = 50_000
const connectMs = 3000

/**
 * Brings samples of the past in, all of them or none; the minutes that they fall into are marked to be made again.
 * @param seriesOf what is known of a series that was never recorded before
 */
export const bringIn = async (
  url: string,
  samples: Iterable<PastSample> | AsyncIterable<PastSample>,
  seriesOf: (id: number) => SeriesBrought,
): Promise<{ samples: number; series: number }> => {
  const db = new pg.Client({ connectionString: url, connectionTimeoutMillis: connectMs, application_name: 'conduit past' })
  await db.connect()
  try {
    await db.query('begin')
    const brought = await store(db, samples)
    await noteSeries(db, brought.since, seriesOf)
    await noteRollups(db, brought)
    await db.query('commit')
    return { samples: brought.count, series: brought.since.size }
  } finally {
    await db.end().catch(() => {})
  }
}

const store = async (db: pg.Client, samples: Iterable<PastSample> | AsyncIterable<PastSample>) => {
  const since = new Map<number, number>()
  const upTo = new Map<number, number>()
  const parts = new Map<string, Part>()
  const minutes = new Map<string, { series: number; at: number }>()
  const [now, rows] = [Date.now(), new CopyRows()]
  let count = 0
  const put = async () => {
    for (const part of parts.values()) await makePart(db, part)
    if (rows.count > 0) await copyInto(db, 'history_sample (series, at, arrived, quality, number, text)', [rows.take()])
  }
  for await (const { series, at, quality, number, text } of samples) {
    rows.row(6).int4(series).time(at).time(now).int4(quality | 0).float8OrNull(number) // prettier-ignore
    if (text === null) rows.null()
    else rows.text(text)
    const part = partAt('sample', at)
    parts.set(part.name, part)
    const minute = bucketStart(at, tierMs.minute)
    minutes.set(`${series} ${minute}`, { series, at: minute })
    since.set(series, Math.min(at, since.get(series) ?? Infinity))
    upTo.set(series, Math.max(at, upTo.get(series) ?? -Infinity))
    count++
    if (rows.count >= rowsAtOnce) await put()
  }
  await put()
  const late = new CopyRows()
  for (const { series, at } of minutes.values()) late.row(2).int4(series).time(at)
  if (late.count > 0) await copyInto(db, 'history_late (series, minute)', [late.take()])
  return { count, since, upTo }
}

/** Whatever is rolled up of these is to be made again. */
const noteRollups = async (db: pg.Client, { since, upTo }: { since: ReadonlyMap<number, number>; upTo: ReadonlyMap<number, number> }) => {
  const ids = [...since.keys()]
  await db.query(
    `insert into history_again (series, since, upto, noticed)
      select rollup.id, brought.since, brought.upto + interval '1 ms', false
        from unnest($1::int[], $2::timestamptz[], $3::timestamptz[]) brought (id, since, upto)
        join tag rolled on rolled.id = brought.id
        join tag rollup on rollup.source = 'property' and rollup.options -> 'made' ->> 'kind' = 'rollup'
          and rollup.options -> 'made' ->> 'of' = rolled.path
      on conflict (series) do update set noticed = false,
        since = least(history_again.since, excluded.since), upto = greatest(history_again.upto, excluded.upto)`,
    [ids, ids.map((id) => new Date(since.get(id)!)), ids.map((id) => new Date(upTo.get(id)!))],
  )
}

const noteSeries = async (db: pg.Client, since: ReadonlyMap<number, number>, seriesOf: (id: number) => SeriesBrought) => {
  for (const [id, at] of since) {
    const { path, type, unit } = seriesOf(id)
    await db.query(
      `insert into history_series (id, path, type, unit, recording, since) values ($1, $2, $3, $4, false, $5)
        on conflict (id) do update set since = least(history_series.since, excluded.since)`,
      [id, path, type, unit, new Date(at)],
    )
  }
}

import { sql } from 'kysely'
import { afterEach, expect, it } from 'vitest'
import { changeConfiguration } from '#db/configuration'
import { bringIn } from '#db/history/bringIn'
import { HistoryReader } from '#db/history/reader'
import { tierMs, type Bucket } from '#core/history/bucket'
import { hourOf, minuteOf } from '#core/history/minuteBuckets'
import { grouped } from '#core/lists/grouped'
import { quality } from '#core/tags/quality'
import { recordingContract } from '#core/history/settings'
import { tagDraft } from '#shared/tags'
import { closeAll, databaseFor, engineOn, stateFolderFor, type Closing } from '../support/engineOn'
import { until } from '../support/until'

const closing: Closing = []
afterEach(() => closeAll(closing))

const memoryTag = (path: string, start: number) =>
  tagDraft.parse({ path, source: { kind: 'memory', start }, type: 'float64', access: 'readwrite' })
const recording = (pattern: string, how: object = { kind: 'change' }) => recordingContract.parse({ pattern, how })

const recordedSite = async (recordings: ReturnType<typeof recording>[], paths = ['berth/1/power']) => {
  const database = await databaseFor(closing)
  const tags = paths.map((path) => memoryTag(path, 1))
  const { result: ids } = await changeConfiguration(database.db, 'test', 'made', async (editor) => {
    await editor.insert('recording', recordings)
    return (await editor.insert('tag', tags)).map(({ id }) => id)
  })
  return { database, ids }
}

const samplesOf = async (db: Awaited<ReturnType<typeof databaseFor>>['db'], path: string) => {
  const { rows } = await sql<{
    number: number | null
    quality: number
    at: Date
  }>`select number, quality, at from history where path = ${path} order by at, arrived`.execute(db)
  return rows
}

it('records every change of a tag, with quality and source time', async () => {
  const { database, ids } = await recordedSite([recording('berth/**')])
  const { engine } = await engineOn(closing, database)
  const handle = engine.tags.handleOf(ids[0]!)!
  const now = Date.now()
  // several at once, as a source that keeps what it had delivers them
  for (let i = 0; i < 5; i++) engine.table.set(handle, i * 10, quality.Good, now, now + i)
  engine.table.degrade(handle, quality.BadNoCommunication, now + 9)
  engine.table.flush()
  await until(async () => (await samplesOf(database.db, 'berth/1/power')).length >= 7)
  const samples = await samplesOf(database.db, 'berth/1/power')
  expect(samples.slice(1).map(({ number }) => number)).toEqual([0, 10, 20, 30, 40, 40])
  expect(samples.slice(1).map(({ at }) => at.getTime() - now)).toEqual([0, 1, 2, 3, 4, 9])
  expect(samples.at(-1)!.quality >>> 0).toBe(quality.BadNoCommunication)
})

it('goes on after a kill: what waited on disk arrives once, and the time between is a gap', async () => {
  const { database, ids } = await recordedSite([recording('berth/**')])
  const folder = stateFolderFor(closing)
  const first: Closing = []
  const { engine } = await engineOn(first, database, folder)
  const handle = engine.tags.handleOf(ids[0]!)!
  engine.table.set(handle, 7, quality.Good, Date.now())
  engine.table.flush()
  await until(async () => (await samplesOf(database.db, 'berth/1/power')).length >= 2)
  await closeAll(first)
  await engineOn(closing, database, folder)
  await until(async () => (await samplesOf(database.db, 'berth/1/power')).length >= 4)
  const samples = await samplesOf(database.db, 'berth/1/power')
  expect(samples.map(({ number }) => number)).toEqual([1, 7, null, 1])
  expect(samples[2]!.quality >>> 0).toBe(quality.BadNoData)
})

/** Deterministic, so that a failure comes again. */
const chance = (seed: number) => () => {
  seed = (seed * 1_664_525 + 1_013_904_223) >>> 0
  return seed / 2 ** 32
}

it('makes minutes and hours of what comes late, out of order, twice and not good as if it had come in order', async () => {
  const { database, ids } = await recordedSite([recording('berth/**')])
  const { engine } = await engineOn(closing, database)
  const handle = engine.tags.handleOf(ids[0]!)!
  const random = chance(14)
  const begin = Math.floor(Date.now() / tierMs.hour) * tierMs.hour - 3 * tierMs.hour
  const stream = Array.from({ length: 2500 }, (_, i) => ({
    at: begin + Math.floor(random() * 2.9 * tierMs.hour),
    value: i + random(),
    code: random() < 0.05 ? quality.BadNoCommunication : quality.Good,
  }))
  // a tenth is corrected later
  for (let i = 0; i < 250; i++) stream.push({ ...stream[i * 10]!, value: 5000 + i })
  for (const [i, { at, value, code }] of stream.entries()) {
    engine.table.set(handle, value, code, Date.now(), at)
    engine.table.flush()
    if (i % 500 === 499) await new Promise((resolve) => setTimeout(resolve, 300))
  }
  const late = async () => (await sql<{ late: number }>`select count(*)::int as late from history_late`.execute(database.db)).rows[0]!.late
  await until(async () => (await samplesOf(database.db, 'berth/1/power')).length > stream.length && (await late()) === 0)

  const last = new Map(stream.map((sample) => [sample.at, sample]))
  const inOrder = [...last.values()].sort((a, b) => a.at - b.at)
  const minutes = grouped(inOrder, ({ at }) => Math.floor(at / tierMs.minute) * tierMs.minute)
  const expected = [...minutes].map(([start, inside]) => {
    const values = inside.map(({ value, code }) => (code === quality.Good ? value : NaN))
    return minuteOf(
      start,
      inside.map(({ at }) => at),
      values,
    ).minute
  })
  const reader = new HistoryReader(database.url)
  closing.push(() => reader.close())
  const end = begin + 3 * tierMs.hour
  expect((await reader.buckets('minute', ids[0]!, begin, end, 1000)).map(plain)).toEqual(expected.map(plain))
  const hours = [0, 1, 2].map((i) => begin + i * tierMs.hour)
  const expectedHours = hours.map((start) =>
    hourOf(
      start,
      expected.filter(({ at }) => at >= start && at < start + tierMs.hour),
    ),
  )
  expect((await reader.buckets('hour', ids[0]!, begin, end, 10)).map(plain)).toEqual(expectedHours.map(plain))

  const [picture] = await reader.pictures([ids[0]!], begin, end, 400)
  const good = inOrder.filter(({ code }) => code === quality.Good).map(({ value }) => value)
  expect(picture!.statistics).toMatchObject({ least: Math.min(...good), most: Math.max(...good), samples: inOrder.length })
})

it('waits on disk while the database is away, and arrives once and in order when it is back', async () => {
  const { database, ids } = await recordedSite([recording('berth/**')])
  const { engine } = await engineOn(closing, database)
  const handle = engine.tags.handleOf(ids[0]!)!
  await until(async () => (await samplesOf(database.db, 'berth/1/power')).length === 1)
  // whoever writes is thrown out again and again, and comes back again and again
  const throwOut = () =>
    sql`select pg_terminate_backend(pid) from pg_stat_activity where application_name = 'conduit history' and datname = current_database()`.execute(
      database.db,
    )
  for (let i = 0; i < 300; i++) {
    engine.table.set(handle, 1000 + i, quality.Good, Date.now(), Date.now())
    engine.table.flush()
    if (i % 20 === 0) await throwOut()
    await new Promise((resolve) => setTimeout(resolve, 10))
  }
  await until(async () => (await samplesOf(database.db, 'berth/1/power')).length >= 301)
  const values = (await samplesOf(database.db, 'berth/1/power')).map(({ number }) => number)
  expect(values.slice(1)).toEqual(Array.from({ length: 300 }, (_, i) => 1000 + i))
  expect(engine.status().history).toMatchObject({ waiting: 0, lost: 0 })
})

it('takes a time that cannot be for that of its arrival, and says so', async () => {
  const { database, ids } = await recordedSite([recording('berth/**')])
  const { engine, journal } = await engineOn(closing, database)
  const handle = engine.tags.handleOf(ids[0]!)!
  const now = Date.now()
  for (const [value, at] of [
    [2, Date.UTC(2200, 0)],
    [3, Date.UTC(1970, 0, 2)],
  ] as const)
    engine.table.set(handle, value, quality.Good, now, at)
  engine.table.flush()
  await until(async () => (await samplesOf(database.db, 'berth/1/power')).length === 3)
  for (const { at } of await samplesOf(database.db, 'berth/1/power')) expect(Math.abs(at.getTime() - now)).toBeLessThan(60_000)
  await until(() => journal.entries.some(({ text }) => text.includes('which cannot be')))
  expect(engine.status().history.doubtful).toBe(2)
})

it('records as the closest recording says, at a pace or with a deadband, and leaves out what is not to be', async () => {
  const { database, ids } = await recordedSite(
    [
      recording('**', { kind: 'not' }),
      recording('berth/*/power', { kind: 'change', band: 5 }),
      recording('quay/lamp', { kind: 'period', every: 100 }),
    ],
    ['berth/1/power', 'berth/1/angle', 'quay/lamp'],
  )
  const { engine } = await engineOn(closing, database)
  const [power, angle] = ids.map((id) => engine.tags.handleOf(id)!)
  for (const value of [2, 4, 8, 9, 20]) {
    for (const handle of [power!, angle!]) engine.table.set(handle, value, quality.Good, Date.now())
    engine.table.flush()
  }
  await until(async () => (await samplesOf(database.db, 'quay/lamp')).length >= 5)
  expect((await samplesOf(database.db, 'berth/1/power')).map(({ number }) => number)).toEqual([1, 8, 20])
  expect(await samplesOf(database.db, 'berth/1/angle')).toEqual([])
  expect(new Set((await samplesOf(database.db, 'quay/lamp')).map(({ at }) => at.getTime() % 100))).toEqual(new Set([0]))
})

/** NaN is equal to itself here, and what only one that is still open has is left out. */
const plain = (bucket: Bucket) => {
  const { at, count, good, min, max, sum, spread, first, last, firstAt, lastAt, openedAt, holds, integral, seconds } = bucket
  return { at, count, good, min, max, sum, spread, first, last, firstAt, lastAt, openedAt, holds, integral, seconds }
}

it('takes in what was recorded elsewhere: its minutes and hours are made, and all of it can be drawn', async () => {
  const { database, ids } = await recordedSite([recording('berth/**')])
  const { engine } = await engineOn(closing, database)
  await until(async () => (await samplesOf(database.db, 'berth/1/power')).length >= 1)
  const hour = Math.floor(Date.now() / 3_600_000) * 3_600_000 - 2 * 3_600_000
  const samples = Array.from({ length: 3600 }, (_, i) => ({
    series: ids[0]!,
    at: hour + i * 1000,
    quality: 0,
    number: i % 100,
    text: null,
  }))
  const facts = () => ({ id: ids[0]!, path: 'berth/1/power', type: 'float64', unit: '' })
  expect(await bringIn(database.url, samples, facts)).toEqual({ samples: 3600, series: 1 })
  const countOf = async (table: string) => {
    const { rows } = await sql<{ n: number }>`select count(*)::int as n from ${sql.table(table)} where at >= ${new Date(hour)} and at < ${new Date(hour + 3_600_000)}`.execute(database.db) // prettier-ignore
    return rows[0]!.n
  }
  await until(async () => (await countOf('history_minute')) === 60 && (await countOf('history_hour')) === 1)
  const [interval] = await engine.history.past.intervals(ids[0]!, [hour, hour + 3_600_000])
  expect(interval!.whole).toMatchObject({ count: 3600, min: 0, max: 99, sum: 3600 * 49.5 })
  const failing = (function* () {
    yield { ...samples[0]!, at: hour - 1000 }
    throw new Error('a line that is wrong')
  })()
  await expect(bringIn(database.url, failing, facts)).rejects.toThrow('a line that is wrong')
  expect((await samplesOf(database.db, 'berth/1/power')).filter(({ at }) => at.getTime() === hour - 1000)).toEqual([])
})

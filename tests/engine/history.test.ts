import { sql } from 'kysely'
import { afterEach, expect, it } from 'vitest'
import { changeConfiguration } from '#db/configuration'
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

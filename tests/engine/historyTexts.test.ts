import pg from 'pg'
import { afterEach, expect, it } from 'vitest'
import { quality } from '#core/tags/quality'
import { recordingContract } from '#core/history/settings'
import type { TagValue } from '#core/tags/types'
import { changeConfiguration } from '#db/configuration'
import { HistoryReader } from '#db/history/reader'
import { textsOf } from '#db/history/texts'
import { tagDraft } from '#shared/tags'
import { closeAll, databaseFor, engineOn, type Closing } from '../support/engineOn'
import { until } from '../support/until'

/** Series of texts, as they come back for a picture. */

const closing: Closing = []
afterEach(() => closeAll(closing))

const site = async () => {
  const database = await databaseFor(closing)
  const tags = [
    tagDraft.parse({ path: 'berth/ship', source: { kind: 'memory', start: 'Skua' }, type: 'string' }),
    tagDraft.parse({ path: 'berth/state', source: { kind: 'memory', start: 0 }, type: 'int16' }),
  ]
  const { result: ids } = await changeConfiguration(database.db, 'test', 'made', async (editor) => {
    await editor.insert('recording', [recordingContract.parse({ pattern: 'berth/**', how: { kind: 'change' } })])
    return (await editor.insert('tag', tags)).map(({ id }) => id)
  })
  const { engine } = await engineOn(closing, database)
  const reader = new HistoryReader(database.url)
  closing.push(() => reader.close())
  const [ship, state] = ids.map((id) => engine.tags.handleOf(id)!)
  const tell = (handle: number, value: TagValue, at: number, code: number = quality.Good) => {
    engine.table.set(handle, value, code, Date.now(), at)
    engine.table.flush()
  }
  return { url: database.url, reader, ids, ship: ship!, state: state!, tell }
}

it('tells which text there was when: the same once, others apart, with what was not good as a gap', async () => {
  const { reader, ids, ship, tell } = await site()
  const begin = Math.floor(Date.now() / 1000) * 1000 - 3_600_000
  const at = (minute: number) => begin + minute * 60_000
  tell(ship, 'Tern', at(0))
  tell(ship, 'Tern', at(5), quality.Good)
  tell(ship, 'Fulmar “II”\n☂\0', at(10))
  tell(ship, 'Fulmar “II”\n☂\0', at(20), quality.BadNoCommunication)
  tell(ship, 'x'.repeat(5000), at(30))
  tell(ship, 'Puffin', at(40))
  // another one takes the place of one that was told before
  tell(ship, 'Gannet', at(40))
  const asked = () => reader.texts([ids[0]!], begin, at(50), 100, at(45))
  await until(async () => (await asked())[0]!.samples >= 6)
  const [texts] = await asked()
  expect(texts!.runs.map(({ from, to, text }) => [(from - begin) / 60_000, (to - begin) / 60_000, text])).toEqual([
    [0, 10, 'Tern'],
    [10, 20, 'Fulmar “II”\n☂⟨U+0000⟩'],
    [30, 40, 'x'.repeat(200)],
    [40, 45, 'Gannet'],
  ])
  expect(texts!.gaps).toEqual([[at(20), at(30)]])
  expect(texts).toMatchObject({ isFirst: true, seconds: 35 * 60 })
})

it('goes on with what there was before the span, also of numbers', async () => {
  const { reader, ids, state, tell } = await site()
  const now = Date.now() - 600_000
  tell(state, 30, now - 60_000)
  tell(state, 40, now - 1000)
  const asked = () => reader.texts([ids[1]!, ids[0]!], now - 30_000, now, 300)
  await until(async () => (await asked())[0]!.samples === 1)
  const [first, second] = await asked()
  expect(first!.runs.map(({ from, to, text }) => [from - now, to - now, text])).toEqual([
    [-30_000, -1000, '30'],
    [-1000, 0, '40'],
  ])
  expect([first!.isFirst, second!.id]).toEqual([false, ids[0]])
})

it('of many changes gives no more than a picture can show', async () => {
  const { reader, ids, ship, tell } = await site()
  const begin = Date.now() - 60_000
  for (let i = 0; i < 3000; i++) tell(ship, `call ${i}`, begin + i * 10)
  const asked = () => reader.texts([ids[0]!], begin, begin + 30_000, 50)
  await until(async () => (await asked())[0]!.samples === 3000)
  const [texts] = await asked()
  expect(texts!.runs).toEqual([expect.objectContaining({ several: 3000, text: 'call 2999', from: begin })])
})

it('looks through no more than there is time for, and says since when', async () => {
  const { url, reader, ids, ship, tell } = await site()
  const hour = Math.floor(Date.now() / 3_600_000) * 3_600_000 - 3 * 3_600_000
  for (let i = 0; i < 900; i++) tell(ship, `call ${i}`, hour + i * 1000)
  for (let i = 0; i < 90; i++) tell(ship, `stay ${i}`, hour + 3_600_000 + i * 1000)
  const client = new pg.Client({ connectionString: url })
  await client.connect()
  closing.push(() => client.end())
  const asked = { from: hour, to: hour + 7_200_000, until: hour + 7_200_000, columns: 100_000 }
  // minutes of what came late are made again
  await until(async () => (await textsOf(client, ids[0]!, asked, 500)).since !== null)
  const some = await textsOf(client, ids[0]!, asked, 500)
  expect(some).toMatchObject({ since: hour + 3_600_000, isFirst: false, samples: 90 })
  expect(some.runs[0]).toMatchObject({ from: hour + 3_600_000, text: 'stay 0' })
  const [all] = await reader.texts([ids[0]!], asked.from, asked.to, asked.columns)
  expect(all).toMatchObject({ since: null, samples: 990 })
  expect(all!.runs).toHaveLength(990)
})

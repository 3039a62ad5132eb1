import { afterEach, expect, it } from 'vitest'
import { changeConfiguration } from '#db/configuration'
import { evidenceOf } from '#engine/live/evidence'
import { linkContract } from '#shared/links/link'
import { tagDraft } from '#shared/tags'
import { closeAll, databaseFor, engineOn, metersFor, type Closing } from '../support/engineOn'
import { until } from '../support/until'

/** What is attached to a check: the value, how it is made, and the frames that brought it, of many that passed. */

const closing: Closing = []
afterEach(() => closeAll(closing))

it('holds the frame that brought the value, with what was asked, beside those of another unit that says the same; a tag of no link has none', async () => {
  const { port } = await metersFor(closing)
  const database = await databaseFor(closing)
  const { result: ids } = await changeConfiguration(database.db, 'test', 'made', async (editor) => {
    const link = { name: 'Meters', kind: 'modbus-tcp', settings: { host: '127.0.0.1', port, unit: 11, interval: 100 } }
    const [made] = await editor.insert('link', [linkContract.parse(link)])
    const point = (path: string, address: string) => ({
      path,
      type: 'float32',
      source: { kind: 'point', linkId: made!.id, address, options: { order: 'ABCD' } },
    })
    const memory = { path: 'memory', type: 'int32', access: 'readwrite', source: { kind: 'memory', start: 5 } }
    const tags = [point('power', 'holding/40'), memory, point('power of the other', '12:holding/40')].map((tag) => tagDraft.parse(tag))
    return (await editor.insert('tag', tags)).map(({ id }) => id)
  })
  const { engine, qualityOf } = await engineOn(closing, database)
  await until(
    () => [ids[0]!, ids.at(-1)!].map(qualityOf),
    (all) => all.every((quality) => quality === 0),
  )
  const evidence = (await evidenceOf(ids[0]!, engine))!
  expect(evidence.frames.map(({ out }) => out)).toEqual([true, false])
  const [asked, came] = evidence.frames.map(({ bytes }) => Buffer.from(bytes, 'base64'))
  // one transaction of unit 11, function 3
  expect(came!.subarray(0, 2)).toEqual(asked!.subarray(0, 2))
  expect([asked![6], asked![7]]).toEqual([11, 3])
  const words = evidence.stages[0]!.text.replaceAll(' ', '').toLowerCase()
  expect(came!.toString('hex')).toContain(words)
  expect(evidence.quality).toBe(0)
  expect(Number(evidence.value)).toBeCloseTo(Buffer.from(words, 'hex').readFloatBE(), 1)

  const memory = (await evidenceOf(ids[1]!, engine))!
  expect([memory.value, memory.frames]).toEqual(['5', []])
  expect(await evidenceOf(999_999, engine)).toBeNull()
})

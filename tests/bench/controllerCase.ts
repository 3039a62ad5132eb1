import { usualOdd } from '#core/tags/odd'
import type { Point } from '#engine/links/driver'
import { IsoTcpSession } from '#engine/links/isotcp/session'
import { TagTable } from '#engine/table/tagTable'
import { Wire } from '#engine/wire/wire'
import { Meters } from '#core/statistics/meters'
import { noArrivals } from '../support/arrivals'
import { controllerSettings } from '../support/controller'
import { memoryJournal } from '../support/modbusSession'
import { startChild } from './child'
import { blocksByHand, PlainController, readBlocks, readTagByTag, widthOf, type PlainTag } from './controllerPlain'
import { perSecond, times, type Section } from './report'

const seconds = 4

/** Three blocks of a thousand tags each: words and reals, with a gap now and then. */
const tags: PlainTag[] = [1, 2, 3].flatMap((block) => {
  let offset = 0
  return Array.from({ length: 1000 }, (_, i): PlainTag => {
    const tag = { path: `block ${block}/${i}`, block, offset, type: i % 3 === 0 ? ('int16' as const) : ('float32' as const) }
    offset += widthOf(tag) + (i % 50 === 49 ? 30 : 0)
    return tag
  })
})

const measurePlain = async (round: () => Promise<void>, count: number) => {
  await round()
  const started = performance.now()
  let rounds = 0
  while (performance.now() - started < seconds * 1000) {
    await round()
    rounds++
  }
  return (rounds * count) / ((performance.now() - started) / 1000)
}

/** Every answer brings new values, so that changes in the tag table count the tags read. */
const measureOurs = async (port: number, connections: number) => {
  const table = new TagTable()
  const settings = controllerSettings(port, { interval: 10, requests: { connections } })
  const session = new IsoTcpSession({
    ...{ meters: new Meters(), arrivals: noArrivals(), roots: () => [], wire: new Wire(), name: 'bench' },
    ...{ settings, table, journal: memoryJournal() },
  })
  const points = tags.map(({ path, block, offset, type }): Point => ({
    ...{ handle: table.allocate(), path, address: `DB${block}.${offset}`, type, options: {} },
    ...{ access: 'read', interval: null, scaling: null, odd: usualOdd },
  }))
  session.setPoints(points, [])
  while (table.goodCount < tags.length) await new Promise((resolve) => setTimeout(resolve, 5))
  const before = table.changes
  const started = performance.now()
  await new Promise((resolve) => setTimeout(resolve, seconds * 1000))
  const rate = (table.changes - before) / ((performance.now() - started) / 1000)
  await session.close()
  return rate
}

export const controllerCase = async (): Promise<Section> => {
  const { child, first: port } = await startChild<number>('controllerDevice.ts')
  const plain = await PlainController.open(port)
  const values = new Map<string, number>()
  const some = tags.slice(0, 300)
  const blocks = blocksByHand(tags)
  const single = await measurePlain(() => readTagByTag(plain, some, values), some.length)
  const byHand = await measurePlain(() => readBlocks(plain, blocks, values), tags.length)
  plain.close()
  const one = await measureOurs(port, 1)
  const two = await measureOurs(port, 2)
  child.kill()
  const row = (what: string, mine: number, theirs: number, aim: string) => ({
    ...{ what, ours: perSecond(mine), plain: perSecond(theirs), ratio: times(mine / theirs), aim },
  })
  return {
    title: 'Reading 3,000 tags of a controller, 1 ms turnaround',
    how: 'Tags read per second over ISO-on-TCP, 240 bytes a request, one under way per connection. Plain: the bare codec on one connection, once tag by tag, once in blocks chosen by hand. Ours: the link with its planner, decoding into the tag table.',
    rows: [
      row('against tag by tag', one, single, 'over 20'),
      row('against blocks by hand', one, byHand, 'at least 0.95'),
      row('two connections, against blocks by hand', two, byHand, 'above 1.5'),
    ],
  }
}

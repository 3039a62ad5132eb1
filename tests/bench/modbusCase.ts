import { usualOdd } from '#core/tags/odd'
import type { Point } from '#engine/links/driver'
import { ModbusSession } from '#engine/links/modbus/session'
import { TagTable } from '#engine/table/tagTable'
import { memoryJournal, settingsFor } from '../support/modbusSession'
import { startDevice } from './child'
import { blocksByHand, connectPlain, readBlocks, readTagByTag } from './plainModbus'
import { perSecond, times, type Section } from './report'
import { benchTags } from './tags'
import { noArrivals } from '../support/arrivals'
import { Wire } from '#engine/wire/wire'
import { Meters } from '#core/statistics/meters'

const units = [11, 12, 13]
const tags = benchTags(3000, units)
const seconds = 4

/** Runs rounds until the time is up; tags per second. */
const measurePlain = async (round: () => Promise<void>) => {
  await round()
  const started = performance.now()
  let rounds = 0
  while (performance.now() - started < seconds * 1000) {
    await round()
    rounds++
  }
  return (rounds * tags.length) / ((performance.now() - started) / 1000)
}

/** Every reply brings new values, so that changes in the tag table count the tags read. */
const measureOurs = async (port: number, requests: { connections: number; inFlight: number }) => {
  const table = new TagTable()
  const settings = settingsFor(port, { interval: 10, requests })
  const session = new ModbusSession(
    {
      meters: new Meters(),
      arrivals: noArrivals(),
      roots: () => [],
      wire: new Wire(),
      name: 'bench',
      settings,
      table,
      journal: memoryJournal(),
    },
    (same) => same,
  )
  const points = tags.map(({ path, unit, offset, type }): Point => ({
    handle: table.allocate(),
    path,
    address: `${unit}:holding/${offset}`,
    type,
    options: {},
    access: 'read',
    interval: null,
    scaling: null,
    odd: usualOdd,
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

export const modbusCase = async (): Promise<Section> => {
  const { child, first: port } = await startDevice(1)
  const plain = await connectPlain(port, units)
  const values = new Map<string, number>()
  const blocks = blocksByHand(tags)
  const single = await measurePlain(() => readTagByTag(plain.clients, tags.slice(0, 300), values)).then((rate) => rate / 10)
  const byHand = await measurePlain(() => readBlocks(plain.clients, blocks, values))
  plain.close()
  const ours = await measureOurs(port, { connections: 1, inFlight: 1 })
  const two = await measureOurs(port, { connections: 1, inFlight: 2 })
  const byDefault = await measureOurs(port, { connections: 4, inFlight: 1 })
  child.kill()
  const row = (what: string, mine: number, theirs: number, aim: string) => ({
    what,
    ours: perSecond(mine),
    plain: perSecond(theirs),
    ratio: times(mine / theirs),
    aim,
  })
  return {
    title: 'Reading 3,000 tags on 3 units, 1 ms turnaround',
    how: 'Tags read per second. Plain: the public `jsmodbus` package on one connection, once tag by tag, once in blocks chosen by hand. Ours: the link with its read planner, decoding into the tag table.',
    rows: [
      row('against tag by tag', ours, single, 'over 20'),
      row('against blocks by hand', ours, byHand, 'at least 0.95'),
      row('two requests under way, against blocks by hand', two, byHand, 'above 1'),
      row('as a link comes (a connection per unit), against blocks by hand', byDefault, byHand, '—'),
    ],
  }
}

import { usualOdd } from '#core/tags/odd'
import type { Point } from '#engine/links/driver'
import { BacnetSession } from '#engine/links/bacnet/session'
import { TagTable } from '#engine/table/tagTable'
import { Wire } from '#engine/wire/wire'
import { Meters } from '#core/statistics/meters'
import { BacnetClient } from '../../standins/bacnet/stack'
import { freePort } from '../../launcher/ports.mjs'
import { noArrivals } from '../support/arrivals'
import { memoryJournal } from '../support/modbusSession'
import { deviceSettings } from '../support/substation'
import { startChild } from './child'
import { perSecond, times, type Section } from './report'

const seconds = 4
const objects = Array.from({ length: 1000 }, (_, i) => i + 1)
const presentValue = 85
const inOneRequest = 60

type Client = InstanceType<typeof BacnetClient>

/** What a script has: the package, one request after the other. */
const onePropertyAfterTheOther = async (client: Client, address: string, values: Map<number, unknown>) => {
  for (const instance of objects.slice(0, 200)) {
    const { values: read } = await client.readProperty({ address }, { type: 0, instance }, presentValue)
    values.set(instance, read[0]!.value)
  }
  return 200
}

/** The same with requests that somebody has put together by hand. */
const manyByHand = async (client: Client, address: string, values: Map<number, unknown>) => {
  for (let from = 0; from < objects.length; from += inOneRequest) {
    const part = objects.slice(from, from + inOneRequest)
    const wanted = part.map((instance) => ({ objectId: { type: 0, instance }, properties: [{ id: presentValue }] }))
    const { values: read } = await client.readPropertyMultiple({ address }, wanted as never)
    for (const { objectId, values: found } of read as { objectId: { instance: number }; values: { value: { value: unknown }[] }[] }[])
      values.set(objectId.instance, found[0]!.value[0]!.value)
  }
  return objects.length
}

const measurePlain = async (round: () => Promise<number>) => {
  await round()
  const started = performance.now()
  let read = 0
  while (performance.now() - started < seconds * 1000) read += await round()
  return read / ((performance.now() - started) / 1000)
}

/** Every answer brings new values, so that changes in the tag table count the objects read. */
const measureOurs = async (port: number) => {
  const table = new TagTable()
  const settings = deviceSettings(port, { interval: 100, patience: { answer: 2000 }, requests: { flags: false } })
  const session = new BacnetSession({
    ...{ meters: new Meters(), arrivals: noArrivals(), roots: () => [], wire: new Wire(), name: 'bench' },
    ...{ settings, table, journal: memoryJournal() },
  })
  const points = objects.map((instance): Point => ({
    ...{ handle: table.allocate(), path: `point ${instance}`, address: `7:AI${instance}`, type: 'float32', options: {} },
    ...{ access: 'read', interval: 10, scaling: null, odd: usualOdd },
  }))
  session.setPoints(points, [])
  while (table.goodCount < objects.length) await new Promise((resolve) => setTimeout(resolve, 5))
  const before = table.changes
  const started = performance.now()
  await new Promise((resolve) => setTimeout(resolve, seconds * 1000))
  const rate = (table.changes - before) / ((performance.now() - started) / 1000)
  await session.close()
  return rate
}

export const bacnetCase = async (): Promise<Section> => {
  const { child, first: port } = await startChild<number>('bacnetDevice.ts')
  const client = new BacnetClient({ port: await freePort(), interface: '127.0.0.1', apduTimeout: 2000 })
  const values = new Map<number, unknown>()
  const address = `127.0.0.1:${port}`
  const single = await measurePlain(() => onePropertyAfterTheOther(client, address, values))
  const byHand = await measurePlain(() => manyByHand(client, address, values))
  client.close()
  const ours = await measureOurs(port)
  child.kill()
  const row = (what: string, theirs: number, aim: string) => ({
    ...{ what, ours: perSecond(ours), plain: perSecond(theirs), ratio: times(ours / theirs), aim },
  })
  return {
    title: 'Reading 1,000 objects of a BACnet/IP device, 1 ms turnaround',
    how: 'Present values read per second, one request under way. Plain: the public package, once property after property, once 60 objects in a request put together by hand. Ours: the link with its planner, decoding into the tag table.',
    rows: [row('against property by property', single, 'over 10'), row('against requests by hand', byHand, 'at least 0.85')],
  }
}

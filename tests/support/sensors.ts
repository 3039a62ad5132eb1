import type { DeviceDescription } from '#core/iolink/description/description'
import { ioLinkSettings, type IoLinkSettings } from '#core/iolink/settings'
import { IoLinkSession } from '#engine/links/iolink/session'
import { TagTable } from '#engine/table/tagTable'
import { Wire } from '#engine/wire/wire'
import { Meters } from '#core/statistics/meters'
import { SensorMaster } from '../../standins/iolink/master'
import { Sensor } from '../../standins/iolink/sensor'
import { noArrivals } from './arrivals'
import { byAddress } from './byAddress'
import type { Closing } from './engineOn'
import { memoryJournal } from './modbusSession'
import { pointsIn, type Wanted } from './points'
import { testSecurity } from './security'

/** A master on a free port, with sensors in it from port 1 on. */
export const startMaster = async (closing: Closing, ...documents: string[]) => {
  const master = new SensorMaster()
  const port = await master.listen(0)
  closing.push(() => master.close())
  const sensors = documents.map((document, i) => new Sensor(document, `S-${i + 1}`))
  for (const [i, sensor] of sensors.entries()) master.plug(i + 1, sensor)
  return { master, sensors, base: `http://127.0.0.1:${port}/iolink/v1` }
}

export const masterSettings = (base: string, more: object = {}): IoLinkSettings =>
  ioLinkSettings.parse({
    ...{ base, interval: 50, parameters: 200, look: 200 },
    patience: { connect: 500, answer: 400, retryFirst: 100, retryMost: 300 },
    ...more,
  })

/** A session of a link to a master with a tag table of its own, and values by address. */
export const openMaster = async (
  closing: Closing,
  settings: IoLinkSettings,
  wanted: Wanted[],
  descriptions: readonly DeviceDescription[] = [],
) => {
  const [table, journal] = [new TagTable(), memoryJournal()]
  const session = new IoLinkSession({
    ...{ name: 'Arm sensors', settings, table, journal, wire: new Wire(), security: await testSecurity() },
    ...{ roots: () => [], meters: new Meters(), arrivals: noArrivals() },
    described: (vendorId, deviceId) => descriptions.find((one) => one.vendorId === vendorId && one.deviceId === deviceId) ?? null,
  })
  closing.unshift(() => session.close())
  const points = pointsIn(table, wanted)
  session.setPoints(points, [])
  return {
    ...{ session, table, journal, points },
    ...byAddress(session, table, points),
    told: () => journal.entries.map(({ text }) => text).join('\n'),
    port: (number: number) => session.sensorPorts().find(({ port }) => port === number),
  }
}

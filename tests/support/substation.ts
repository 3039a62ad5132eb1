import { bacnetSettings, type BacnetSettings } from '#core/bacnet/settings'
import { BacnetSession } from '#engine/links/bacnet/session'
import { TagTable } from '#engine/table/tagTable'
import { Wire } from '#engine/wire/wire'
import { Meters } from '#core/statistics/meters'
import { BacnetDevice, type DeviceOptions } from '../../standins/bacnet/device'
import { noArrivals } from './arrivals'
import { byAddress } from './byAddress'
import type { Closing } from './engineOn'
import { memoryJournal } from './modbusSession'
import { pointsIn, type Wanted } from './points'

/** A device that another maker’s stack speaks for, on a free port. */
export const startDevice = async (closing: Closing, more: Partial<DeviceOptions> = {}) => {
  const device = new BacnetDevice({ instance: 7, name: 'Test device', vendor: 'Harrow Air Works', model: 'T-1', ...more })
  const port = await device.listen(0)
  closing.push(() => Promise.resolve(device.close()))
  return { device, port }
}

/** A link that knows where device 7 is. */
export const deviceSettings = (port: number, more: object = {}): BacnetSettings =>
  bacnetSettings.parse({
    ...{ localAddress: '127.0.0.1', port: 0, broadcast: '127.0.0.9', interval: 100, devices: [{ instance: 7, host: '127.0.0.1', port }] },
    patience: { answer: 200, repeats: 0, retryFirst: 100, retryMost: 300 },
    notices: { kind: 'off' },
    ...more,
  })

/** A session of a link to building services with a tag table of its own, and values by address. */
export const openBacnet = (closing: Closing, settings: BacnetSettings, wanted: Wanted[]) => {
  const [table, journal] = [new TagTable(), memoryJournal()]
  const session = new BacnetSession({
    ...{ name: 'Building services', settings, table, journal, wire: new Wire() },
    ...{ roots: () => [], meters: new Meters(), arrivals: noArrivals() },
  })
  closing.unshift(() => session.close())
  const points = pointsIn(table, wanted)
  session.setPoints(points, [])
  return {
    ...{ session, table, journal, points },
    ...byAddress(session, table, points),
    told: () => journal.entries.map(({ text }) => text).join('\n'),
  }
}

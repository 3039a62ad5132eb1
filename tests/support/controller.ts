import { isoTcpSettings, type IsoTcpSettings } from '#core/isotcp/settings'
import { IsoTcpSession } from '#engine/links/isotcp/session'
import { TagTable } from '#engine/table/tagTable'
import { Wire } from '#engine/wire/wire'
import { Meters } from '#core/statistics/meters'
import { Controller, type ControllerOptions } from '../../standins/isotcp/controller'
import { noArrivals } from './arrivals'
import { byAddress } from './byAddress'
import type { Closing } from './engineOn'
import { memoryJournal } from './modbusSession'
import { pointsIn, type Wanted } from './points'

/** A controller in rack 0, slot 2, that answers at once. */
export const startController = async (closing: Closing, more: Partial<ControllerOptions> = {}) => {
  const controller = new Controller({ rack: 0, slot: 2, connections: 8, size: 240, parallel: 2, turnaround: 0, ...more })
  const port = await controller.listen(0)
  closing.push(() => controller.close())
  return { controller, port, memory: controller.memory }
}

export const controllerSettings = (port: number, more: object = {}): IsoTcpSettings =>
  isoTcpSettings.parse({
    ...{ host: '127.0.0.1', port, way: { by: 'slot', rack: 0, slot: 2 }, interval: 50 },
    patience: { connect: 500, answer: 300, retryFirst: 100, retryMost: 300 },
    ...more,
  })

/** A session of a link to a controller with a tag table of its own, and values by address. */
export const openController = (closing: Closing, settings: IsoTcpSettings, wanted: Wanted[]) => {
  const [table, journal] = [new TagTable(), memoryJournal()]
  const session = new IsoTcpSession({
    ...{ name: 'Converter', settings, table, journal, wire: new Wire() },
    ...{ roots: () => [], meters: new Meters(), arrivals: noArrivals() },
  })
  closing.unshift(() => session.close())
  const points = pointsIn(table, wanted)
  session.setPoints(points, [])
  return { session, table, journal, points, ...byAddress(session, table, points) }
}

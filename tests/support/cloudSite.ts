import { changeConfiguration } from '#db/configuration'
import { thingsOf } from '#db/rows'
import { propertyTags } from '#core/equipment/made'
import { Model } from '#core/equipment/model'
import { classContract, equipmentContract } from '#core/equipment/settings'
import { quality } from '#core/tags/quality'
import type { TagValue } from '#core/tags/types'
import type { Engine } from '#engine/engine'
import { tagOfProperty } from '#shared/equipment/tags'
import type { CloudPlatformDetails } from '#shared/outlets/cloudPlatformStatus'
import { outletContract } from '#shared/outlets/outlet'
import { tagDraft } from '#shared/tags'
import { CloudDoor } from '#standins/cloud/http'
import { CloudBroker } from '#standins/cloud/mqtt'
import { cloudToken, PortCloud } from '#standins/cloud/platform'
import { pairFor } from '#standins/pair'
import { databaseFor, type Closing } from './engineOn'

export const machine = classContract.parse({
  name: 'Machine',
  properties: [{ name: 'maker', type: 'string', made: { kind: 'constant', value: 'Quayside' } }],
})
export const feeder = classContract.parse({
  name: 'Feeder',
  parent: 'Machine',
  properties: [
    { name: 'rated', unit: 'kW', made: { kind: 'constant', value: 200 } },
    { name: 'power', unit: 'kW', made: { kind: 'input' } },
    { name: 'load', unit: '%', made: { kind: 'formula', formula: '100 * power / rated' } },
  ],
})
const pieces = [
  { path: 'Berth 1', level: 'area' },
  {
    path: 'Berth 1/Feeder A',
    class: 'Feeder',
    bindings: { power: 'meter/power' },
    relations: [{ kind: 'backed up by', to: 'Berth 1/Feeder B' }],
  },
  { path: 'Berth 1/Feeder B', class: 'Feeder', constants: { rated: 90 } },
].map((one) => equipmentContract.parse(one))

/** The platform with both of its doors, on free ports. */
export const cloudFor = async (closing: Closing) => {
  const cloud = new PortCloud()
  const door = new CloudDoor(cloud, '')
  const pair = await pairFor('cloud')
  const broker = new CloudBroker(cloud, pair)
  closing.push(
    () => door.close(),
    () => broker.close(),
  )
  const [port, mqttPort] = [await door.listen(0), await broker.listen(0)]
  return { cloud, door, port, mqttPort, authority: pair.cert, site: () => cloud.sites.get('harbour') }
}
type Cloud = Awaited<ReturnType<typeof cloudFor>>

const quick = { patience: { connect: 1000, answer: 1500, retryFirst: 500, retryMost: 2000 } }
export const byHttp = ({ port }: Pick<Cloud, 'port'>) => ({
  kind: 'http',
  base: `http://127.0.0.1:${port}/v1`,
  signIn: { kind: 'bearer', token: { plain: cloudToken } },
  ...quick,
})
export const byMqtt = ({ mqttPort, authority }: Cloud) => ({
  ...{ kind: 'mqtt', host: '127.0.0.1', port: mqttPort, tls: { mode: 'verified', authority } },
  identity: { kind: 'password', user: 'harbour', password: { plain: cloudToken } },
  ...quick,
})

/** A site with two feeders, a loose tag and a platform that it sends to. */
export const siteWith = async (closing: Closing, way: object, more: object = {}) => {
  const database = await databaseFor(closing)
  const memory = (path: string, unit: string) =>
    tagDraft.parse({ path, source: { kind: 'memory', start: 10 }, type: 'float64', unit, access: 'readwrite' })
  const settings = { way, site: 'harbour', streams: [{ folder: 'meter' }], sending: { every: 50 }, ...more }
  const outlet = outletContract.parse({ name: 'Cloud', kind: 'cloud-platform', settings })
  const { result } = await changeConfiguration(database.db, 'test', 'made', async (editor) => {
    await editor.insert('tag', [memory('meter/power', 'kW'), memory('meter/volts', 'V')])
    await editor.insert('equipmentClass', [machine, feeder])
    const rows = await editor.insert('equipment', pieces)
    const model = new Model([machine, feeder], thingsOf('equipment', rows))
    const tags = [...model.equipment.values()].flatMap((one) => propertyTags(model, one).map(tagOfProperty))
    await editor.insert('tag', tags)
    const [row] = await editor.insert('outlet', [outlet])
    return row!.id
  })
  return { ...database, outletId: result, settings: outlet.settings }
}

export const detailsOf = (engine: Engine): CloudPlatformDetails | null => {
  const details = engine.status().outlets[0]?.details
  return details?.kind === 'cloud-platform' ? details : null
}

export const setTag = (engine: Engine, path: string, value: TagValue, at = Date.now()) => {
  engine.table.set(engine.tags.byPath(path)!.handle, value, quality.Good, Date.now(), at)
  engine.table.flush()
}

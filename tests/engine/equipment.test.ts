import { afterEach, expect, it } from 'vitest'
import { changeConfiguration } from '#db/configuration'
import { propertyTags } from '#core/equipment/made'
import { Model } from '#core/equipment/model'
import { classContract, equipmentContract } from '#core/equipment/settings'
import { isGood, quality } from '#core/tags/quality'
import { thingsOf } from '#db/rows'
import { tagOfProperty } from '#shared/equipment/tags'
import { tagDraft } from '#shared/tags'
import { closeAll, databaseFor, engineOn, stateFolderFor, type Closing } from '../support/engineOn'
import { until } from '../support/until'

const closing: Closing = []
afterEach(() => closeAll(closing))

const feeder = classContract.parse({
  name: 'Feeder',
  properties: [
    { name: 'rated', unit: 'kW', made: { kind: 'constant', value: 200 } },
    { name: 'power', unit: 'kW', made: { kind: 'input' } },
    { name: 'load', unit: '%', made: { kind: 'formula', formula: '100 * power / rated' } },
    { name: 'mean_1s', made: { kind: 'rollup', of: 'power', how: 'mean by time', window: { count: 1, unit: 'second' } } },
    { name: 'most_today', made: { kind: 'rollup', of: 'power', how: 'max', window: { count: 1, unit: 'day' }, shows: 'running' } },
  ],
})
const berth = classContract.parse({ name: 'Berth', properties: [{ name: 'power', made: { kind: 'gather', of: 'power', how: 'sum' } }] })

const plant = async (unit = 'kW') => {
  const database = await databaseFor(closing)
  const source = tagDraft.parse({ path: 'meter/power', source: { kind: 'memory', start: 10 }, type: 'float64', unit, access: 'readwrite' })
  await changeConfiguration(database.db, 'test', 'made', async (editor) => {
    await editor.insert('tag', [source])
    await editor.insert('equipmentClass', [feeder, berth])
    const rows = await editor.insert(
      'equipment',
      [
        { path: 'Berth 1', class: 'Berth' },
        { path: 'Berth 1/Feeder A', class: 'Feeder', bindings: { power: 'meter/power' } },
        { path: 'Berth 1/Feeder B', class: 'Feeder' },
      ].map((one) => equipmentContract.parse(one)),
    )
    const model = new Model([feeder, berth], thingsOf('equipment', rows))
    await editor.insert(
      'tag',
      [...model.equipment.values()].flatMap((one) => propertyTags(model, one).map(tagOfProperty)),
    )
  })
  return database
}
type Engine = Awaited<ReturnType<typeof engineOn>>['engine']
const now = (engine: Engine, path: string) => {
  const handle = engine.tags.byPath(path)!.handle
  return { value: engine.table.values[handle], quality: engine.table.quality[handle]!, at: engine.table.sourceTime[handle]! }
}
const set = (engine: Engine, value: number, at = Date.now()) => {
  engine.table.set(engine.tags.byPath('meter/power')!.handle, value, quality.Good, Date.now(), at)
  engine.table.flush()
}

it('has inputs, formulas, constants and what children have together', async () => {
  const { engine } = await engineOn(closing, await plant())
  set(engine, 50)
  await until(() => now(engine, 'Berth 1/Feeder A/load').value === 25)
  expect(now(engine, 'Berth 1/Feeder A/power')).toMatchObject({ value: 50, quality: quality.Good })
  expect(now(engine, 'Berth 1/Feeder A/rated').value).toBe(200)
  // of two feeders one is not bound
  await until(() => now(engine, 'Berth 1/power').value === 50)
  expect(now(engine, 'Berth 1/power').quality).toBe(quality.UncertainDataSubNormal)
  expect(isGood(now(engine, 'Berth 1/Feeder B/power').quality)).toBe(false)
  expect(engine.status().equipment).toEqual({ pieces: 3, unbound: 1 })
})

it('converts an input whose tag has another unit, and takes none that cannot be', async () => {
  const { engine } = await engineOn(closing, await plant('W'))
  set(engine, 5000)
  await until(() => now(engine, 'Berth 1/Feeder A/power').value === 5)
  const other: Closing = []
  const { engine: second } = await engineOn(other, await plant('°C'))
  set(second, 20)
  await until(() => now(second, 'Berth 1/Feeder A/power').quality === quality.BadTypeMismatch)
  expect(second.origin(second.tags.byPath('Berth 1/Feeder A/power')!.id)?.fault?.what).toMatch(/°C is not converted to kW/)
  await closeAll(other)
})

it('rolls windows up as they end, and goes on after a restart with what was recorded', async () => {
  const database = await plant()
  const folder = stateFolderFor(closing)
  const first: Closing = []
  const { engine } = await engineOn(first, database, folder)
  set(engine, 90)
  await until(() => isGood(now(engine, 'Berth 1/Feeder A/mean_1s').quality))
  expect(now(engine, 'Berth 1/Feeder A/mean_1s').at % 1000).toBe(0)
  await until(() => now(engine, 'Berth 1/Feeder A/mean_1s').value === 90)
  set(engine, 30)
  await until(() => now(engine, 'Berth 1/Feeder A/mean_1s').value === 30)
  expect(now(engine, 'Berth 1/Feeder A/most_today').value).toBe(90)
  await closeAll(first)
  const { engine: second } = await engineOn(closing, database, folder)
  // nothing of this life was as much
  await until(() => now(second, 'Berth 1/Feeder A/most_today').value === 90)
})

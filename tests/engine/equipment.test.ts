import { sql } from 'kysely'
import { afterEach, expect, it } from 'vitest'
import { changeConfiguration } from '#db/configuration'
import { bringIn } from '#db/history/bringIn'
import { recordingContract } from '#core/history/settings'
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

/** What was recorded of a tag, as it holds at each of these times. */
const heldAt = async (database: Awaited<ReturnType<typeof databaseFor>>, path: string, times: readonly number[]) => {
  const { rows } = await sql<{ at: Date; number: number | null }>`
    select distinct on (at) at, number from history where path = ${path} order by at, arrived desc`.execute(database.db)
  return times.map((time) => rows.findLast(({ at }) => at.getTime() <= time)?.number ?? null)
}
const record = (pattern: string) => recordingContract.parse({ pattern, how: { kind: 'change' } })
const alsoRecorded = async (database: Awaited<ReturnType<typeof databaseFor>>, pattern: string) => {
  await changeConfiguration(database.db, 'test', 'recorded', (editor) => editor.insert('recording', [record(pattern)]))
  return database
}
const second = 1000

it('tells windows again that something comes late for, and those after it in which that value still held', async () => {
  const database = await alsoRecorded(await plant(), 'Berth 1/**')
  const { engine } = await engineOn(closing, database)
  const mean = 'Berth 1/Feeder A/mean_1s'
  set(engine, 40)
  await until(() => now(engine, mean).value === 40)
  const begun = Math.ceil(Date.now() / second) * second
  const ends = [1, 2, 3, 4].map((i) => begun + i * second)
  await until(() => Date.now() > ends[3]! + second)
  // in the middle of the second of them
  set(engine, 80, ends[0]! + 500)
  await until(async () => (await heldAt(database, mean, ends)).join() === '40,60,80,80')
  // what was between is put right as well, and nothing else
  set(engine, 20, ends[2]!)
  await until(async () => (await heldAt(database, mean, ends)).join() === '40,60,80,20')
})

it('makes up for what happened while nobody looked, and for what was recorded before there was a rollup', async () => {
  const database = await alsoRecorded(await plant(), 'Berth 1/**')
  const folder = stateFolderFor(closing)
  const first: Closing = []
  const { engine } = await engineOn(first, database, folder)
  set(engine, 70)
  // whole windows were seen: what slides over two of them is known exactly
  const since = Date.now()
  await until(() => now(engine, 'Berth 1/Feeder A/mean_1s').value === 70 && Date.now() >= since + 4 * second)
  // to close takes its time on a busy machine
  const border = Math.floor(Date.now() / second) * second
  await closeAll(first)
  const away = Date.now()
  const most = { name: 'most_2s', made: { kind: 'rollup', of: 'power', how: 'max', window: { count: 1, unit: 'second' }, over: 2 } }
  await changeConfiguration(database.db, 'test', 'one more', async (editor) => {
    const [row] = await editor.rows('equipmentClass', [1])
    const wider = classContract.parse({ ...feeder, properties: [...feeder.properties, most] })
    await editor.update('equipmentClass', row!, wider)
    const pieces = thingsOf('equipment', await editor.rows('equipment', [1, 2, 3]))
    const model = new Model([wider, berth], pieces)
    const made = pieces.flatMap((one) => propertyTags(model, one)).filter(({ property }) => property === 'most_2s')
    await editor.insert('tag', made.map(tagOfProperty))
  })
  await until(() => Date.now() > away + 3 * second)
  const { engine: later } = await engineOn(closing, database, folder)
  set(later, 30)
  await until(() => now(later, 'Berth 1/Feeder A/mean_1s').value === 30)
  // the seconds in which nobody looked are told as such, one that began before as uncertain
  const held = await heldAt(database, 'Berth 1/Feeder A/mean_1s', [border, Math.floor(away / second) * second + 2 * second])
  expect(held).toEqual([70, null])
  await until(async () => (await heldAt(database, 'Berth 1/Feeder A/most_2s', [border])).join() === '70')
})

it('makes rollups again of what somebody brings in of the past, also those that slide and those of other rollups', async () => {
  const database = await databaseFor(closing)
  const window = { count: 1, unit: 'minute' }
  const kind = classContract.parse({
    name: 'Meter',
    properties: [
      { name: 'power', made: { kind: 'input' } },
      { name: 'most', made: { kind: 'rollup', of: 'power', how: 'max', window } },
      { name: 'most_of_3', made: { kind: 'rollup', of: 'power', how: 'max', window, over: 3 } },
      { name: 'least_most', made: { kind: 'rollup', of: 'most', how: 'min', window: { count: 5, unit: 'minute' } } },
    ],
  })
  const { result: ids } = await changeConfiguration(database.db, 'test', 'made', async (editor) => {
    await editor.insert('recording', [record('Quay/**')])
    await editor.insert('equipmentClass', [kind])
    const rows = await editor.insert('equipment', [equipmentContract.parse({ path: 'Quay', class: 'Meter' })])
    const [piece] = thingsOf('equipment', rows)
    const tags = await editor.insert('tag', propertyTags(new Model([kind], [piece!]), piece!).map(tagOfProperty))
    return new Map(tags.map(({ id, path }) => [path, id]))
  })
  await engineOn(closing, database)
  await until(async () => (await heldAt(database, 'Quay/most', [Date.now()]))[0] === null)
  const start = Math.floor(Date.now() / 300_000 - 3) * 300_000
  const minute = (i: number) => start + i * 60_000
  const power = ids.get('Quay/power')!
  const samples = [5, 9, 2, 7, 4, 0].map((number, i) => ({ series: power, at: minute(i), quality: quality.Good, number, text: null }))
  await bringIn(database.url, samples, () => ({ id: power, path: 'Quay/power', type: 'float64', unit: '' }))
  const ends = [1, 2, 3, 4, 5].map(minute)
  await until(async () => (await heldAt(database, 'Quay/most', ends)).join() === '5,9,2,7,4', Boolean, 20)
  await until(async () => (await heldAt(database, 'Quay/most_of_3', ends)).join() === '5,9,9,9,7', Boolean, 20)
  // what the minutes were told as, each from its end on
  await until(async () => (await heldAt(database, 'Quay/least_most', [5, 10].map(minute))).join() === '2,0', Boolean, 20)
})

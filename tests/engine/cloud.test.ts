import { afterEach, describe, expect, it } from 'vitest'
import { changeConfiguration } from '#db/configuration'
import type { Engine } from '#engine/engine'
import type { CloudFault } from '#standins/cloud/platform'
import { byHttp, byMqtt, cloudFor, detailsOf, feeder, setTag, siteWith } from '../support/cloudSite'
import { closeAll, engineOn, stateFolderFor, type Closing } from '../support/engineOn'
import { until } from '../support/until'

const closing: Closing = []
afterEach(() => closeAll(closing))

const streamAt = (cloud: Awaited<ReturnType<typeof cloudFor>>, path: string) =>
  [...(cloud.site()?.streams.values() ?? [])].find((one) => one.path === path)
const planned = async (engine: Engine, id: number) => (await engine.outlet(id)!.plan(true))!

describe.each([
  ['HTTP', byHttp],
  ['MQTT 5 with TLS', byMqtt],
])('by %s', (_, way) => {
  it('makes the model over there as it was planned, and streams what equipment has', async () => {
    const cloud = await cloudFor(closing)
    const { outletId, ...database } = await siteWith(closing, way(cloud))
    const { engine } = await engineOn(closing, database)
    await until(() => detailsOf(engine)?.model.state === 'differs')
    const plan = await planned(engine, outletId)
    expect(plan.steps.map(({ what, how, name }) => `${how} ${what} ${name}`)).toEqual([
      'make class Machine',
      'make class Feeder',
      'make equipment Berth 1',
      'make equipment Feeder A',
      'make equipment Feeder B',
    ])
    // nothing is made before somebody says so
    expect(cloud.cloud.counts().equipment).toBe(0)
    expect(await engine.outlet(outletId)!.applyPlan(plan.digest, false)).toMatchObject({ state: 'alike', stepCount: 0 })
    const there = cloud.site()!.model()
    expect(there.classes.map(({ name, parent }) => [name, parent])).toEqual([
      ['Machine', ''],
      ['Feeder', there.classes[0]!.key],
    ])
    const [berth, a, b] = there.equipment
    expect(a).toMatchObject({
      name: 'Feeder A',
      parent: berth!.key,
      class: there.classes[1]!.key,
      relations: [{ kind: 'backed up by', to: b!.key }],
    })
    expect(b!.constants).toEqual({ rated: 90 })
    setTag(engine, 'meter/power', 50)
    const bound = cloud.site()!.streams
    await until(() => bound.get(a!.streams.load!)?.recent.at(-1)?.[1] === 25)
    expect(bound.get(a!.streams.power!)).toMatchObject({ path: 'Berth 1/Feeder A/power', type: 'float64', unit: 'kW' })
    // what no equipment has stands there as an arrival
    expect(
      cloud
        .site()!
        .unbound()
        .map(({ path }) => path),
    ).toEqual(['meter/power', 'meter/volts'])
    // the other one is not bound here: its stream says so
    await until(() => streamAt(cloud, 'Berth 1/Feeder B/power')?.recent.at(-1)?.[2].startsWith('Bad'))
  })

  it.each<CloudFault>(['token expired', 'throttling', 'half later', 'away', 'silence', 'clock wrong', 'small messages'])(
    'loses nothing, and sends nothing twice, over “%s”',
    async (wrong) => {
      const cloud = await cloudFor(closing)
      const database = await siteWith(closing, way(cloud), { model: { on: false } })
      const { engine } = await engineOn(closing, database)
      await until(() => streamAt(cloud, 'meter/power')?.count === 1)
      cloud.cloud.setFault(wrong, true)
      for (let i = 0; i < 250; i++) setTag(engine, 'meter/power', i, Date.now() - 250 + i)
      if (wrong !== 'small messages') await until(() => detailsOf(engine)!.delivery.fault !== null)
      const { fault, flow } = detailsOf(engine)!.delivery
      expect(codes[wrong]).toContain(fault?.code ?? 'none')
      expect(flow).toBe(
        wrong === 'small messages' ? 'flowing' : fault!.code === 'cloud.throttled' || fault!.code === 'cloud.waits' ? 'late' : 'broken',
      )
      cloud.cloud.setFault(wrong, false)
      await until(() => streamAt(cloud, 'meter/power')?.count === 251, Boolean, 40)
      const came = streamAt(cloud, 'meter/power')!
        .recent.slice(1)
        .map(([, value]) => Number(value))
      // what is refused for now comes after what was taken of the same message
      expect(wrong === 'half later' ? came.sort((a, b) => a - b) : came).toEqual(Array.from({ length: 250 }, (_, i) => i))
      await until(() => detailsOf(engine)!.delivery.waiting === 0)
      expect(detailsOf(engine)!.delivery).toMatchObject({ fault: null, lost: 0, refused: 0, sent: 252 })
    },
  )
})

const codes: Partial<Record<CloudFault, string[]>> = {
  'token expired': ['cloud.token'],
  throttling: ['cloud.throttled'],
  'half later': ['cloud.waits'],
  away: ['http.broken', 'mqtt.closed'],
  silence: ['cloud.silent', 'http.silent'],
  'clock wrong': ['cloud.waits'],
  'small messages': ['none'],
}

it('keeps on disk what the platform does not take, over a restart of the engine', async () => {
  const cloud = await cloudFor(closing)
  const database = await siteWith(closing, byHttp(cloud), { model: { on: false } })
  const folder = stateFolderFor(closing)
  const first: Closing = []
  const { engine } = await engineOn(first, database, folder)
  await until(() => streamAt(cloud, 'meter/volts')?.count === 1)
  cloud.cloud.setFault('away', true)
  for (let i = 0; i < 100; i++) setTag(engine, 'meter/volts', i)
  await until(() => detailsOf(engine)!.delivery.waiting >= 100)
  await closeAll(first)
  await engineOn(closing, database, folder)
  cloud.cloud.setFault('away', false)
  // and what each tag has when the engine begins
  await until(() => streamAt(cloud, 'meter/volts')?.count === 102)
  expect(
    streamAt(cloud, 'meter/volts')!
      .recent.slice(1, 101)
      .map(([, value]) => value),
  ).toEqual(Array.from({ length: 100 }, (_, i) => i))
})

it('tells which values are refused for good, and goes on with the others', async () => {
  const cloud = await cloudFor(closing)
  const database = await siteWith(closing, byHttp(cloud), { model: { on: false } })
  const { engine, journal } = await engineOn(closing, database)
  await until(() => streamAt(cloud, 'meter/power')?.count === 1)
  cloud.cloud.setFault('half refused', true)
  for (let i = 0; i < 40; i++) setTag(engine, 'meter/power', i)
  await until(() => detailsOf(engine)!.delivery.refused === 20)
  expect(detailsOf(engine)!.notTaken).toMatchObject([{ path: 'meter/power', count: 20, why: 'The store takes no more of this.' }])
  expect(journal.entries.filter(({ text }) => text.includes('The store takes no more'))).toHaveLength(1)
  expect(streamAt(cloud, 'meter/power')!.count).toBe(21)
})

it('follows changes here once the first plan was carried out, undoes renames there, and leaves removals to a person', async () => {
  const cloud = await cloudFor(closing)
  const { db, url, outletId } = await siteWith(closing, byHttp(cloud))
  const { engine } = await engineOn(closing, { db, url })
  await until(() => detailsOf(engine)?.model.state === 'differs')
  await engine.outlet(outletId)!.applyPlan((await planned(engine, outletId)).digest, false)
  // another unit of a property
  await changeConfiguration(db, 'test', 'changed', async (editor) => {
    const row = await editor.db.selectFrom('equipmentClass').selectAll().where('name', '=', 'Feeder').executeTakeFirstOrThrow()
    const properties = feeder.properties.map((one) => (one.name === 'rated' ? { ...one, unit: 'MW' } : one))
    await editor.update('equipmentClass', row as never, { properties } as never)
  })
  const classThere = () => [...cloud.site()!.classes.values()].find(({ name }) => name === 'Feeder')!
  await until(() => classThere().properties.find(({ name }) => name === 'rated')?.unit === 'MW')
  // somebody renames it over there
  const pieceThere = [...cloud.site()!.equipment.values()].find(({ name }) => name === 'Feeder B')!
  cloud.site()!.rename(pieceThere.id, 'Reserve')
  const plan = await planned(engine, outletId)
  expect(plan.steps).toMatchObject([{ how: 'change', name: 'Feeder B', differences: ['name: “Feeder B”, there “Reserve”'] }])
  await engine.outlet(outletId)!.applyPlan(plan.digest, false)
  expect(cloud.site()!.equipment.get(pieceThere.id)!.name).toBe('Feeder B')
  // what is removed here stays there until somebody says so
  await changeConfiguration(db, 'test', 'removed', async (editor) => {
    const row = await editor.db.selectFrom('equipment').selectAll().where('path', '=', 'Berth 1/Feeder B').executeTakeFirstOrThrow()
    await editor.remove('tag', await editor.db.selectFrom('tag').selectAll().where('equipment_id', '=', row.id).execute())
    await editor.remove('equipment', [row])
  })
  await until(() => detailsOf(engine)!.model.state === 'differs')
  await until(async () => (await planned(engine, outletId)).removals === 1)
  expect(cloud.site()!.equipment.size).toBe(3)
  const seen = await planned(engine, outletId)
  await engine.outlet(outletId)!.applyPlan(seen.digest, true)
  expect(cloud.site()!.equipment.size).toBe(2)
  // a plan that somebody saw before is not carried out
  await expect(engine.outlet(outletId)!.applyPlan(seen.digest, true)).rejects.toMatchObject({ code: 'cloud.plan-changed' })
})

it('takes what others made there for ours by its name, unless its types are others', async () => {
  const cloud = await cloudFor(closing)
  const { outletId, ...database } = await siteWith(closing, byHttp(cloud))
  cloud.cloud.handle(
    'steps',
    'harbour',
    'harrow-sound-token',
    {
      steps: [
        { does: 'put class', put: { key: 'x-1', name: 'machine', properties: [] } },
        { does: 'put class', put: { key: 'x-2', name: 'Feeder', properties: [{ name: 'power', role: 'value', type: 'string' }] } },
        { does: 'put equipment', put: { key: 'y-1', name: 'Berth 1' } },
        { does: 'put equipment', put: { key: 'y-2', name: 'feeder a', parent: 'y-1' } },
      ],
    },
    0,
  )
  const { engine } = await engineOn(closing, database)
  await until(() => detailsOf(engine)?.model.state === 'differs')
  const plan = await planned(engine, outletId)
  expect(plan.steps.map(({ how, what, name }) => `${how} ${what} ${name}`)).toEqual([
    'match class Machine',
    'match class Feeder',
    'match equipment Berth 1',
    'match equipment Feeder A',
    'make equipment Feeder B',
  ])
  expect(plan.hindered).toBe(1)
  expect(plan.steps[1]!.problem).toMatch(/power is a value \(string\); here it is a value \(float64\)/)
  const after = await engine.outlet(outletId)!.applyPlan(plan.digest, false)
  expect(
    cloud
      .site()!
      .model()
      .classes.map(({ name, key }) => [name, key.replace(/class-\d+/, 'class-n')]),
  ).toEqual([
    ['Machine', 'class-n'],
    ['Feeder', 'x-2'],
  ])
  // feeders are of a class that is not there: the platform says so, step by step
  expect(after!.refused.map(({ name }) => name)).toEqual(['equipment Feeder A', 'equipment Feeder B'])
  expect(engine.status().outlets[0]!.flow).toBe('late')
})

it('drops the oldest, and says so, where more waits than may be kept', async () => {
  const cloud = await cloudFor(closing)
  const database = await siteWith(closing, byHttp(cloud), { model: { on: false }, sending: { every: 50, kept: 1 } })
  const { engine, journal } = await engineOn(closing, database)
  await until(() => streamAt(cloud, 'meter/power')?.count === 1)
  cloud.cloud.setFault('away', true)
  for (let round = 0; round < 30; round++) {
    for (let i = 0; i < 3000; i++) engine.table.set(engine.tags.byPath('meter/power')!.handle, round * 3000 + i, 0, Date.now())
    engine.table.flush()
    await new Promise((resolve) => setTimeout(resolve, 60))
  }
  await until(() => detailsOf(engine)!.delivery.lost > 0)
  expect(detailsOf(engine)!.delivery.waitingBytes).toBeLessThan(1.2 * 1024 * 1024)
  expect(journal.entries.some(({ text }) => text.includes('the oldest'))).toBe(true)
})

import { afterEach, expect, it } from 'vitest'
import { changeConfiguration } from '#db/configuration'
import { propertyTags } from '#core/equipment/made'
import { Model } from '#core/equipment/model'
import { classContract, equipmentContract } from '#core/equipment/settings'
import { bridgeContract } from '#core/bridges/settings'
import type { LimitInput } from '#core/alarms/limits'
import { quality } from '#core/tags/quality'
import { thingsOf } from '#db/rows'
import type { Engine } from '#engine/engine'
import { tagOfProperty } from '#shared/equipment/tags'
import { tagDraft } from '#shared/tags'
import { bridgeDraft, bridgeSite, memoryTag } from '../support/bridgeSite'
import { closeAll, databaseFor, engineOn, stateFolderFor, type Closing } from '../support/engineOn'
import { alarmsOf } from '../support/alarmsOf'
import { until } from '../support/until'

const closing: Closing = []
afterEach(() => closeAll(closing))

const siteWith = async (limits: LimitInput[], path = 'tank/level') => {
  const database = await databaseFor(closing)
  const tag = tagDraft.parse({ path, source: { kind: 'memory', start: 50 }, type: 'float64', unit: '%', limits, access: 'readwrite' })
  const { result: id } = await changeConfiguration(
    database.db,
    'test',
    'made',
    async (editor) => (await editor.insert('tag', [tag]))[0]!.id,
  )
  return { database, id }
}
const set = (engine: Engine, value: number, at = Date.now(), path = 'tank/level') => {
  engine.table.set(engine.tags.byPath(path)!.handle, value, quality.Good, Date.now(), at)
  engine.table.flush()
}
const states = (engine: Engine) =>
  alarmsOf(engine.alarms).map(({ limit, active, seen }) => `${limit} ${active ? 'active' : 'over'}${seen ? ' seen' : ''}`)
const turnsIn = async (db: Awaited<ReturnType<typeof databaseFor>>['db']) =>
  (await db.selectFrom('alarm_event').select(['limit', 'turn', 'who', 'value']).orderBy('id').execute()).map(
    ({ limit, turn, who, value }) => `${limit} ${turn}${who && ` ${who}`} ${value}`,
  )

it('raises alarms, has them seen and done with, and tells the journal and the list', async () => {
  const { database } = await siteWith([{ kind: 'high', at: 80, band: 5 }, { kind: 'higher', at: 95, severity: 'trouble' }, { kind: 'low', at: 10, acknowledge: false }]) // prettier-ignore
  const { engine, journal } = await engineOn(closing, database)
  await until(() => engine.alarms.status().limits === 3)
  set(engine, 85)
  set(engine, 97)
  await until(() => engine.alarms.status().active === 2)
  expect(engine.status().alarms).toEqual({ limits: 3, active: 2, unseen: 2, worst: 'trouble' })
  expect(states(engine)).toEqual(['higher active', 'high active'])
  const [higher] = alarmsOf(engine.alarms)
  expect(higher).toMatchObject({ path: 'tank/level', text: 'higher: above 95 %, 97 %', value: '97', count: 1, isUnknown: false })
  expect(engine.alarms.acknowledge([higher!.key, 'nothing/high'], 'maren', 'Pump 2 runs')).toEqual(['nothing/high'])
  expect(alarmsOf(engine.alarms)[0]).toMatchObject({ seen: { by: 'maren' }, comment: { text: 'Pump 2 runs', by: 'maren' } })
  // not yet back by its band
  set(engine, 78)
  await until(() => states(engine).join() === 'high active')
  set(engine, 75)
  await until(() => states(engine).join() === 'high over')
  expect(engine.alarms.comment(alarmsOf(engine.alarms)[0]!.key, 'odd', 'Looked at it')).toBe(true)
  engine.alarms.acknowledge([alarmsOf(engine.alarms)[0]!.key], 'odd', '')
  expect(alarmsOf(engine.alarms)).toEqual([])
  // nobody has to see this one
  set(engine, 5)
  await until(() => states(engine).join() === 'low active seen')
  set(engine, 50)
  await until(() => alarmsOf(engine.alarms).length === 0)
  await until(async () => (await turnsIn(database.db)).length === 9)
  expect(await turnsIn(database.db)).toEqual([
    'high raised 85',
    'higher raised 97',
    'higher acknowledged maren 97',
    'higher over 78',
    'high over 75',
    'high commented odd 85',
    'high acknowledged odd 85',
    'low raised 5',
    'low over 50',
  ])
  expect(journal.entries.map(({ text }) => text)).toContain('maren saw higher: Pump 2 runs')
})

it('misses no short peak, waits for its delay, and keeps what was an alarm while the value is bad', async () => {
  const { database } = await siteWith([
    { kind: 'high', at: 80, delay: 300 },
    { kind: 'higher', at: 95 },
  ])
  const { engine } = await engineOn(closing, database)
  await until(() => engine.alarms.status().limits === 2)
  const { handle } = engine.tags.byPath('tank/level')!
  for (const value of [97, 60]) engine.table.set(handle, value, quality.Good, Date.now())
  engine.table.flush()
  await until(() => states(engine).join() === 'higher over')
  set(engine, 85)
  expect(states(engine)).toEqual(['higher over'])
  await until(() => states(engine).includes('high active'))
  engine.table.degrade(handle, quality.BadNoCommunication, Date.now())
  engine.table.flush()
  await until(() => alarmsOf(engine.alarms).every(({ isUnknown }) => isUnknown))
  expect(states(engine)).toContain('high active')
})

it('knows after a restart what was an alarm and who saw it, and raises none of them anew', async () => {
  const { database } = await siteWith([
    { kind: 'high', at: 80 },
    { kind: 'higher', at: 95 },
  ])
  const folder = stateFolderFor(closing)
  const first: Closing = []
  const { engine } = await engineOn(first, database, folder)
  await until(() => engine.alarms.status().limits === 2)
  await engine.writes.writeTag(engine.tags.byPath('tank/level')!.id, 97, { who: 'test', via: 'page', place: '' })
  await until(() => engine.alarms.status().active === 2)
  engine.alarms.acknowledge([alarmsOf(engine.alarms).find(({ limit }) => limit === 'high')!.key], 'maren', '')
  await closeAll(first)
  const again = await engineOn(closing, database, folder)
  await until(() => again.engine.alarms.status().active === 2)
  expect(states(again.engine).sort()).toEqual(['high active seen', 'higher active'])
  await again.engine.writes.writeTag(again.engine.tags.byPath('tank/level')!.id, 50, { who: 'test', via: 'page', place: '' })
  await until(() => states(again.engine).join() === 'higher over')
  await until(async () => (await turnsIn(database.db)).length === 5)
  expect((await turnsIn(database.db)).filter((turn) => turn.includes('raised'))).toHaveLength(2)
})

it('goes by limits as they are now: what is no limit any more is no alarm', async () => {
  const { database, id } = await siteWith([
    { kind: 'high', at: 80 },
    { kind: 'low', at: 10 },
  ])
  const { engine } = await engineOn(closing, database)
  await until(() => engine.alarms.status().limits === 2)
  await engine.writes.writeTag(id, 85, { who: 'test', via: 'page', place: '' })
  await until(() => engine.alarms.status().active === 1)
  const change = (limits: LimitInput[]) =>
    changeConfiguration(database.db, 'test', 'changed', async (editor) => {
      await editor.update('tag', (await editor.row('tag', id))!, { limits: tagDraft.shape.limits.parse(limits) } as never)
    })
  await change([
    { kind: 'high', at: 90 },
    { kind: 'low', at: 10 },
  ])
  await until(() => states(engine).join() === 'high over')
  await change([{ kind: 'low', at: 86 }])
  await until(() => states(engine).join() === 'low active')
  await changeConfiguration(database.db, 'test', 'removed', async (editor) => editor.remove('tag', [(await editor.row('tag', id))!]))
  await until(
    () => states(engine).join(),
    (seen) => seen === '',
    4,
  )
  await until(
    async () => (await turnsIn(database.db)).join(),
    (seen) => seen.endsWith('low dropped 85'),
    4,
  )
})

it('comes with the class to all of its equipment', async () => {
  const database = await databaseFor(closing)
  const tank = classContract.parse({
    name: 'Tank',
    properties: [{ name: 'level', unit: '%', made: { kind: 'input' }, limits: [{ kind: 'high', at: 80 }] }],
  })
  const source = tagDraft.parse({ path: 'raw', source: { kind: 'memory', start: 10 }, type: 'float64', unit: '%' })
  await changeConfiguration(database.db, 'test', 'made', async (editor) => {
    await editor.insert('tag', [source])
    await editor.insert('equipmentClass', [tank])
    const rows = await editor.insert(
      'equipment',
      ['A', 'B'].map((path) => equipmentContract.parse({ path, class: 'Tank', bindings: { level: 'raw' } })),
    )
    const model = new Model([tank], thingsOf('equipment', rows))
    await editor.insert(
      'tag',
      [...model.equipment.values()].flatMap((one) => propertyTags(model, one).map(tagOfProperty)),
    )
  })
  const { engine } = await engineOn(closing, database)
  await until(() => engine.alarms.status().limits === 2)
  set(engine, 90, Date.now(), 'raw')
  await until(() => engine.alarms.status().active === 2)
  expect(
    alarmsOf(engine.alarms)
      .map(({ path }) => path)
      .sort(),
  ).toEqual(['A/level', 'B/level'])
})

it('sets bridges off, with what became of it as a message', async () => {
  const site = await bridgeSite(closing)
  const names = ['path', 'turn', 'text', 'who']
  await site.tags([
    memoryTag('tank/level', 50, 'float64', {
      unit: '%',
      limits: [
        { kind: 'high', at: 80 },
        { kind: 'higher', at: 95, severity: 'trouble' },
      ],
    }),
  ])
  await site.tags(names.map((name) => memoryTag(`told/${name}`, '', 'string')))
  const draft = bridgeDraft({
    when: [{ kind: 'alarm', tag: 'tank/*', turns: ['raised', 'acknowledged'], severity: 'trouble' }],
    take: names.map((name) => ({ kind: 'member', name, path: `$.${name}` })),
    send: [{ kind: 'tags', number: 1, fields: names.map((name) => ({ into: `told/${name}`, from: name })) }],
  })
  // what it would send can be looked at before there is an alarm
  const { destinations } = await site.engine.bridges.preview(bridgeContract.parse(draft), null, null)
  expect(JSON.stringify(destinations)).toContain('tank/level')
  const id = await site.bridge(draft)
  await site.write('tank/level', 85)
  await site.write('tank/level', 97)
  await until(() => site.value('told/text') === 'higher: above 95 %, 97 %')
  expect(site.value('told/path')).toBe('tank/level')
  site.engine.alarms.acknowledge(
    alarmsOf(site.engine.alarms).map(({ key }) => key),
    'maren',
    '',
  )
  await until(() => site.value('told/who') === 'maren')
  expect(site.status(id).runs).toBe(2)
})

it('knows a tag by another name, and forgets the alarms of one that was removed while no engine ran', async () => {
  const { database, id } = await siteWith([{ kind: 'high', at: 80 }])
  const folder = stateFolderFor(closing)
  const first: Closing = []
  const { engine } = await engineOn(first, database, folder)
  await until(() => engine.alarms.status().limits === 1)
  await engine.writes.writeTag(id, 90, { who: 'test', via: 'page', place: '' })
  await until(() => engine.alarms.status().active === 1)
  await changeConfiguration(database.db, 'test', 'renamed', async (editor) => {
    await editor.update('tag', (await editor.row('tag', id))!, { path: 'tank/fill' })
  })
  await until(() => alarmsOf(engine.alarms)[0]?.path === 'tank/fill')
  await closeAll(first)
  await changeConfiguration(database.db, 'test', 'removed', async (editor) => editor.remove('tag', [(await editor.row('tag', id))!]))
  const again = await engineOn(closing, database, folder)
  await until(() => alarmsOf(again.engine.alarms).length === 0)
  await until(async () => (await turnsIn(database.db)).at(-1) === 'high dropped 90')
})

it('loses nothing of a flood to the list, and tells the journal only how it began and how much it was', async () => {
  const database = await databaseFor(closing)
  const count = 6000
  const tags = Array.from({ length: count }, (_, i) =>
    tagDraft.parse({ path: `pump/${i}`, source: { kind: 'memory', start: 90 }, type: 'float64', limits: [{ kind: 'high', at: 80 }] }),
  )
  await changeConfiguration(database.db, 'test', 'made', (editor) => editor.insert('tag', tags))
  const { engine, journal } = await engineOn(closing, database)
  await until(() => engine.alarms.status().active === count)
  const page = engine.alarms.page({ find: 'pump/59', sort: 'path', offset: 10, limit: 5 })
  expect([page.total, page.items.map(({ path }) => path)]).toEqual([111, ['599', '5900', '5901', '5902', '5903'].map((n) => `pump/${n}`)])
  expect(engine.alarms.page({ sort: 'rank', offset: 0, limit: 1, folder: 'elsewhere' }).total).toBe(0)
  const matching = engine.alarms.matching({ find: '', until: Date.now() })
  expect(engine.alarms.acknowledge(matching, 'maren', 'all of them')).toEqual([])
  expect(engine.alarms.matching({ find: '', until: Date.now() })).toEqual([])
  await until(async () => (await turnsIn(database.db)).length === 2 * count)
  await until(() => journal.entries.some(({ text }) => text.startsWith('So much happened at once')))
  const told = journal.entries.filter(({ source }) => source.startsWith('pump/') || source === 'Alarms')
  expect(told.length).toBeLessThan(500)
  expect(told.at(-1)!.text).toMatch(/^So much happened at once that [\d,]+ turns of alarms stand only in the list/)
})

import { expect } from 'vitest'
import type { Answer } from './describedCalls'
import { PortCloud, cloudToken } from '#standins/cloud/platform'
import { CloudDoor } from '#standins/cloud/http'
import { until } from './until'

type Call = (method: string, path: string, body?: unknown) => Promise<Answer>
interface Saved {
  id: number
  revision: number
}

/** Every operation of recordings, history, trends and equipment, once. */
export const callHistory = async (call: Call, tag: { tagId: number; path: string }) => {
  await callRecordings(call, tag)
  await callTrends(call, tag.tagId)
  await callEquipment(call, tag.path)
  await callDisplays(call, tag)
  await callPlatform(call)
  await callAlarms(call)
}

const callRecordings = async (call: Call, { tagId, path }: { tagId: number; path: string }) => {
  expect((await call('POST', '/recordings/matching', { pattern: path })).body).toEqual({ tags: 1, others: 0, first: [path] })
  const recording = { pattern: path, how: { kind: 'change' } }
  const made = (await call('POST', '/recordings', recording)).body as unknown as Saved
  expect((await call('POST', '/recordings', recording)).body).toMatchObject({ fault: { code: 'entry.taken' } })
  expect((await call('POST', '/recordings', { ...recording, how: { kind: 'period', every: 0 } })).body).toMatchObject({
    fault: { code: 'entry.invalid' },
  })
  expect((await call('GET', '/recordings')).body).toMatchObject({ total: 1 })
  const change = { revision: made.revision, recording: { ...recording, how: { kind: 'period', every: 100 } } }
  await call('PUT', `/recordings/${made.id}`, change)
  expect((await call('PUT', `/recordings/${made.id}`, change)).body).toMatchObject({ fault: { code: 'entry.edited' } })

  const [from, to] = [Date.now() - 60_000, Date.now() + 60_000]
  const asked = { series: [tagId], from, to, columns: 400 }
  await until(async () => {
    const [picture] = (await call('POST', '/history/picture', asked)).body as unknown as { at: number[] }[]
    return picture!.at.length > 2
  })
  expect((await call('POST', '/history/picture', { ...asked, to: from })).body).toMatchObject({ fields: [{ path: 'to' }] })
  expect((await call('POST', '/history/picture', { ...asked, series: [999_999] })).status).toBe(404)
  const windows = { series: [tagId], from, to, each: { count: 15, unit: 'minute' }, how: 'max' }
  expect((await call('POST', '/history/windows', windows)).body).toMatchObject([
    { id: tagId, path, windows: expect.arrayContaining([expect.objectContaining({ value: expect.any(Number) as number })]) as unknown },
  ])
  expect((await call('POST', '/history/windows', { ...windows, from: 0, each: { count: 1, unit: 'second' } })).body).toMatchObject({
    fault: { code: 'history.too-many-windows' },
  })
  expect((await call('POST', '/history/at', { series: [tagId], times: [to, 0] })).body).toMatchObject([
    { id: tagId, samples: [{ quality: expect.any(Number) as number }, null] },
  ])
  expect((await call('GET', '/history/series')).body).toMatchObject({ items: [{ id: tagId, path, recording: true, tag: true }] })
  const span = `series=${tagId}&from=${from}&to=${to}`
  expect(String((await call('GET', `/history/table.csv?${span}`)).body)).toMatch(
    new RegExp(`path,time,value,text,unit,quality\r\n${path},2`),
  )
  expect(String((await call('GET', `/history/table.parquet?${span}`)).body)).toMatch(/^PAR1/)
  const brought = `path,time,value\n${path},${new Date(from - 3_600_000).toISOString()},7\n`
  expect((await call('POST', '/history/table', brought)).body).toEqual({ samples: 1, series: 1 })
  expect((await call('POST', '/history/table', `${brought}none,0,1\n`)).body).toMatchObject({ fault: { code: 'history.table' } })
  expect((await call('GET', '/history')).body).toMatchObject({ keeping: { sample: 90 }, late: expect.any(Number) as number })
  await call('PUT', '/history/keeping', { sample: 10, second: 5, minute: 20, hour: null, mostGb: 5 })
  expect((await call('PUT', '/history/keeping', { sample: 10, second: 5, minute: 9 })).body).toMatchObject({ fields: [{ path: 'minute' }] })
  await call('DELETE', `/recordings/${made.id}`)
}

const callTrends = async (call: Call, tagId: number) => {
  const set = { name: 'A call', shared: true, content: { series: [{ id: tagId }] } }
  const made = (await call('POST', '/trend-sets', set)).body as unknown as Saved
  expect((await call('POST', '/trend-sets', set)).body).toMatchObject({ fault: { code: 'entry.taken' } })
  expect((await call('GET', '/trend-sets')).body).toMatchObject({ items: [{ name: 'A call', mine: true }] })
  await call('PUT', `/trend-sets/${made.id}`, { ...set, name: 'A longer call' })
  expect((await call('GET', `/trend-sets/${made.id}`)).body).toMatchObject({ name: 'A longer call' })
  await call('DELETE', `/trend-sets/${made.id}`)
  expect((await call('GET', `/trend-sets/${made.id}`)).body).toMatchObject({ fault: { code: 'trends.not-there' } })
}

const callEquipment = async (call: Call, path: string) => {
  const feeder = {
    name: 'Feeder',
    properties: [
      { name: 'power', made: { kind: 'input' } },
      { name: 'mean', made: { kind: 'rollup', of: 'power', how: 'mean by time', window: { count: 1, unit: 'minute' } } },
    ],
  }
  const made = (await call('POST', '/equipment-classes', feeder)).body as unknown as Saved
  const [power] = feeder.properties
  for (const [properties, field] of [
    [[{ ...power, made: { kind: 'formula', formula: 'power + 1' } }], 'properties.0.made'],
    [[power, { name: 'sum', made: { kind: 'formula', formula: 'powr * 2' } }], 'properties.1.made.formula'],
    [
      [{ ...feeder.properties[1]!, made: { ...feeder.properties[1]!.made, window: { count: 0, unit: 'minute' } } }],
      'properties.0.made.window.count',
    ],
  ] as const)
    expect((await call('POST', '/equipment-classes', { name: 'Odd', properties })).body.fields).toMatchObject([{ path: field }])
  expect((await call('GET', `/equipment-classes/${made.id}`)).body).toMatchObject({ name: 'Feeder' })
  await call('POST', '/equipment', { path: 'Harrow Sound' })
  expect((await call('POST', '/equipment', { path: 'Nowhere/Feeder' })).body).toMatchObject({ fields: [{ path: 'path' }] })
  const piece = { path: 'Harrow Sound/Feeder', class: 'Feeder', bindings: { power: path } }
  const one = (await call('POST', '/equipment', piece)).body as unknown as Saved
  expect((await call('GET', `/equipment/${one.id}`)).body).toMatchObject({
    properties: [
      { name: 'power', of: { path }, tagId: expect.any(Number) as number },
      { name: 'mean', path: 'Harrow Sound/Feeder/mean' },
    ],
  })
  expect((await call('GET', '/equipment?find=Feeder')).body).toMatchObject({ total: 1 })
  await call('POST', '/equipment/proposals', { class: 'Feeder', folder: '' })
  type Offer = { inputs: { path: string; bound: string }[] }
  await until(async () => ((await call('GET', `/equipment/${one.id}/past`)).body as unknown as Offer).inputs.length === 1)
  expect((await call('GET', `/equipment/${one.id}/past`)).body).toMatchObject({
    inputs: [{ path: 'Harrow Sound/Feeder/power', bound: path }],
  })
  expect((await call('POST', `/equipment/${one.id}/past`)).body).toEqual({ samples: expect.any(Number) as number, left: 0 })
  expect((await call('POST', `/equipment/${one.id}/past`)).body).toEqual({ samples: 0, left: 0 })

  const longer = {
    ...feeder,
    properties: [power, { ...feeder.properties[1]!, made: { ...feeder.properties[1]!.made, window: { count: 5, unit: 'minute' } } }],
  }
  expect((await call('POST', '/equipment-classes/plan', { class: longer, id: made.id })).body).toMatchObject({
    ...{ equipment: 1, made: 1, changed: 0, removed: 1 },
    anew: ['Harrow Sound/Feeder/mean (mean mean by time 1 min before)'],
  })
  const changed = (await call('PUT', `/equipment-classes/${made.id}`, { revision: made.revision, class: { ...longer, name: 'Meter' } }))
    .body as unknown as Saved
  expect((await call('GET', `/equipment/${one.id}`)).body).toMatchObject({ class: 'Meter' })
  expect((await call('DELETE', `/equipment-classes/${changed.id}`)).body).toMatchObject({ fault: { code: 'equipment.class-in-use' } })
  expect((await call('GET', '/equipment-classes')).body).toMatchObject({ total: 1 })

  const { revision } = (await call('GET', `/equipment/${one.id}`)).body as unknown as Saved
  await call('PUT', `/equipment/${one.id}`, { revision, equipment: { ...piece, class: 'Meter', path: 'Harrow Sound/Berth meter' } })
  expect((await call('GET', '/tags?below=Harrow%20Sound')).body).toMatchObject({
    items: [{ path: 'Harrow Sound/Berth meter/mean' }, { path: 'Harrow Sound/Berth meter/power' }],
  })
  expect((await call('POST', '/tags/move', { from: 'Harrow Sound', to: 'Elsewhere' })).body).toMatchObject({
    fault: { code: 'equipment.owned' },
  })
  const [mean] = (await call('GET', '/tags?below=Harrow%20Sound')).body.items as { id: number; revision: number }[]
  const { id: _id, revision: started, ...draft } = mean!
  expect((await call('PUT', `/tags/${mean!.id}`, { revision: started, tag: { ...draft, path: 'mine' } })).body).toMatchObject({
    fields: [{ path: 'path', message: expect.stringMatching(/equipment and class decide/) as string }],
  })
  const from = { kind: 'table', text: `path,class,power\nHarrow Sound/Two,Meter,${path}\nHarrow Sound/Three,Crane,\n` }
  const plan = (await call('POST', '/equipment/bulk/plan', { from })).body as { digest: string }
  expect(plan).toMatchObject({
    made: 1,
    refused: 1,
    pieces: [
      { line: 2, bound: 1, absent: [] },
      { line: 3, problems: [{ path: 'class' }] },
    ],
  })
  const elsewhere = { kind: 'table', text: 'path,class,power\nHarrow Sound/Two,Meter,nowhere/power\n' }
  expect((await call('POST', '/equipment/bulk/plan', { from: elsewhere })).body).toMatchObject({ pieces: [{ absent: ['nowhere/power'] }] })
  expect((await call('POST', '/equipment/bulk', { from, digest: 'another' })).body).toMatchObject({
    fault: { code: 'equipment.plan-changed' },
  })
  expect((await call('POST', '/equipment/bulk', { from, digest: plan.digest })).body).toMatchObject({ made: 1, changed: 0, left: 1 })
  expect(String((await call('GET', '/equipment/table.csv')).body)).toContain(`Harrow Sound/Two,Meter,,,${path}`)
  expect((await call('POST', '/equipment/bulk/plan', { from: { kind: 'table', text: 'name\nx\n' } })).body).toMatchObject({
    fault: { code: 'equipment.table' },
  })
  const folders = { kind: 'folders', class: 'Meter', pattern: 'none/*', to: 'Elsewhere' }
  expect((await call('POST', '/equipment/bulk/plan', { from: folders })).body).toMatchObject({ fields: [{ path: 'from.to' }] })
  const { items } = (await call('GET', '/equipment')).body as unknown as { items: (Saved & { path: string })[] }
  await call('DELETE', `/equipment/${items.find((each) => each.path === 'Harrow Sound')!.id}`)
  expect((await call('GET', '/tags?below=Harrow%20Sound')).body).toMatchObject({ total: 0 })
  await call('DELETE', `/equipment-classes/${made.id}`)
}

const callDisplays = async (call: Call, { tagId, path }: { tagId: number; path: string }) => {
  const pane = (shows: object, y: number) => ({ x: 0, y, w: 3, h: 2, shows })
  const panes = [pane({ kind: 'value', of: path }, 0), pane({ kind: 'troubles' }, 2), pane({ kind: 'windows', of: path }, 4)]
  const display = { name: 'Quay', panes }
  const made = (await call('POST', '/displays', display)).body as unknown as Saved
  expect((await call('POST', '/displays', { ...display, name: 'QUAY' })).body).toMatchObject({ fault: { code: 'entry.taken' } })
  expect((await call('POST', '/displays', { name: 'Odd', panes: [{ ...panes[0], x: 11 }] })).body).toMatchObject({
    fields: [{ path: 'panes.0.w' }],
  })
  expect((await call('GET', '/displays?find=quay')).body).toMatchObject({ total: 1 })
  const change = { revision: made.revision, display: { ...display, name: 'Quay 2' } }
  await call('PUT', `/displays/${made.id}`, change)
  expect((await call('PUT', `/displays/${made.id}`, change)).body).toMatchObject({ fault: { code: 'entry.edited' } })
  expect((await call('GET', `/displays/${made.id}`)).body).toMatchObject({ name: 'Quay 2', class: '' })
  expect((await call('POST', '/displays/named', { named: [path, 'not/there'] })).body).toMatchObject([
    { named: path, id: tagId },
    { named: 'not/there', id: null },
  ])
  expect((await call('POST', '/displays/pane', { shows: { kind: 'trend', of: [path] } })).body).toMatchObject({
    ...{ kind: 'trend', pictures: [{ id: tagId }] },
  })
  const link = { displayId: made.id, name: 'Hall', days: 1 }
  expect((await call('POST', '/wall-links', { ...link, equipment: 'Nowhere' })).body).toMatchObject({ fields: [{ path: 'equipment' }] })
  const { token, shown } = (await call('POST', '/wall-links', link)).body as unknown as { token: string; shown: Saved }
  expect((await call('POST', '/wall', { token })).body).toMatchObject({
    ...{
      display: { name: 'Quay 2' },
      equipment: [],
      in: '',
      tags: [{ id: tagId }],
      values: [{ id: tagId, value: expect.any(Number) as number }],
    },
  })
  expect((await call('POST', '/wall/pane', { token, pane: 1 })).body).toMatchObject({ kind: 'troubles' })
  expect((await call('POST', '/wall/pane', { token, pane: 2 })).body).toMatchObject({ kind: 'windows', series: { id: tagId } })
  expect((await call('POST', '/wall/pane', { token, pane: 9 })).body).toEqual({ kind: 'live' })
  expect((await call('GET', '/wall-links')).body).toMatchObject({ total: 1, items: [{ name: 'Hall', displayId: made.id }] })
  await call('DELETE', `/wall-links/${shown.id}`)
  expect((await call('POST', '/wall', { token })).body).toMatchObject({ fault: { code: 'display.no-wall' } })
  await call('DELETE', `/displays/${made.id}`)
  await callWallOfOne(call, path)
}

/** A wall for one piece of equipment, which is removed: what it names would be found on the whole site. */
const callWallOfOne = async (call: Call, path: string) => {
  const kind = (await call('POST', '/equipment-classes', { name: 'Gate', properties: [] })).body as unknown as Saved
  const piece = (await call('POST', '/equipment', { path: 'North gate', class: 'Gate' })).body as unknown as Saved
  const panes = [{ kind: 'value', of: path }, { kind: 'troubles' }].map((shows, i) => ({ x: 0, y: 2 * i, w: 3, h: 2, shows }))
  const display = (await call('POST', '/displays', { name: 'Gate', class: 'Gate', panes })).body as unknown as Saved
  const link = { displayId: display.id, name: 'At the gate', days: 1, equipment: 'North gate' }
  const { token } = (await call('POST', '/wall-links', link)).body as unknown as { token: string }
  expect((await call('POST', '/wall', { token })).body).toMatchObject({ in: 'North gate', tags: [{ named: path, id: expect.any(Number) as number }] }) // prettier-ignore
  expect((await call('POST', '/wall/pane', { token, pane: 1 })).body).toMatchObject({ kind: 'troubles' })
  await call('DELETE', `/equipment/${piece.id}`)
  expect((await call('POST', '/wall', { token })).body).toMatchObject({ in: '', equipment: [], tags: [], values: [] })
  for (const pane of [0, 1, 2]) expect((await call('POST', '/wall/pane', { token, pane })).body).toEqual({ kind: 'live' })
  await call('DELETE', `/displays/${display.id}`)
  await call('DELETE', `/equipment-classes/${kind.id}`)
}

/** What only outlets to a platform have. */
const callPlatform = async (call: Call) => {
  const cloud = new PortCloud()
  const door = new CloudDoor(cloud, '')
  const base = `http://127.0.0.1:${await door.listen(0)}/v1`
  const settings = { way: { kind: 'http', base, signIn: { kind: 'bearer', token: { plain: cloudToken } } }, site: 'harbour' }
  const outlet = { name: 'Cloud', kind: 'cloud-platform', settings }
  try {
    const made = (await call('POST', '/outlets', outlet)).body as unknown as Saved & { settings: unknown }
    // the token does not come back
    expect(made.settings).toMatchObject({ way: { signIn: { kind: 'bearer', token: { kept: true } } } })
    expect((await call('POST', '/outlets', { ...outlet, name: 'Twice' })).body).toMatchObject({ fields: [{ path: 'settings.site' }] })
    await call('POST', '/equipment', { path: 'Pier', level: 'area' })
    const plan = async () => (await call('POST', `/outlets/${made.id}/model/read`)).body as { digest: string; stepCount: number }
    await until(async () => (await plan()).stepCount > 0)
    expect((await call('GET', `/outlets/${made.id}/model`)).body).toMatchObject({ state: 'differs' })
    const wrong = { digest: 'of another plan', removing: false }
    expect((await call('POST', `/outlets/${made.id}/model/apply`, wrong)).body).toMatchObject({ fault: { code: 'cloud.plan-changed' } })
    const { digest } = await plan()
    expect((await call('POST', `/outlets/${made.id}/model/apply`, { digest })).body).toMatchObject({ state: 'alike' })
    expect(cloud.counts().equipment).toBeGreaterThan(0)
    await call('DELETE', `/outlets/${made.id}`)
  } finally {
    await door.close()
  }
}

/** Everything that is asked of alarms, once. */
const callAlarms = async (call: Call) => {
  const tag = {
    path: 'tank/level',
    source: { kind: 'memory', start: 50 },
    type: 'float64',
    access: 'readwrite',
    limits: [{ kind: 'high', at: 80 }],
  }
  const [made] = (await call('POST', '/tags', { tags: [tag] })).body as unknown as [Saved]
  const wrong = { ...tag, path: 'tank/other', limits: [{ kind: 'high', at: 'much' }] }
  expect((await call('POST', '/tags', { tags: [wrong] })).body).toMatchObject({ fields: [{ path: 'tags.0.limits.0.at' }] })
  await call('PUT', `/tags/${made.id}/value`, { value: 90 })
  const list = async () => (await call('GET', '/alarms?find=tank')).body as { total: number; items: { key: string }[] }
  await until(async () => (await list()).total === 1)
  const { key } = (await list()).items[0]!
  expect((await call('POST', '/alarms/comment', { key, comment: 'Valve is being changed' })).body).toEqual({ commented: true })
  const matching = { find: 'nothing that is there', until: Date.now() }
  expect((await call('POST', '/alarms/acknowledge', { matching })).body).toEqual({ acknowledged: 0, left: [] })
  expect((await call('POST', '/alarms/acknowledge', { matching, keys: [key] })).body).toMatchObject({ fault: { code: 'entry.invalid' } })
  expect((await call('POST', '/alarms/acknowledge', { keys: [key, 'nothing/at-all'], comment: '' })).body).toEqual({
    ...{ acknowledged: 1, left: ['nothing/at-all'] },
  })
  await until(async () => ((await call('GET', `/alarms/events?tag=${made.id}`)).body as { total: number }).total === 3)
  expect((await call('GET', '/alarms/events?find=valve')).body).toMatchObject({
    total: 1,
    items: [{ turn: 'commented', path: 'tank/level' }],
  })
  await call('DELETE', `/tags/${made.id}`)
}

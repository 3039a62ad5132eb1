import {
  AttributeIds,
  ClientMonitoredItem,
  constructEventFilter,
  ofType,
  DataType,
  NodeId,
  resolveNodeId,
  TimestampsToReturn,
  type LocalizedText,
  type Variant,
} from 'node-opcua'
import { afterEach, expect, it, vi } from 'vitest'
import { freePort } from '../../launcher/ports.mjs'
import { changeConfiguration } from '#db/configuration'
import { alarmNamespace } from '#engine/outlets/opcua/alarmNodes'
import { quality } from '#core/tags/quality'
import { outletContract } from '#shared/outlets/outlet'
import { tagDraft } from '#shared/tags'
import { closeAll, databaseFor, engineOn, type Closing } from '../support/engineOn'
import { plainClient, type Client } from '../support/outlet'
import { alarmsOf } from '../support/alarmsOf'
import { until } from '../support/until'

/** Alarms as conditions, as a client of the standard has them (OPC 10000-9). */

const closing: Closing = []
afterEach(() => closeAll(closing))

const fields = ['EventId', 'SourceName', 'Message', 'Severity', 'ActiveState.Id', 'AckedState.Id', 'Comment', 'Retain', 'ConditionName']
interface Told {
  eventId: Buffer
  source: string
  text: string
  severity: number
  active: boolean
  acked: boolean
  comment: string
  retain: boolean
}

const siteWith = async (anonymous: { folder: string; may: string }[], others: readonly string[] = []) => {
  const database = await databaseFor(closing)
  const port = await freePort()
  const tag = (path: string) =>
    tagDraft.parse({
      path,
      source: { kind: 'memory', start: 50 },
      type: 'float64',
      unit: '%',
      limits: [
        { kind: 'high', at: 80 },
        { kind: 'higher', at: 95, severity: 'trouble' },
      ],
    })
  const outlet = outletContract.parse({ name: 'SCADA', kind: 'opcua-server', settings: { doors: [{ port }], anonymous } })
  await changeConfiguration(database.db, 'test', 'made', async (editor) => {
    await editor.insert('tag', ['tank/level', 'secret/level', ...others].map(tag))
    await editor.insert('outlet', [outlet])
  })
  const { engine } = await engineOn(closing, database)
  await until(() => engine.status().outlets[0]?.flow === 'flowing')
  const set = (path: string, value: number) => {
    engine.table.set(engine.tags.byPath(path)!.handle, value, quality.Good, Date.now())
    engine.table.flush()
  }
  const rename = (path: string, to: string) =>
    changeConfiguration(database.db, 'test', 'renamed', async (editor) => {
      await editor.update('tag', (await editor.row('tag', engine.tags.byPath(path)!.id))!, { path: to })
    })
  return { engine, port, set, rename }
}

const comeIn = async (port: number) => {
  const client = await plainClient(port)
  closing.push(() => client.close())
  const subscription = await client.session.createSubscription2({ requestedPublishingInterval: 20, publishingEnabled: true })
  const filter = constructEventFilter(fields, ofType('ConditionType'))
  const item = ClientMonitoredItem.create(
    subscription,
    { nodeId: resolveNodeId('Server'), attributeId: AttributeIds.EventNotifier },
    { queueSize: 100, discardOldest: true, filter },
    TimestampsToReturn.Both,
  )
  const told: Told[] = []
  item.on('changed', (event) => {
    const [eventId, source, text, severity, active, acked, comment, retain] = (event as unknown as Variant[]).map(
      ({ value }) => value as unknown,
    )
    // refreshes have no source of ours
    if (typeof source !== 'string' || !source.includes('/')) return
    const words = (given: unknown) => (given as LocalizedText | null)?.text ?? ''
    told.push({ ...{ eventId: eventId as Buffer, source, text: words(text), severity: severity as number }, ...{ active: active as boolean, acked: acked as boolean, comment: words(comment), retain: retain as boolean } }) // prettier-ignore
  })
  await new Promise<void>((resolve) => item.once('initialized', () => resolve()))
  return { client, told, subscription }
}
const conditionOf = ({ session }: Client, key: string) => new NodeId(2, key, session.getNamespaceIndex(alarmNamespace))

/** Below Alarms: the tags, and what is an alarm of the first of them. */
const conditions = async ({ session, below }: Client): Promise<string[]> => {
  const at = (id: string) => `ns=${session.getNamespaceIndex(alarmNamespace)};s=${id}`
  const tags = await below(at('Alarms'))
  // it is a part, and a source of events as well
  return [...new Set([...tags, ...(await below(at(`of ${tags[0]}`)))])]
}

it('tells a client of what crosses a limit, and takes its word that it was seen', async () => {
  const { engine, port, set } = await siteWith([{ folder: '', may: 'write' }])
  const { client, told } = await comeIn(port)
  const last = () => told.at(-1)!
  set('tank/level', 97)
  await until(
    () => told,
    ({ length }) => length === 2,
  )
  expect(told[1]).toMatchObject({
    source: 'tank/level',
    text: 'higher: above 95 %, 97 %',
    severity: 800,
    active: true,
    acked: false,
    retain: true,
  })
  expect(await conditions(client)).toEqual(['tank/level', 'high', 'higher'])
  const [high, higher] = alarmsOf(engine.alarms)
    .map(({ key }) => key)
    .sort()
  const id = conditionOf(client, higher!)
  expect((await client.session.acknowledgeCondition(id, Buffer.from('nothing'), 'x')).name).toBe('BadEventIdUnknown')
  expect((await client.session.addCommentCondition(id, told[1]!.eventId, 'Looked at it')).name).toBe('Good')
  await until(last, ({ comment }) => comment === 'Looked at it')
  expect((await client.session.acknowledgeCondition(id, told.at(-1)!.eventId, 'Pump 2 runs')).name).toBe('Good')
  await until(last, ({ acked }) => acked)
  expect(told.at(-1)).toMatchObject({ active: true, comment: 'Pump 2 runs', retain: true })
  expect(engine.alarms.get(higher!)).toMatchObject({ seen: { by: expect.stringContaining('Plain client, as anonymous') as string } })
  expect((await client.session.acknowledgeCondition(id, told.at(-1)!.eventId, '')).name).toBe('BadConditionBranchAlreadyAcked')
  // over and seen: told for the last time, and gone
  set('tank/level', 60)
  await until(
    () => told,
    (all) => all.some(({ text, retain }) => text.startsWith('higher') && !retain),
  )
  await until(
    () => conditions(client),
    (all) => all.join() === 'tank/level,high',
  )
  // what a person here acknowledges, the client hears
  engine.alarms.acknowledge([high!], 'maren', 'by hand')
  await until(last, ({ comment, retain }) => comment === 'by hand' && !retain)
})

it('tells a client of what happens as soon as the client was told that it listens', async () => {
  const { port, set } = await siteWith([{ folder: '', may: 'read' }])
  const soon = globalThis.setImmediate
  // the package has begun to listen a turn late; a busy turn is a long one
  const busy = (work: () => void) => (String(work).includes('__start_sampling') ? setTimeout(work, 400) : soon(work))
  vi.spyOn(globalThis, 'setImmediate').mockImplementation(busy as unknown as typeof setImmediate)
  closing.push(() => Promise.resolve(void vi.restoreAllMocks()))
  const { told } = await comeIn(port)
  set('tank/level', 85)
  await until(
    () => told,
    ({ length }) => length > 0,
    5,
  )
})

it('gives whoever comes later what is an alarm now', async () => {
  const { port, set, engine } = await siteWith([{ folder: '', may: 'read' }])
  set('tank/level', 85)
  await until(() => engine.alarms.status().active === 1)
  const { client, told, subscription } = await comeIn(port)
  expect(told).toEqual([])
  const inputs = [{ dataType: DataType.UInt32, value: subscription.subscriptionId }]
  const refresh = {
    objectId: resolveNodeId('ConditionType'),
    methodId: resolveNodeId('ConditionType_ConditionRefresh'),
    inputArguments: inputs,
  }
  expect((await client.session.call(refresh)).statusCode.name).toBe('Good')
  await until(() => told.length === 1)
  expect(told[0]).toMatchObject({ source: 'tank/level', active: true })
  // who may only read may not say that it was seen, nor switch it off
  const id = conditionOf(client, alarmsOf(engine.alarms)[0]!.key)
  expect((await client.session.acknowledgeCondition(id, told[0]!.eventId, 'x')).name).toBe('BadUserAccessDenied')
  const disable = { objectId: id, methodId: resolveNodeId('ConditionType_Disable'), inputArguments: [] }
  expect((await client.session.call(disable)).statusCode.name).toBe('BadUserAccessDenied')
  expect(alarmsOf(engine.alarms)[0]!.seen).toBeNull()
})

it('asks who may read a tag by the name that it has now', async () => {
  const { port, set, engine, rename } = await siteWith([
    { folder: '', may: 'read' },
    { folder: 'secret', may: 'nothing' },
  ])
  const { client } = await comeIn(port)
  set('tank/level', 85)
  await until(async () => (await conditions(client)).join() === 'tank/level,high')
  const id = conditionOf(client, alarmsOf(engine.alarms)[0]!.key)
  await rename('tank/level', 'secret/tank')
  await until(
    async () => (await client.below(`ns=${id.namespace};s=Alarms`)).join(),
    (seen) => seen === '',
    4,
  )
  expect((await client.session.acknowledgeCondition(id, Buffer.from('x'), 'x')).name).toMatch(/^BadNodeId/)
})

it('tells nobody of alarms of tags that one may not read', async () => {
  const { port, set, engine } = await siteWith([
    { folder: '', may: 'read' },
    { folder: 'secret', may: 'nothing' },
  ])
  const { client, told } = await comeIn(port)
  set('secret/level', 85)
  set('tank/level', 85)
  await until(() => engine.alarms.status().active === 2)
  await until(() => told.length === 1)
  set('tank/level', 97)
  await until(() => told.length === 2)
  expect(told.map(({ source }) => source)).toEqual(['tank/level', 'tank/level'])
  expect(await conditions(client)).toEqual(['tank/level', 'high', 'higher'])
  const hidden = alarmsOf(engine.alarms).find(({ path }) => path === 'secret/level')!
  expect((await client.session.acknowledgeCondition(conditionOf(client, hidden.key), Buffer.from('x'), 'x')).name).toMatch(/^BadNodeId/)
})

it('tells of a flood one by one while others have their turn, and lets in who had no room', async () => {
  const [most, more] = [500, 40]
  const paths = Array.from({ length: most + more }, (_, i) => `pump/${i}`)
  const { port, engine } = await siteWith([{ folder: 'pump', may: 'read' }], paths)
  const client = await plainClient(port)
  closing.push(() => client.close())
  const top = `ns=${client.session.getNamespaceIndex(alarmNamespace)};s=Alarms`
  const shown = async () => new Set(await client.below(top)).size
  for (const path of paths) engine.table.set(engine.tags.byPath(path)!.handle, 90, quality.Good, Date.now())
  engine.table.flush()
  await until(() => engine.alarms.status().active === most + more)
  // a client that asks meanwhile has its answer before all of them are there
  expect(await shown()).toBeLessThan(most)
  // each takes the package its time
  await until(shown, (count) => count === most, 120)
  const isShown = async (path: string) => (await client.below(top)).includes(path)
  expect(await isShown(paths.at(-1)!)).toBe(false)
  const gone = alarmsOf(engine.alarms).filter(({ path }) => paths.slice(0, more).includes(path))
  engine.alarms.acknowledge(
    gone.map(({ key }) => key),
    'maren',
    '',
  )
  for (const { path } of gone) engine.table.set(engine.tags.byPath(path)!.handle, 50, quality.Good, Date.now())
  engine.table.flush()
  await until(() => isShown(paths.at(-1)!), Boolean, 60)
  expect([await shown(), await isShown(paths[0]!)]).toEqual([most, false])
}, 240_000)

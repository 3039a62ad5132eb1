import { createServer } from 'node:net'
import {
  AttributeIds,
  BrowseDirection,
  ClientMonitoredItem,
  DataType,
  NodeId,
  NodeIdType,
  OPCUAClient,
  StatusCodes,
  TimestampsToReturn,
  type ClientSession,
  type DataValue,
} from 'node-opcua'
import { afterAll, afterEach, beforeAll, beforeEach, describe, expect, it } from 'vitest'
import { fault } from '#core/faults/catalogue'
import { quality } from '#core/tags/quality'
import { tagNamespace } from '#engine/outlets/opcua/addressSpace'
import { opcuaServerSettings } from '#shared/outlets/opcuaServer'
import { freePort } from '../../launcher/ports.mjs'
import { openOutlet } from '../support/outlet'
import { until } from '../support/until'

/** One door on loopback, as a new outlet has it. */
const oneDoor = (port: number, more: object = {}) => opcuaServerSettings.parse({ doors: [{ port }], ...more })

const serve = async (may: 'read' | 'write' = 'write') => {
  const port = await freePort()
  const outlet = await openOutlet(
    { doors: [{ port }], anonymous: [{ folder: '', may }] },
    {
      write: (handle, value) => {
        if (value === 13)
          return Promise.resolve({
            ok: false,
            quality: quality.BadOutOfRange,
            fault: fault('write.value', { path: 'x', problem: 'unlucky' }),
          })
        // the device clamps to 1000, as real ones do
        outlet.table.set(handle, typeof value === 'number' ? Math.min(value, 1000) : value, quality.Good, Date.now())
        outlet.table.flush()
        return Promise.resolve({ ok: true })
      },
    },
  )
  return { ...outlet, url: `opc.tcp://127.0.0.1:${port}` }
}

const connect = async (url: string) => {
  const client = OPCUAClient.create({ endpointMustExist: false, connectionStrategy: { maxRetry: 1 } })
  await client.connect(url)
  const session = await client.createSession()
  return { session, close: async () => (await session.close(), await client.disconnect()) }
}

describe('the OPC UA outlet, seen by a client', () => {
  let outlet: Awaited<ReturnType<typeof serve>>
  let client: Awaited<ReturnType<typeof connect>>
  let session: ClientSession
  const nodeOf = (path: string) => `ns=${session.getNamespaceIndex(tagNamespace)};s=${path}`
  const readValue = (path: string) => session.read({ nodeId: nodeOf(path), attributeId: AttributeIds.Value })

  beforeAll(async () => {
    outlet = await serve()
    await until(() => outlet.session.status().flow === 'flowing')
  })
  beforeEach(async () => {
    client = await connect(outlet.url)
    session = client.session
    await session.readNamespaceArray()
  })
  afterEach(() => client.close())
  afterAll(() => outlet.session.close())

  it('shows the folders of the paths, and drops them when they empty', async () => {
    const { tag } = outlet
    const made = tag('berth/1/shore/active_power')
    outlet.session.setTags([made], [])
    const below = async (node: string) => {
      const { references } = await session.browse({
        nodeId: node,
        browseDirection: BrowseDirection.Forward,
        referenceTypeId: 'Organizes',
        resultMask: 63,
      })
      return references!.map(({ browseName }) => browseName.name)
    }
    expect(await below('ObjectsFolder')).toContain('berth')
    expect(await below(nodeOf('berth/1/'))).toEqual(['shore'])
    expect(await below(nodeOf('berth/1/shore/'))).toEqual(['active_power'])
    outlet.session.setTags([], [made.handle])
    expect(await below('ObjectsFolder')).not.toContain('berth')
  })

  it.each([
    ['bool', true, DataType.Boolean, true],
    ['int16', -703, DataType.Int16, -703],
    ['uint16', 65535, DataType.UInt16, 65535],
    ['int32', -70000, DataType.Int32, -70000],
    ['uint32', 4_000_000_000, DataType.UInt32, 4_000_000_000],
    ['int64', -2n, DataType.Int64, [0xffffffff, 0xfffffffe]],
    ['uint64', 2n ** 63n + 5n, DataType.UInt64, [0x80000000, 5]],
    ['float32', 1481.5, DataType.Float, 1481.5],
    ['float64', 70.3, DataType.Double, 70.3],
    ['string', 'HSM-2211-B', DataType.String, 'HSM-2211-B'],
  ] as const)('passes %s on with its own type, status and times', async (type, value, uaType, expected) => {
    const tag = outlet.tag(`types/${type}`, { type })
    outlet.session.setTags([tag], [])
    const waiting = await readValue(`types/${type}`)
    expect(waiting.statusCode.value).toBe(StatusCodes.BadWaitingForInitialData.value)

    const sourceTime = Date.now() - 5000
    outlet.table.set(tag.handle, value, quality.Good, sourceTime)
    outlet.table.confirm(tag.handle, sourceTime + 4000)
    outlet.table.flush()
    const read = await readValue(`types/${type}`)
    expect(read.value.dataType).toBe(uaType)
    expect(typeof expected === 'object' ? Array.from(read.value.value as number[]) : read.value.value).toEqual(expected)
    expect(read.statusCode.value).toBe(StatusCodes.Good.value)
    expect(read.sourceTimestamp!.getTime()).toBe(sourceTime)
    expect(read.serverTimestamp!.getTime()).toBeGreaterThanOrEqual(sourceTime + 4000)

    outlet.table.degrade(tag.handle, quality.BadNoCommunication, Date.now())
    expect((await readValue(`types/${type}`)).statusCode.value).toBe(StatusCodes.BadNoCommunication.value)
  })

  it.each(['odd/a;b=c', 'odd/ns=3;s=x', 'odd/Ångström “ü”', 'odd/a.b c', 'odd/100 %'])('serves a path like %s', async (path) => {
    const tag = outlet.tag(path)
    outlet.session.setTags([tag], [])
    outlet.table.set(tag.handle, 7, quality.Good, Date.now())
    const nodeId = new NodeId(NodeIdType.STRING, path, session.getNamespaceIndex(tagNamespace))
    await until(async () => (await session.read({ nodeId, attributeId: AttributeIds.Value })).value.value === 7)
  })

  it('lets a tag that is gone answer no more, even when another takes its place in the table', async () => {
    const gone = outlet.tag('place/old')
    outlet.session.setTags([gone], [])
    outlet.table.set(gone.handle, 1, quality.Good, Date.now())
    await until(async () => (await readValue('place/old')).value.value === 1)
    outlet.session.setTags([], [gone.handle])
    outlet.table.release(gone.handle)
    const next = outlet.tag('place/new')
    expect(next.handle).toBe(gone.handle)
    outlet.session.setTags([next], [])
    outlet.table.set(next.handle, 2, quality.Good, Date.now())
    expect((await readValue('place/old')).statusCode.name).toBe('BadNodeIdUnknown')
    await until(async () => (await readValue('place/new')).value.value === 2)
  })

  it('carries units with their UNECE code, and descriptions', async () => {
    const tag = outlet.tag('units/power', { unit: 'kW', description: 'Power taken by the ship' })
    outlet.session.setTags([tag], [])
    const path = await session.translateBrowsePath({
      startingNode: nodeOf('units/power'),
      relativePath: {
        elements: [
          {
            referenceTypeId: 'i=46',
            isInverse: false,
            includeSubtypes: false,
            targetName: { namespaceIndex: 0, name: 'EngineeringUnits' },
          },
        ],
      },
    })
    const unit = await session.read({ nodeId: path.targets![0]!.targetId, attributeId: AttributeIds.Value })
    const { displayName, unitId } = unit.value.value as { displayName: { text: string }; unitId: number }
    expect(displayName.text).toBe('kW')
    expect(unitId).toBe(0x4b5754) // "KWT"
    const description = await session.read({ nodeId: nodeOf('units/power'), attributeId: AttributeIds.Description })
    expect((description.value.value as { text: string }).text).toBe('Power taken by the ship')
  })

  it.each([0, 100])('notifies of changes at a sampling interval of %i ms', async (samplingInterval) => {
    const tag = outlet.tag(`live/sampled_${samplingInterval}`)
    outlet.session.setTags([tag], [])
    outlet.table.set(tag.handle, 1, quality.Good, Date.now())
    outlet.table.flush()
    const subscription = await session.createSubscription2({
      requestedPublishingInterval: 50,
      requestedMaxKeepAliveCount: 20,
      requestedLifetimeCount: 1000,
      maxNotificationsPerPublish: 0,
      publishingEnabled: true,
      priority: 1,
    })
    const seen: DataValue[] = []
    const toldBefore = outlet.session.changesTold
    const item = ClientMonitoredItem.create(
      subscription,
      { nodeId: nodeOf(tag.path), attributeId: AttributeIds.Value },
      { samplingInterval, discardOldest: true, queueSize: 10 },
      TimestampsToReturn.Both,
    )
    item.on('changed', (value) => seen.push(value))
    await until(() => seen.length === 1)
    outlet.table.set(tag.handle, 2, quality.Good, Date.now())
    outlet.table.flush()
    await until(() => seen.at(-1)!.value.value === 2)
    outlet.table.degrade(tag.handle, quality.BadNoCommunication, Date.now())
    outlet.table.flush()
    await until(() => seen.at(-1)!.statusCode.value === StatusCodes.BadNoCommunication.value)
    expect(seen.length).toBe(3)
    expect(outlet.session.changesTold).toBeGreaterThanOrEqual(toldBefore + 3)
    const [status] = outlet.session.status().clients
    expect(status).toMatchObject({ items: 1, identity: 'anonymous', security: 'not secured' })
    await subscription.terminate()
  })

  it('writes where access allows, and then shows what the device holds', async () => {
    const tag = outlet.tag('write/limit', { writable: true })
    outlet.session.setTags([tag], [])
    outlet.table.set(tag.handle, 1, quality.Good, Date.now())
    const write = (path: string, value: number, dataType = DataType.Double) =>
      session.write({ nodeId: nodeOf(path), attributeId: AttributeIds.Value, value: { value: { dataType, value } } })
    expect((await write('write/limit', 70.3)).name).toBe('Good')
    expect(outlet.written.at(-1)).toEqual({ handle: tag.handle, value: 70.3 })
    expect((await write('write/limit', 5000)).name).toBe('Good')
    expect((await readValue('write/limit')).value.value).toBe(1000)
    expect((await write('write/limit', 13)).name).toBe('BadOutOfRange')
    expect((await write('write/limit', 1, DataType.Int16)).name).toBe('BadTypeMismatch')
  })

  it('refuses writes to what may only be read', async () => {
    const tag = outlet.tag('write/measured')
    outlet.session.setTags([tag], [])
    outlet.table.set(tag.handle, 1, quality.Good, Date.now())
    const before = outlet.written.length
    const status = await session.write({
      nodeId: nodeOf('write/measured'),
      attributeId: AttributeIds.Value,
      value: { value: { dataType: DataType.Double, value: 3 } },
    })
    expect(status.name).toBe('BadNotWritable')
    expect(outlet.written.length).toBe(before)
  })

  it('knows who is connected, and can disconnect them', async () => {
    await readValue('write/measured')
    const [found] = outlet.session.status().clients
    expect(found!.lastAsked).toBe('read')
    expect(found!.from).toContain('127.0.0.1')
    expect(outlet.session.disconnect(found!.id)).toBe(true)
    // the client comes back by itself, as another session
    await until(() => outlet.session.status().clients.every(({ id }) => id !== found!.id))
  })
})

describe('the OPC UA outlet', () => {
  it('lets anonymous clients write nothing where it is set so', async () => {
    const outlet = await serve('read')
    const tag = outlet.tag('limit', { writable: true })
    outlet.table.set(tag.handle, 1, quality.Good, Date.now())
    outlet.session.setTags([tag], [])
    await until(() => outlet.session.status().flow === 'flowing')
    const { session, close } = await connect(outlet.url)
    await session.readNamespaceArray()
    const nodeId = `ns=${session.getNamespaceIndex(tagNamespace)};s=limit`
    const status = await session.write({
      nodeId,
      attributeId: AttributeIds.Value,
      value: { value: { dataType: DataType.Double, value: 3 } },
    })
    expect(status.name).toBe('BadUserAccessDenied')
    expect(outlet.written).toEqual([])
    await close()
    await outlet.session.close()
  })

  it('says when its port is taken, and opens by itself when it is free', async () => {
    const outlet = await serve()
    await until(() => outlet.session.status().flow === 'flowing')
    const blocker = createServer()
    const port = await new Promise<number>((resolve) =>
      blocker.listen(0, '127.0.0.1', () => resolve((blocker.address() as { port: number }).port)),
    )
    outlet.session.update(oneDoor(port))
    await until(() => outlet.session.status().fault?.code === 'port.in-use')
    expect(outlet.session.status()).toMatchObject({ flow: 'broken' })
    blocker.close()
    await until(() => outlet.session.status().flow === 'flowing')

    const second = createServer()
    const taken = await new Promise<number>((resolve) =>
      second.listen(0, '127.0.0.1', () => resolve((second.address() as { port: number }).port)),
    )
    outlet.session.update(oneDoor(taken))
    await until(() => outlet.session.status().fault?.code === 'port.in-use')
    outlet.session.update(oneDoor(await freePort()))
    await until(() => outlet.session.status().flow === 'flowing')
    await new Promise((resolve) => setTimeout(resolve, 1500)) // longer than the pause before the next attempt on the old port
    expect(outlet.session.status()).toMatchObject({ flow: 'flowing', fault: null })
    second.close()
    await outlet.session.close()
  })
})

import { CallBook } from '#core/calls/callBook'
import {
  AttributeIds,
  BrowseDirection,
  ClientMonitoredItem,
  DataType,
  OPCUAClient,
  TimestampsToReturn,
  UserTokenType,
  type ClientSession,
  type DataValue,
  type UserIdentityInfo,
} from 'node-opcua'
import type { TagValue } from '#core/tags/types'
import type { WriteOutcome } from '#engine/links/driver'
import type { NamedLink, OutletContext, OutletTag } from '#engine/outlets/driver'
import { tagNamespace } from '#engine/outlets/opcua/addressSpace'
import { OpcuaServerSession } from '#engine/outlets/opcua/session'
import { securedClient } from '#engine/opcua/dialling'
import { TagTable, type Handle } from '#engine/table/tagTable'
import { opcuaServerSettings } from '#shared/outlets/opcuaServer'
import type { OpcuaServerDetails } from '#shared/outlets/opcuaServerStatus'
import type { OutletStatus } from '#shared/status'
import { noAlarms, noPast, plainTag } from './outletTag'
import { memoryJournal } from './modbusSession'
import { opcuaSettingsFor, trusting } from './opcuaSession'
import { testSecurity } from './security'
import { endpointsByWire } from './ua/endpoints'
import { until } from './until'
import { certificateFacts } from '#security/certificateFacts'
import { Wire } from '#engine/wire/wire'

interface Around {
  name?: string
  write?(handle: Handle, value: TagValue): Promise<WriteOutcome>
  links?: NamedLink[]
  points?: OutletContext<unknown>['points']
}

const noPoints: OutletContext<unknown>['points'] = {
  ask: () => ({ ok: false, problem: 'there is nothing behind this outlet' }),
  release: () => {},
  isAlive: () => false,
}

/** An outlet with a tag table of its own and nothing behind it but what is given. */
export const openOutlet = async (settings: object, around: Around = {}) => {
  const table = new TagTable()
  const journal = memoryJournal()
  const security = await testSecurity()
  const calls = new CallBook()
  const wire = new Wire()
  const written: { handle: Handle; value: TagValue }[] = []
  const session = new OpcuaServerSession({
    name: around.name ?? 'Outlet under test',
    settings: opcuaServerSettings.parse(settings),
    table,
    journal,
    security,
    write: (handle, value) => {
      written.push({ handle, value })
      return around.write?.(handle, value) ?? Promise.resolve({ ok: true })
    },
    links: () => around.links ?? [],
    site: () => 'Harrow Sound',
    link: () => undefined,
    equipment: () => ({ classes: [], equipment: [] }),
    alarms: noAlarms,
    past: noPast,
    points: around.points ?? noPoints,
    ...{ arrivals: { hand: () => {} }, folder: null },
    wire,
    calls,
  })
  let id = 0
  const tag = (path: string, more: Partial<OutletTag> = {}): OutletTag => ({
    handle: table.allocate(),
    id: ++id,
    path,
    ...plainTag,
    ...more,
  })
  return {
    table,
    journal,
    security,
    session,
    wire,
    calls,
    written,
    tag,
    update: (next: object) => session.update(opcuaServerSettings.parse(next)),
  }
}

/** What an OPC UA server tells beyond what every outlet does. */
export const opcuaDetailsOf = ({ details }: Pick<OutletStatus, 'details'>): OpcuaServerDetails => {
  if (details?.kind !== 'opcua-server') throw new Error('it is no OPC UA server, or not open')
  return details
}

export const withPassword = (plain: string) => ({ kind: 'password', password: { plain } })
export const named = (userName: string, password: string): UserIdentityInfo => ({ type: UserTokenType.UserName, userName, password })

/** A client as simple as can be, with the questions that tests ask. */
export const plainClient = async (port: number, applicationName = 'Plain client') => {
  const client = OPCUAClient.create({ endpointMustExist: false, connectionStrategy: { maxRetry: 0 }, applicationName })
  await client.connect(`opc.tcp://127.0.0.1:${port}`)
  return questions(client, await client.createSession())
}

/**
 * A client with a certificate of its own that trusts the outlet's; told to distrust it, it takes only
 * another one. What it dials is closed with the test.
 */
export const securedScada = async (
  outletCertificate: Buffer,
  port: number,
  closing: (() => Promise<unknown>)[],
  mode: 'Sign' | 'SignAndEncrypt' = 'SignAndEncrypt',
) => {
  const [security, other] = [await testSecurity(), await testSecurity()]
  const settings = opcuaSettingsFor(port, { policy: 'Basic256Sha256', mode })
  const wire = new Wire()
  let trusted = outletCertificate
  const dial = async (who: UserIdentityInfo = { type: UserTokenType.Anonymous }) => {
    security.trust.set([trusting(trusted)])
    const client = securedClient(security.own, security.trust, settings, trusted, wire)
    closing.push(() => client.disconnect())
    await client.connect(`opc.tcp://127.0.0.1:${port}`)
    return questions(client, await client.createSession(who))
  }
  return {
    security,
    wire,
    dial,
    trust: () => (trusted = outletCertificate),
    distrust: () => (trusted = other.own.der),
  }
}

/** The certificate that a door shows to whoever asks, read off the wire. */
export const certificateAt = async (port: number) => {
  const [endpoint] = await endpointsByWire('127.0.0.1', port)
  return { der: endpoint!.certificate, facts: certificateFacts(endpoint!.certificate) }
}

export type Client = Awaited<ReturnType<typeof plainClient>>

const questions = async (client: OPCUAClient, session: ClientSession) => {
  await session.readNamespaceArray()
  const node = (uri: string, id: string) => `ns=${session.getNamespaceIndex(uri)};s=${id}`
  const read = (uri: string, id: string) => session.read({ nodeId: node(uri, id), attributeId: AttributeIds.Value })
  return {
    client,
    session,
    node,
    read,
    value: async (path: string) => (await read(tagNamespace, path)).value.value as unknown,
    write: async (uri: string, id: string, value: number, dataType = DataType.Double) =>
      (await session.write({ nodeId: node(uri, id), attributeId: AttributeIds.Value, value: { value: { dataType, value } } })).name,
    below: (nodeId: string) => namesBelow(session, nodeId),
    close: async () => {
      await session.close().catch(() => {})
      await client.disconnect()
    },
  }
}

const namesBelow = async (session: ClientSession, nodeId: string) => {
  const { references } = await session.browse({
    nodeId,
    browseDirection: BrowseDirection.Forward,
    referenceTypeId: 'HierarchicalReferences',
    includeSubtypes: true,
    resultMask: 63,
  })
  return (references ?? []).map(({ browseName }) => browseName.name!)
}

/** Subscribes to one node; the list grows with each notification, and has the first when this resolves. */
export const watch = async (client: Client, nodeId: string, samplingInterval: number) => {
  const subscription = await client.session.createSubscription2({
    requestedPublishingInterval: 20,
    requestedMaxKeepAliveCount: 20,
    requestedLifetimeCount: 1000,
    maxNotificationsPerPublish: 0,
    publishingEnabled: true,
    priority: 1,
  })
  const seen: DataValue[] = []
  const item = ClientMonitoredItem.create(
    subscription,
    { nodeId, attributeId: AttributeIds.Value },
    { samplingInterval, discardOldest: true, queueSize: 10 },
    TimestampsToReturn.Both,
  )
  item.on('changed', (value) => seen.push(value))
  await until(() => seen.length > 0)
  return seen
}

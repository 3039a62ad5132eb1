import { EventEmitter } from 'node:events'
import { createRequire } from 'node:module'
import type { Server, Socket } from 'node:net'
import {
  MessageBuilder,
  MonitoredItem,
  OPCUAServer,
  OPCUAServerEndPoint,
  ServerEngine,
  Subscription,
  type CallMethodResultOptions,
  type ClientSession,
  type ClientSubscription,
  type DataValue,
  type HistoryReadRequest,
  type HistoryReadResult,
  type ISessionContext,
  type MessageSecurityMode,
  type Namespace,
  type NodeId,
  type NotificationMessage,
  type OPCUAClient,
  type PermissionType,
  type Request,
  type ServerSecureChannelLayer,
  type ServerSession,
  type StatusCode,
  type UAMethod,
  type UAObject,
  type UAVariable,
  type Variant,
  type WriteRequest,
  type WriteResponse,
  type WriteValue,
} from 'node-opcua'
import { ClientTCP_transport } from 'node-opcua-transport'

/**
 * All that the OPC UA package keeps for itself and that is used here all the same. It stands in this one file, so
 * that a new version is looked through in one place; `requireInternals` says at the start what has moved.
 */

/** The package keeps something elsewhere than it did in the version that this was written for. */
export class InternalsMoved extends Error {
  constructor(what: string) {
    super(`node-opcua ${packageVersion()} has no ${what} any more; engine/opcua/internals.ts was written for another version.`)
  }
}

const packageVersion = () => (createRequire(import.meta.url)('node-opcua/package.json') as { version: string }).version

/** Members of what can be looked at without making one: methods, and fields that the source of the class names. */
const used: [owner: { name: string; prototype: object }, members: string[]][] = [
  [ClientTCP_transport, ['_install_socket']],
  [OPCUAServer, ['endpoints', 'createEndpoint', 'on_request']],
  [OPCUAServerEndPoint, ['_server', '_started']],
  [ServerEngine, ['_sessions', 'write', 'historyRead', 'getSession', 'closeSession']],
  [Subscription, ['preCreateMonitoredItem']],
  [
    MonitoredItem,
    [
      '_exceptionBased',
      '_set_parameters',
      '_on_value_changed_exception_based',
      '_on_value_changed',
      '_record_pending_value',
      '_on_opcua_event',
      '_getSession',
    ],
  ],
  [MessageBuilder as never, ['_decodeMessageBody', '_report_error']],
]

/** Fails with the version that broke it. What only shows in use fails in the same words then. */
export const requireInternals = (owners = used) => {
  for (const [owner, members] of owners)
    for (const member of members)
      if (!(member in owner.prototype) && !new RegExp(`\\b${member}\\b`).test(String(owner)))
        throw new InternalsMoved(`${owner.name}.${member}`)
}

/** One member of something, as it is known to be. */
const inside = <T extends object>(owner: object, member: keyof T & string): T => {
  if (!(member in owner)) throw new InternalsMoved(`${owner.constructor.name}.${member}`)
  return owner as T
}

// As a client

/** Shows each socket of a transport before a byte passes it. */
export const beforeFirstByte = (transport: ClientTCP_transport, seen: (socket: Socket, endpoint: string) => void) => {
  const open = inside<{ endpointUrl: string; _install_socket(socket: Socket): void }>(transport, '_install_socket')
  const install = open._install_socket.bind(transport)
  open._install_socket = (socket) => {
    seen(socket, open.endpointUrl)
    install(socket)
  }
}

/** Has a client reconnect by itself, however often it takes. */
export const keepTrying = (client: OPCUAClient) => {
  inside<{ connectionStrategy: { maxRetry: number } }>(client, 'connectionStrategy').connectionStrategy.maxRetry = -1
}

/** Has a client wait for its server to dial also where it would fetch a changed certificate from it by dialling. */
export const neverDials = (client: OPCUAClient) => {
  inside<{ _isReverseConnect: boolean }>(client, '_isReverseConnect')._isReverseConnect = true
}

/** What tells one session of a server from the next. */
export const sessionTokenOf = (session: ClientSession): string =>
  String(inside<{ authenticationToken: unknown }>(session, 'authenticationToken').authenticationToken)

interface Sends {
  _performMessageTransaction(request: WriteRequest, done: (error: Error | null, response?: WriteResponse) => void): void
}

/**
 * Sends now or never. The package's `write` would hold the request while the connection is away, or repeat
 * it in another session, and the plant would get a value long after its writer was told that it failed.
 */
export const sendOnce = (session: ClientSession, request: WriteRequest): Promise<WriteResponse> =>
  new Promise((resolve, reject) =>
    inside<Sends>(session, '_performMessageTransaction')._performMessageTransaction(request, (error, response) =>
      response ? resolve(response) : reject(error ?? new Error('no response')),
    ),
  )

interface Hears {
  onNotificationMessage(message: NotificationMessage): void
  lastSequenceNumber: number
}

/**
 * Takes the notifications of a subscription in the package's place.
 *
 * @param take is given each message; false: it is left to the package
 * @param replaced is called when the package has put another subscription into the place of this one
 */
export const hearNotifications = (
  subscription: ClientSubscription,
  take: (message: NotificationMessage) => boolean,
  replaced: () => void,
) => {
  const open = inside<Hears>(subscription, 'onNotificationMessage')
  const others = open.onNotificationMessage.bind(subscription)
  open.onNotificationMessage = (message) => {
    if (!take(message)) return others(message)
    open.lastSequenceNumber = message.sequenceNumber
  }
  ;(subscription as unknown as EventEmitter).on('subscriptionId_changed', replaced)
}

// As a server

export const sessionsOf = ({ engine }: OPCUAServer): ServerSession[] =>
  Object.values(inside<{ _sessions: Record<string, ServerSession> }>(engine, '_sessions')._sessions)

interface Opens {
  endpoints: OPCUAServerEndPoint[]
  createEndpoint(port: number, options: { host: string }): OPCUAServerEndPoint
  on_request(message: unknown, channel: unknown): void
}

const forwarded = {
  newChannel: '_on_new_channel',
  channelSecured: '_on_channel_secured',
  closeChannel: '_on_close_channel',
  connectionRefused: '_on_connectionRefused',
  openSecureChannelFailure: '_on_openSecureChannelFailure',
} as const

/**
 * The package starts with all endpoints at once and fails with any of them. It is started with this
 * one, which listens nowhere, and keeps the handlers that each real endpoint needs.
 */
export class NoEndpoint extends EventEmitter {
  start(done: () => void) {
    done()
  }
  shutdown(done: () => void) {
    done()
  }
  abruptlyInterruptChannels() {}
  endpointDescriptions() {
    return [{ endpointUrl: '' }]
  }
  getChannels() {
    return []
  }
}

/** Starts a server that listens nowhere yet. */
export const startWithout = async (server: OPCUAServer): Promise<NoEndpoint> => {
  const none = new NoEndpoint()
  server.endpoints.push(none as never)
  await server.start()
  server.endpoints.length = 0
  return none
}

/** An endpoint that is the server's as those that it made itself; it does not listen yet. */
export const endpointFor = (server: OPCUAServer, handlers: NoEndpoint, port: number, host: string): OPCUAServerEndPoint => {
  const endpoint = inside<Opens>(server, 'createEndpoint').createEndpoint(port, { host })
  for (const [event, name] of Object.entries(forwarded)) {
    const handler = inside<Record<string, (...args: unknown[]) => void>>(handlers, name)[name]!
    ;(endpoint as unknown as Record<string, unknown>)[name] = handler
    ;(endpoint as unknown as EventEmitter).on(event, handler)
  }
  return endpoint
}

export const addEndpoint = (server: OPCUAServer, endpoint: OPCUAServerEndPoint) => {
  inside<Opens>(server, 'endpoints').endpoints.push(endpoint)
}

export const removeEndpoint = (server: OPCUAServer, endpoint: OPCUAServerEndPoint) => {
  const open = inside<Opens>(server, 'endpoints')
  open.endpoints = open.endpoints.filter((other) => other !== endpoint)
}

/** Has an endpoint take part although it listens nowhere: for connections that it opens itself. */
export const startUnheard = (endpoint: OPCUAServerEndPoint) => {
  inside<{ _started: boolean }>(endpoint, '_started')._started = true
}

/** Ends it, and its connections. */
export const stopUnheard = (endpoint: OPCUAServerEndPoint) => {
  endpoint.abruptlyInterruptChannels()
  inside<{ _started: boolean }>(endpoint, '_started')._started = false
}

/** What listens for an endpoint; before anything is said, its connections show there. */
export const listenerOf = (endpoint: OPCUAServerEndPoint): Server | undefined => inside<{ _server?: Server }>(endpoint, '_server')._server

/** Has the server look at a request, as it does at those of its own endpoints. */
export const lookAt = (server: OPCUAServer, message: unknown, channel: unknown) =>
  inside<Opens>(server, 'on_request').on_request(message, channel)

interface Creates {
  preCreateMonitoredItem(space: unknown, timestamps: unknown, request: { requestedParameters?: { queueSize: number } }): object
}

/** Asks before a client's item is made. @param refusal what the client gets instead; null: go on. It may change the parameters. */
export const beforeEachItem = (subscription: Subscription, refusal: (parameters: { queueSize: number } | undefined) => object | null) => {
  const open = inside<Creates>(subscription, 'preCreateMonitoredItem')
  const create = open.preCreateMonitoredItem.bind(subscription)
  open.preCreateMonitoredItem = (space, timestamps, request) => refusal(request.requestedParameters) ?? create(space, timestamps, request)
}

interface Writes {
  write(context: { session?: ServerSession } | null, nodes: WriteValue[]): Promise<unknown>
}

/** Puts something around every write of a client. */
export const aroundWrites = (
  server: OPCUAServer,
  around: (session: ServerSession | undefined, write: () => Promise<unknown>) => Promise<unknown>,
) => {
  const engine = inside<Writes>(server.engine, 'write')
  const write = engine.write.bind(engine)
  engine.write = (context, nodes) => around(context?.session, () => write(context, nodes))
}

interface AnswersHistory {
  historyRead(context: ISessionContext, request: HistoryReadRequest): Promise<HistoryReadResult[]>
}

/** Has this answer every question of a client about the past. */
export const answerHistory = (server: OPCUAServer, answer: AnswersHistory['historyRead']) => {
  inside<AnswersHistory>(server.engine, 'historyRead').historyRead = answer
}

interface Guarded {
  checkPermissionPrivate(context: ISessionContext | null, permission: PermissionType): boolean
}

/** Has a variable ask this before it is read or written for a client. */
export const guardBy = (variable: UAVariable, may: Guarded['checkPermissionPrivate']) => {
  inside<Guarded>(variable, 'checkPermissionPrivate').checkPermissionPrivate = may
}

interface Refreshed {
  refreshFunc: ((done: (error: null, value: DataValue) => void) => void) | undefined
}

/** How a variable gets its value when a client asks; undefined: its getter answers at once, and sampling calls it directly. */
export const refreshBy = (variable: UAVariable, refresh: Refreshed['refreshFunc']) => {
  inside<Refreshed>(variable, 'refreshFunc').refreshFunc = refresh
}

interface Item {
  node: Guarded | null
  getSessionContext(): ISessionContext | null
  _exceptionBased: boolean
  samplingInterval: number
  $subscription?: object
  _pendingDataValue: DataValue | null
  _set_parameters(parameters: unknown): void
  _on_value_changed(value: DataValue): void
  _on_value_changed_exception_based(value: DataValue): void
  _record_pending_value(): void
}

/**
 * Has an item on a guarded node wait for changes instead of sampling. Whoever may not read the node stays with the
 * timer, which refuses.
 */
export const waitForChanges = (monitored: MonitoredItem, read: PermissionType) => {
  const item = inside<Item>(monitored, '_set_parameters')
  const { node } = item
  // only nodes of tags are guarded one by one
  if (!node || !Object.hasOwn(node, 'checkPermissionPrivate')) return
  const mayRead = node.checkPermissionPrivate(item.getSessionContext(), read)
  item._exceptionBased = mayRead
  item._on_value_changed_exception_based = foldTogether
  item._set_parameters = mayRead ? keepWaiting : keepSampling
}

/*
 * Another sampling interval asked for later changes nothing of this. One function for all items: each
 * with one of its own would be an object of a kind of its own, and ten thousand kinds are slow.
 */
function keepWaiting(this: Item, parameters: unknown) {
  ;(Object.getPrototypeOf(this) as Item)._set_parameters.call(this, parameters)
  this._exceptionBased = true
}
function keepSampling(this: Item, parameters: unknown) {
  ;(Object.getPrototypeOf(this) as Item)._set_parameters.call(this, parameters)
  this._exceptionBased = false
}

/**
 * The first change after a quiet time goes out at once, with all else that changes with it; what comes within the
 * sampling interval after that is folded, and goes out at its end. Items of a subscription with one interval share it:
 * with one each, as the package has it, what changes at one moment would go out at several.
 */
class Fold {
  private waiting = new Set<Item>()
  private isOpen = false
  private isOpening = false

  constructor(private interval: number) {}

  take(item: Item, value: DataValue) {
    if (!this.isOpen) this.open()
    if (this.isOpening) return item._on_value_changed(value)
    item._pendingDataValue = value
    this.waiting.add(item)
  }

  private open() {
    this.isOpen = this.isOpening = true
    // what changes together is told in one go
    queueMicrotask(() => (this.isOpening = false))
    this.wait()
  }

  private wait() {
    setTimeout(() => this.end(), this.interval).unref()
  }

  private end() {
    const { waiting } = this
    if (waiting.size === 0) return void (this.isOpen = false)
    this.waiting = new Set()
    for (const item of waiting) item._record_pending_value()
    this.wait()
  }
}

const folds = new WeakMap<object, Map<number, Fold>>()

function foldTogether(this: Item, value: DataValue) {
  const { $subscription: subscription, samplingInterval } = this
  if (samplingInterval <= 0 || !subscription) return this._on_value_changed(value)
  const known = folds.get(subscription) ?? new Map<number, Fold>()
  folds.set(subscription, known)
  const fold = known.get(samplingInterval) ?? new Fold(samplingInterval)
  known.set(samplingInterval, fold)
  fold.take(this, value)
}

interface Monitors {
  monitoredItems: Map<number, { clientHandle: number; itemToMonitor: { nodeId: NodeId; attributeId: number } }>
}

/** The nodes of a subscription, by the handles that its client gave them. */
export const monitoredNodes = (session: ServerSession, subscriptionId: number): Map<number, { nodeId: NodeId; attributeId: number }> => {
  const subscription = session.getSubscription(subscriptionId)
  if (!subscription) return new Map()
  const { monitoredItems } = inside<Monitors>(subscription, 'monitoredItems')
  return new Map([...monitoredItems.values()].map(({ clientHandle, itemToMonitor }) => [clientHandle, itemToMonitor]))
}

type Sending = Pick<ServerSecureChannelLayer, 'send_response'>

/** Looks at each answer of a channel before it is sent. */
export const beforeEachAnswer = (channel: Sending, look: (response: Parameters<Sending['send_response']>[1], request: Request) => void) => {
  const send = channel.send_response.bind(channel)
  channel.send_response = (type, response, message, done) => {
    look(response, message.request)
    return send(type, response, message, done)
  }
}

/** The part of the package that takes messages apart, one per channel. */
export interface Builder {
  /** The package names the builders of its clients otherwise than those of servers. */
  id: string
  messageHeader?: { msgType: string }
  securityMode: MessageSecurityMode
  securityHeader?: unknown
  sequenceHeader: { requestId: number } | null
  channelId: number
  emit(event: string, ...args: unknown[]): boolean
  _decodeMessageBody(body: Buffer): boolean
  _report_error(status: StatusCode, text: string): false
}

/** Takes the place of how messages are decoded, and of how it is told that one cannot be; each gets what was there before. */
export const decodeBy = (
  decode: (builder: Builder, body: Buffer, original: Builder['_decodeMessageBody']) => boolean,
  report: (builder: Builder, status: StatusCode, text: string, original: Builder['_report_error']) => false,
) => {
  const open = MessageBuilder.prototype as unknown as Builder
  const { _decodeMessageBody, _report_error } = open
  open._decodeMessageBody = function (body) {
    return decode(this, body, _decodeMessageBody)
  }
  open._report_error = function (status, text) {
    return report(this, status, text, _report_error)
  }
}

/** A condition of the address space, as the package makes one. */
export type Condition = ReturnType<Namespace['instantiateAlarmCondition']>

type Asked = (inputs: readonly Variant[], context: ISessionContext & { object?: UAObject }) => CallMethodResultOptions

/** Answers a method of a condition, or of a type of conditions. */
export const beforeMethod = (owner: object, name: string, answer: Asked) => {
  const methods = inside<Record<string, UAMethod>>(owner, name)
  methods[name]!.bindMethod((inputs, context, done) => done(null, answer(inputs, context as Parameters<Asked>[1])))
}

interface Heard {
  _on_opcua_event(event: { getEventDataSource(): { nodeId: NodeId } }): void
  _getSession(): ServerSession | null
  _start_sampling(recordInitialValue: boolean): void
  __start_sampling(recordInitialValue: boolean): void
}

/** Asks before each event that an item is told. @param mayHear of what it is told, by the node that it comes from */
export const beforeEachEvent = (item: MonitoredItem, mayHear: (session: ServerSession, source: NodeId) => boolean) => {
  const heard = inside<Heard>(item, '_on_opcua_event')
  const tell = heard._on_opcua_event.bind(item)
  heard._on_opcua_event = (event) => {
    const session = heard._getSession()
    if (session && mayHear(session, event.getEventDataSource().nodeId)) tell(event)
  }
  // the package listens a turn after it told the client that it does: what happens between would be lost
  const begin = inside<Heard>(item, '__start_sampling')
  begin._start_sampling = (recordInitialValue) => begin.__start_sampling(recordInitialValue)
}

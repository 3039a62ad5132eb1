import {
  BrowseRequest,
  BrowseResponse,
  CallRequest,
  CallResponse,
  CreateMonitoredItemsRequest,
  CreateMonitoredItemsResponse,
  CreateSessionRequest,
  DataChangeNotification,
  HistoryReadRequest,
  HistoryReadResponse,
  PublishResponse,
  ReadRequest,
  ReadResponse,
  TranslateBrowsePathsToNodeIdsRequest,
  TranslateBrowsePathsToNodeIdsResponse,
  WriteRequest,
  WriteResponse,
  type DataValue,
  type MonitoredItemCreateResult,
  type OPCUAServer,
  type Request,
  type Response,
  type ServerSecureChannelLayer,
  type ServerSession,
  type StatusCode,
} from 'node-opcua'
import { CallSource, type CallBook } from '#core/calls/callBook'
import type { CallItem, CallOutcome, CountedCall } from '#core/calls/call'
import { beforeEachAnswer, monitoredNodes } from '../../opcua/internals'
import type { ClientBook } from './clients'
import { nodeText, readItem, valueText } from './callItems'

/** Whose request it is, and when it came. */
interface Asked {
  session: ServerSession | null
  began: number
}

/** What a request and its answer were about. */
interface About {
  count: number
  /** What one of the items was answered with; null: nothing of its own. */
  statusAt?(i: number): string
  whatAt(i: number): string
  itemAt(i: number): CallItem
  /** About what it keeps in memory. */
  bytes: number
}

const bytesOfItem = 150
const notSignedIn = 'not signed in'
const nothing: About = { count: 0, whatAt: () => '', itemAt: () => ({ what: '', value: null, status: '', refused: false }), bytes: 0 }

/** A value of bad quality is an answer, too; what the server itself refuses is not. */
const ownRefusals =
  /^BadNodeId|^BadUserAccess|^BadNot(Readable|Writable|Supported)|^BadTypeMismatch|^BadOutOfRange|^BadAttribute|^BadTooMany|^BadMethod|^BadArguments|^BadNoMatch|^BadIndex|^BadMonitoredItem|^BadHistory|^BadBrowse|^BadInvalidArgument/

/** Notes what clients ask of a server, and what they are told. */
export class OpcuaCalls {
  private asked = new WeakMap<Request, Asked>()
  private sources = new WeakMap<ServerSession, CallSource>()

  constructor(
    server: OPCUAServer,
    private clients: Pick<ClientBook, 'callerOf'>,
    private book: CallBook,
  ) {
    server.on('request', (request) =>
      this.asked.set(request, {
        session: server.engine.getSession(request.requestHeader.authenticationToken),
        began: performance.now(),
      }),
    )
  }

  /** From now on what this channel answers is noted. */
  attend(channel: ServerSecureChannelLayer) {
    beforeEachAnswer(channel, (response, request) => {
      const asked = this.asked.get(request)
      if (asked) this.note(channel, request, response, asked)
    })
  }

  private note(channel: ServerSecureChannelLayer, request: Request, response: Response, { session, began }: Asked) {
    const source = this.sourceOf(channel, request, session)
    const { serviceResult } = response.responseHeader
    const service = request.constructor.name.replace(/Request$/, '')
    if (service === 'Publish' && serviceResult.isGood()) return this.noteTold(source, response, session)
    const about = serviceResult.isGood() ? aboutOf(request, response) : nothing
    const refused = refusedIn(about)
    for (const i of refused) this.book.inVain(source, about.whatAt(i), about.statusAt!(i))
    const outcome: CallOutcome =
      !serviceResult.isGood() || (refused.length > 0 && refused.length === about.count) ? 'refused' : refused.length > 0 ? 'partly' : 'well'
    const code = refused.length > 0 ? about.statusAt!(refused[0]!) : serviceResult.name
    const counted: CountedCall = { outcome, ms: performance.now() - began, isTold: false, code }
    if (!this.book.counts(source, counted)) return
    const { count, bytes } = about
    this.book.hold(source, counted, {
      ...{ service, status: serviceResult.name, count, bytes: bytes + bytesOfItem },
      tell: (most) => Array.from({ length: Math.min(most, count) }, (_, i) => about.itemAt(i)),
    })
  }

  /** Notifications; those that only say that the subscription lives tell nothing. */
  private noteTold(source: CallSource, response: Response, session: ServerSession | null) {
    if (!(response instanceof PublishResponse)) return
    const { notificationMessage, subscriptionId } = response
    const data = notificationMessage.notificationData ?? []
    if (data.length === 0 || !this.book.counts(source, toldCall)) return
    const changes = data.flatMap((part) => (part instanceof DataChangeNotification ? (part.monitoredItems ?? []) : []))
    const others = data.filter((part) => !(part instanceof DataChangeNotification)).length
    const count = changes.length + others
    this.book.hold(source, toldCall, {
      ...{ service: 'Publish', status: 'Good', count },
      bytes: bytesOfItem * (count + 1) + changes.reduce((total, { value }) => total + extraBytes(value), 0),
      tell: (most) => {
        const nodes = session ? monitoredNodes(session, subscriptionId) : null
        const told = changes.slice(0, most).map(({ clientHandle, value }): CallItem => {
          const node = nodes?.get(clientHandle)
          return readItem(node ? nodeText(node) : `item ${clientHandle} of subscription ${subscriptionId}`, value, false)
        })
        const rest = Array.from({ length: Math.min(others, most - told.length) }, () => eventItem(subscriptionId))
        return [...told, ...rest]
      },
    })
  }

  private sourceOf(channel: ServerSecureChannelLayer, request: Request, session: ServerSession | null): CallSource {
    if (session) return this.ofSession(session, channel.remoteAddress)
    const name = request instanceof CreateSessionRequest ? request.clientDescription?.applicationName?.text : null
    return new CallSource({ name: name || 'without a session', from: channel.remoteAddress, as: notSignedIn })
  }

  /** It is another one once the session is somebody else's. */
  private ofSession(session: ServerSession, from: string): CallSource {
    const caller = this.clients.callerOf(session, from)
    const known = this.sources.get(session)
    if (known && known.caller.as === caller.as && known.caller.from === from) return known
    const made = new CallSource(caller)
    this.sources.set(session, made)
    return made
  }
}

const toldCall: CountedCall = { outcome: 'well', ms: null, isTold: true }

const eventItem = (subscription: number): CallItem => ({
  ...{ what: `events of subscription ${subscription}`, value: null, status: '', refused: false },
})

const refusedIn = ({ count, statusAt }: About): number[] => {
  const refused: number[] = []
  for (let i = 0; statusAt && i < count; i++) if (ownRefusals.test(statusAt(i))) refused.push(i)
  return refused
}

/** What is long in a value. */
const extraBytes = (data: DataValue | null | undefined): number => {
  const value: unknown = data?.value?.value
  return typeof value === 'object' && value !== null && 'length' in value
    ? Number(value.length) * 8
    : typeof value === 'string'
      ? value.length
      : 0
}

/** The parts of a request and its answer that belong together, by their place. */
const paired = <A, R>(
  asked: readonly A[] | null | undefined,
  results: readonly R[] | null | undefined,
  ways: {
    what(asked: A): string
    status(result: R): string
    value?(asked: A, result: R): string | null
    bytes?(asked: A, result: R): number
  },
): About => {
  const [a, r] = [asked ?? [], results ?? []]
  const statusAt = (i: number) => (r[i] === undefined ? '' : ways.status(r[i]))
  return {
    count: a.length,
    statusAt,
    whatAt: (i) => ways.what(a[i]!),
    itemAt: (i) => {
      const status = statusAt(i)
      const value = r[i] === undefined ? null : (ways.value?.(a[i]!, r[i]) ?? null)
      return { what: ways.what(a[i]!), value, status, refused: ownRefusals.test(status) }
    },
    bytes: a.reduce((total, one, i) => total + bytesOfItem + (r[i] === undefined ? 0 : (ways.bytes?.(one, r[i]) ?? 0)), 0),
  }
}

const ofStatus = ({ statusCode }: { statusCode: StatusCode }) => statusCode.name

const aboutOf = (request: Request, response: Response): About => {
  if (request instanceof ReadRequest && response instanceof ReadResponse)
    return paired(request.nodesToRead, response.results, {
      ...{ what: nodeText, status: ofStatus, value: (_, result) => valueText(result) },
      bytes: (_, result) => extraBytes(result),
    })
  if (request instanceof WriteRequest && response instanceof WriteResponse)
    return paired(request.nodesToWrite, response.results, {
      ...{ what: nodeText, status: ({ name }) => name, value: ({ value }) => valueText(value) },
      bytes: ({ value }) => extraBytes(value),
    })
  if (request instanceof CreateMonitoredItemsRequest && response instanceof CreateMonitoredItemsResponse)
    return paired(request.itemsToCreate, response.results, {
      ...{ what: ({ itemToMonitor }) => nodeText(itemToMonitor), status: ofStatus },
      value: (_, { revisedSamplingInterval, revisedQueueSize, statusCode }: MonitoredItemCreateResult) =>
        statusCode.isGood() ? `each ${revisedSamplingInterval} ms, ${revisedQueueSize} in its queue` : null,
    })
  if (request instanceof BrowseRequest && response instanceof BrowseResponse)
    return paired(request.nodesToBrowse, response.results, {
      ...{ what: nodeText, status: ofStatus, value: (_, { references }) => `${references?.length ?? 0} references` },
    })
  if (request instanceof TranslateBrowsePathsToNodeIdsRequest && response instanceof TranslateBrowsePathsToNodeIdsResponse)
    return paired(request.browsePaths, response.results, {
      what: ({ startingNode, relativePath }) =>
        [nodeText({ nodeId: startingNode }), ...(relativePath.elements ?? []).map(({ targetName }) => targetName.toString())].join(' / '),
      ...{ status: ofStatus, value: (_, { targets }) => targets?.[0]?.targetId.toString() ?? null },
    })
  if (request instanceof CallRequest && response instanceof CallResponse)
    return paired(request.methodsToCall, response.results, {
      what: ({ objectId, methodId }) => `${nodeText({ nodeId: methodId })} of ${nodeText({ nodeId: objectId })}`,
      ...{
        status: ofStatus,
        value: ({ inputArguments }) => (inputArguments ?? []).map((one) => valueText({ value: one })).join(', ') || null,
      },
    })
  if (request instanceof HistoryReadRequest && response instanceof HistoryReadResponse)
    return paired(request.nodesToRead, response.results, { what: nodeText, status: ofStatus })
  return nothing
}

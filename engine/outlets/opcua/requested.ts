import {
  AttributeIds,
  CreateMonitoredItemsRequest,
  NodeId,
  NodeIdType,
  ReadRequest,
  RegisterNodesRequest,
  WriteRequest,
  type AddressSpace,
  type Namespace,
  type Request,
} from 'node-opcua'
import { parseRequest } from '#core/outlets/request'
import { quality } from '#core/tags/quality'
import type { OpcuaServerSettings } from '#shared/outlets/opcuaServer'
import type { RefusedRequest, RequestedPoint } from '#shared/outlets/opcuaServerStatus'
import { steadyNow } from '#pacing/clock'
import { dataValueOf } from '../../opcua/variants'
import type { OutletContext } from '../driver'
import type { PlaceNodes } from './places'
import { announce, showTag, type Ground, type Shown } from './tagVariable'
import { refreshBy } from '../../opcua/internals'

export const requestNamespace = 'urn:keen-conduit:points'

/** Nobody asked for this long: the point is let go. */
const idleMs = 300_000
const sweepMs = 10_000
const firstValueMs = 3000
const lookEveryMs = 20
const mostRefusals = 200

interface Held extends Shown {
  told: Omit<RequestedPoint, 'quality'>
  askedAt: number
}

type Points = OutletContext<unknown>['points']
type RequestSettings = OpcuaServerSettings['onRequest']

/** Whoever asks: its name, and whether it may see the whole site. */
interface Asking {
  name: string
  maySeeAll: boolean
}

/** Points that clients name themselves, `nsu=urn:keen-conduit:points;s=<link>|<address>|<type>`: a node for each, as long as it is asked for. */
export class RequestedNodes {
  readonly namespace: Namespace
  /** Where points stand that somebody found by browsing. */
  stands: Pick<PlaceNodes, 'found' | 'stand'> = { found: () => undefined, stand: () => {} }
  private held = new Map<string, Held>()
  private refused = new Map<string, RefusedRequest>()
  private tellsUnlisted = true
  private timer: NodeJS.Timeout

  constructor(
    private addressSpace: AddressSpace,
    private ground: Ground,
    private points: Points,
    private settings: RequestSettings,
    private tell: (problem: string) => void,
  ) {
    this.namespace = addressSpace.registerNamespace(requestNamespace)
    this.timer = setInterval(() => this.sweep(), sweepMs)
  }

  /** With another right to write, or switched off, everything is asked for anew. */
  take(settings: RequestSettings) {
    const keeps = settings.on && settings.mayWrite === this.settings.mayWrite && settings.most >= this.held.size
    this.settings = settings
    this.refused.clear()
    if (!keeps) for (const text of [...this.held.keys()]) this.drop(text)
  }

  /** Before a client's request is worked off: makes the nodes that it names and that are not there yet. */
  prepare(request: Request, who: () => Asking | null) {
    for (const { namespace, value } of nodesIn(request, (text) => this.stands.found(text) !== undefined))
      if (namespace === this.namespace.index && typeof value === 'string' && value !== '') this.prepareOne(value, who)
  }

  isHeld(text: string) {
    return this.held.has(text)
  }

  status() {
    return {
      points: [...this.held.values()].map(({ told, tag }) => ({ ...told, quality: this.ground.table.quality[tag.handle]! })),
      refused: [...this.refused.values()].sort((a, b) => b.lastAt - a.lastAt),
    }
  }

  announce(handles: readonly number[]) {
    if (this.held.size === 0) return
    const changed = new Set(handles)
    for (const shown of this.held.values()) if (changed.has(shown.tag.handle)) announce(shown, this.ground)
  }

  close() {
    clearInterval(this.timer)
    for (const text of [...this.held.keys()]) this.drop(text)
  }

  private prepareOne(text: string, who: () => Asking | null) {
    const held = this.held.get(text)
    if (held) {
      held.askedAt = steadyNow()
      return
    }
    const client = who()
    if (!client) return
    const problem = this.tryToHold(text, client)
    if (problem) this.refuse(text, client.name, problem)
    else this.refused.delete(keyOf(text, client.name))
  }

  /** What is wrong; null when the point is there. */
  private tryToHold(text: string, client: Asking): string | null {
    const { on, most, mayWrite } = this.settings
    if (!on) return 'points on request are switched off for this outlet'
    if (!client.maySeeAll) return 'this client has no right to the whole site'
    const parsed = parseRequest(text)
    if (!parsed.ok) return parsed.problem
    if (this.held.size >= most) return `${most} points on request are read already, and no more are allowed`
    const asked = this.points.ask(parsed.request, mayWrite)
    if (!asked.ok) return asked.problem
    this.hold(text, client.name, { handle: asked.handle, writable: asked.writable, type: parsed.request.type })
    return null
  }

  private hold(text: string, client: string, point: Pick<Held['tag'], 'handle' | 'writable' | 'type'>) {
    const found = this.stands.found(text)
    const { unit = '', range = null, names = [], description = '' } = found?.details ?? {}
    const tag = { ...point, id: 0, path: '', unit, range, names, description }
    const nodeId = new NodeId(NodeIdType.STRING, text, this.namespace.index)
    const standing = this.addressSpace.findNode(nodeId)
    if (standing) this.addressSpace.deleteNode(standing)
    const shown = showTag(this.namespace, this.ground, tag, { home: found?.home ?? null, nodeId, name: found?.name ?? text })
    this.waitForFirst(shown)
    const now = Date.now()
    this.held.set(text, Object.assign(shown, { told: { text, client, at: now }, askedAt: now }))
  }

  /** The first answer waits for the device; later ones are what the tag table holds. */
  private waitForFirst(shown: Shown) {
    const { table } = this.ground
    const { handle, type } = shown.tag
    const end = steadyNow() + firstValueMs
    refreshBy(shown.variable, (done) => {
      const look = () => {
        const waits = shown.alive && table.quality[handle] === quality.BadWaitingForInitialData && steadyNow() < end
        if (waits) return void setTimeout(look, lookEveryMs)
        refreshBy(shown.variable, undefined)
        done(null, dataValueOf(table, handle, type))
      }
      look()
    })
  }

  /** Tells it once, and counts from then on. */
  private refuse(text: string, client: string, problem: string) {
    const key = keyOf(text, client)
    const known = this.refused.get(key)
    const now = Date.now()
    if (known?.problem === problem) {
      known.times++
      known.lastAt = now
      return
    }
    if (!known && this.refused.size >= mostRefusals) return this.refuseUnlisted()
    this.refused.set(key, { text, client, problem, times: 1, at: now, lastAt: now })
    this.tell(`“${client}” asked for “${text}” and did not get it: ${problem}.`)
  }

  /** A client with thousands of wrong names shall not fill the journal with them. */
  private refuseUnlisted() {
    if (!this.tellsUnlisted) return
    this.tellsUnlisted = false
    this.tell(`More than ${mostRefusals} different requests were refused; further ones are not listed.`)
  }

  private sweep() {
    const before = steadyNow() - idleMs
    for (const [text, { variable, askedAt, tag }] of this.held) {
      const idle = askedAt < before && variable.listenerCount('value_changed') === 0
      if (idle || !this.points.isAlive(tag.handle)) this.drop(text)
    }
    for (const [key, { lastAt }] of this.refused) if (lastAt < before) this.refused.delete(key)
    this.tellsUnlisted ||= this.refused.size < mostRefusals / 2
  }

  private drop(text: string) {
    const held = this.held.get(text)!
    this.held.delete(text)
    held.alive = false
    this.addressSpace.deleteNode(held.variable)
    this.points.release(held.tag.handle)
    this.stands.stand(text)
  }
}

const keyOf = (text: string, client: string) => `${client}\n${text}`

/**
 * Nodes whose values a request wants, or will want.
 * @param stands whether the node is there anyway: then only its value needs the point
 */
const nodesIn = (request: Request, stands: (text: string) => boolean): readonly NodeId[] => {
  if (request instanceof ReadRequest)
    return (request.nodesToRead ?? [])
      .filter(({ attributeId, nodeId }) => attributeId === AttributeIds.Value || !stands(String(nodeId.value)))
      .map(({ nodeId }) => nodeId)
  if (request instanceof WriteRequest) return (request.nodesToWrite ?? []).map(({ nodeId }) => nodeId)
  if (request instanceof CreateMonitoredItemsRequest) return (request.itemsToCreate ?? []).map(({ itemToMonitor }) => itemToMonitor.nodeId)
  if (request instanceof RegisterNodesRequest) return request.nodesToRegister ?? []
  return []
}

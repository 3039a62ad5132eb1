import {
  AccessLevelFlag,
  DataValue,
  NodeId,
  NodeIdType,
  StatusCodes,
  type AddressSpace,
  type BaseNode,
  type Namespace,
  type UAObject,
  type UAVariable,
} from 'node-opcua'
import { protocolOf } from '#core/links/registry'
import { placeNamespace } from '#core/opcua/ourNamespaces'
import { requestText } from '#core/outlets/request'
import { isArrayType, type DataType } from '#core/tags/types'
import { within } from '#pacing/within'
import type { BrowsedNode, Place, PlaceDetails } from '#shared/browse'
import { steadyNow } from '#pacing/clock'
import type { LinkBrowser } from '../../links/driver'
import type { LinkRunner } from '../../links/linkRunner'
import { uaTypeOf } from '../../opcua/variants'
import { guard, seenIf, type Permits } from './tagVariable'

/** What stands behind a link is looked at anew where it was looked at longer ago. */
const freshMs = 20_000
/** Nobody looked for this long: what was found is let go. */
const idleMs = 600_000
const sweepMs = 60_000
const lookMs = 15_000
/** Of one place, and of all that are open. */
const mostInside = 2000
const mostNodes = 20_000
const unread = new DataValue({ statusCode: StatusCodes.BadWaitingForInitialData })

/** A point as it was found behind a link: whoever reads its value has it read there. */
export interface FoundPoint {
  home: UAObject
  name: string
  details: PlaceDetails
}

/** Something behind a link that opens. */
interface Inner {
  node: UAObject
  linkId: number
  link: string
  place: Place
  /** Names of its points, and what opens inside. */
  points: Map<string, FoundPoint>
  inner: Map<string, Inner>
  lookedAt: number
  askedAt: number
  looking: Promise<void> | null
}

interface Around {
  link(id: number): Pick<LinkRunner, 'browser' | 'kind'> | undefined
  permits: Permits
  /** Whether points may be asked for, and written. */
  settings(): { on: boolean; mayWrite: boolean }
  /** The namespace of points on request. */
  requests: Namespace
  /** Whether somebody has the point read now. */
  isHeld(text: string): boolean
  tell(problem: string): void
}

/**
 * What can be browsed behind each link, as folders below Objects/Links/<link>/Points: filled when somebody looks inside,
 * and let go when nobody does any more. Its variables are points on request: the first who reads one has it read.
 */
export class PlaceNodes {
  private namespace: Namespace
  private tops = new Map<number, Inner>()
  private points = new Map<string, FoundPoint>()
  private count = 0
  private isFullTold = false
  private timer: NodeJS.Timeout

  constructor(
    private addressSpace: AddressSpace,
    private around: Around,
  ) {
    this.namespace = addressSpace.registerNamespace(placeNamespace)
    this.timer = setInterval(() => this.sweep(), sweepMs)
  }

  /** A link is shown as an object: what is behind it goes inside. */
  offer(linkId: number, link: string, home: UAObject) {
    if (this.tops.has(linkId) || !this.around.settings().on) return
    const kind = this.around.link(linkId)?.kind
    if (!kind || !protocolOf(kind).capabilities.browse) return
    this.tops.set(linkId, this.make({ linkId, link, place: { address: '', member: '' } }, 'Points', { componentOf: home }))
  }

  withdraw(linkId: number) {
    const top = this.tops.get(linkId)
    if (!top) return
    this.tops.delete(linkId)
    this.empty(top)
    this.addressSpace.deleteNode(top.node)
    this.count--
  }

  /** A point that was found, by its name among points on request. */
  found(text: string): FoundPoint | undefined {
    return this.points.get(text)
  }

  /** Nobody reads the point any more: it stands there as before. */
  stand(text: string) {
    const point = this.points.get(text)
    if (point) this.place(text, point)
  }

  close() {
    clearInterval(this.timer)
    for (const linkId of [...this.tops.keys()]) this.withdraw(linkId)
  }

  private make(
    of: Pick<Inner, 'linkId' | 'link' | 'place'>,
    name: string,
    where: { componentOf: UAObject } | { organizedBy: UAObject },
  ): Inner {
    const { may } = this.around.permits
    const id = `${of.link}|${of.place.address}|${of.place.member}`
    const node = this.namespace.addObject({
      ...where,
      browseName: name,
      typeDefinition: 'FolderType',
      nodeId: new NodeId(NodeIdType.STRING, id, this.namespace.index),
      ...seenIf((client) => this.around.settings().on && may(client, '') !== 'nothing'),
    })
    this.count++
    const inner: Inner = { ...of, node, points: new Map(), inner: new Map(), lookedAt: 0, askedAt: 0, looking: null }
    beforeBrowse(node, () => this.look(inner))
    return inner
  }

  /** Never rejects: what cannot be looked at now is as it was. */
  private async look(inner: Inner): Promise<void> {
    inner.askedAt = steadyNow()
    if (inner.askedAt - inner.lookedAt < freshMs) return
    inner.looking ??= this.lookNow(inner)
      .catch((error: Error) => this.around.tell(`What is behind “${inner.link}” could not be looked at: ${error.message}.`))
      .finally(() => {
        inner.lookedAt = steadyNow()
        inner.looking = null
      })
    await inner.looking
  }

  private async lookNow(inner: Inner) {
    const browser = this.around.link(inner.linkId)?.browser()
    if (!browser) return
    if ('code' in browser) throw new Error(browser.what)
    const found = await within(lookMs, inside(browser, inner.place))
    // it may have gone meanwhile
    if (this.addressSpace.findNode(inner.node.nodeId) !== inner.node) return
    this.fill(inner, found)
  }

  private fill(inner: Inner, found: { node: BrowsedNode; details: PlaceDetails | null }[]) {
    const points = new Map<string, FoundPoint>()
    const opening = new Map<string, BrowsedNode>()
    for (const { node, details } of found) {
      const text = details && textOf(inner.link, node, details)
      if (text) points.set(text, { home: inner.node, name: node.name, details })
      else if (node.opens) opening.set(keyOf(node), node)
    }
    for (const text of [...inner.points.keys()]) if (!points.has(text)) this.dropPoint(inner, text)
    for (const [key, one] of [...inner.inner]) if (!opening.has(key)) this.dropInner(inner, key, one)
    for (const [text, point] of points) this.addPoint(inner, text, point)
    for (const [key, node] of opening) this.addInner(inner, key, node)
  }

  private addPoint(inner: Inner, text: string, point: FoundPoint) {
    if (inner.points.has(text) || this.points.has(text) || this.isFull()) return
    inner.points.set(text, point)
    this.points.set(text, point)
    this.count++
    if (!this.around.isHeld(text)) this.place(text, point)
  }

  private addInner(inner: Inner, key: string, { name, address, member }: BrowsedNode) {
    const id = new NodeId(NodeIdType.STRING, `${inner.link}|${address}|${member}`, this.namespace.index)
    if (inner.inner.has(key) || this.isFull() || this.addressSpace.findNode(id)) return
    const { linkId, link } = inner
    inner.inner.set(key, this.make({ linkId, link, place: { address, member } }, name, { organizedBy: inner.node }))
  }

  /** A variable that nobody reads yet. */
  private place(text: string, { home, name, details }: FoundPoint) {
    const { type, access, description } = details
    const writable = access === 'readwrite' && this.around.settings().mayWrite
    const nodeId = new NodeId(NodeIdType.STRING, text, this.around.requests.index)
    if (this.addressSpace.findNode(nodeId)) return
    const level = AccessLevelFlag.CurrentRead | (writable ? AccessLevelFlag.CurrentWrite : 0)
    const variable: UAVariable = this.around.requests.addVariable({
      organizedBy: home,
      nodeId,
      browseName: name,
      ...(description ? { description } : {}),
      dataType: uaTypeOf(type as DataType),
      valueRank: isArrayType(type as DataType) ? 1 : -1,
      accessLevel: level,
      userAccessLevel: level,
      ...seenIf((client) => this.around.permits.may(client, '') !== 'nothing'),
    })
    guard(variable, this.around, '')
    variable.bindVariable({ timestamped_get: () => unread }, true)
  }

  private dropPoint(inner: Inner, text: string) {
    inner.points.delete(text)
    this.points.delete(text)
    this.count--
    const node = this.addressSpace.findNode(new NodeId(NodeIdType.STRING, text, this.around.requests.index))
    // who has it read keeps it
    if (node && !this.around.isHeld(text)) this.addressSpace.deleteNode(node)
  }

  private dropInner(inner: Inner, key: string, one: Inner) {
    inner.inner.delete(key)
    this.empty(one)
    this.addressSpace.deleteNode(one.node)
    this.count--
  }

  private empty(inner: Inner) {
    for (const text of [...inner.points.keys()]) this.dropPoint(inner, text)
    for (const [key, one] of [...inner.inner]) this.dropInner(inner, key, one)
    inner.lookedAt = 0
  }

  private isFull(): boolean {
    if (this.count < mostNodes) return false
    if (!this.isFullTold)
      this.around.tell(`Clients look at ${mostNodes} places behind links already; further ones are not shown until some are let go.`)
    return (this.isFullTold = true)
  }

  private sweep() {
    const before = steadyNow() - idleMs
    const visit = (inner: Inner) => {
      for (const one of inner.inner.values()) visit(one)
      const isLookedInto = [...inner.inner.values()].some(({ lookedAt }) => lookedAt > 0)
      const isRead = [...inner.points.keys()].some((text) => this.around.isHeld(text))
      if (inner.lookedAt > 0 && inner.askedAt < before && !isLookedInto && !isRead) this.empty(inner)
    }
    for (const top of this.tops.values()) visit(top)
    this.isFullTold &&= this.count >= mostNodes
  }
}

/** What is inside of a place, with what is known of each point. */
const inside = async (browser: LinkBrowser, place: Place): Promise<{ node: BrowsedNode; details: PlaceDetails | null }[]> => {
  const { nodes } = await browser.children(place)
  const shown = nodes.filter(({ kind }) => kind !== 'method').slice(0, mostInside)
  const variables = shown.filter(({ kind }) => kind === 'variable' || kind === 'member')
  const details = variables.length > 0 ? await browser.details(variables.map(({ address, member }) => ({ address, member }))) : []
  const known = new Map(variables.map((node, i) => [node, details[i]!]))
  return shown.map((node) => ({ node, details: known.get(node) ?? null }))
}

/** How a point on request is named for it; null: it has no value, or needs more than an address. */
const textOf = (link: string, { member }: BrowsedNode, { address, type, options, access }: PlaceDetails): string | null =>
  type === null || access === 'none' || member !== '' || options !== undefined ? null : requestText({ link, address, type, interval: null })

const keyOf = ({ address, member }: Place) => `${address}\n${member}`

/** The package calls this before a client browses a node, once; here each time. */
const beforeBrowse = (node: BaseNode, look: () => Promise<void>) => {
  let isTakenAway = false
  Object.defineProperty(node, 'onFirstBrowseAction', {
    // once it is taken away, the package makes sure that it is gone
    get: () => (isTakenAway ? void (isTakenAway = false) : look),
    set: () => void (isTakenAway = true),
  })
}

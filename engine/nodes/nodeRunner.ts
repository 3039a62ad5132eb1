import { fault, type Fault } from '#core/faults/catalogue'
import { counted } from '#core/text/counted'
import { wholeSeconds } from '#core/text/duration'
import { momentText } from '#core/text/moment'
import { readFrame, type NodeSample } from '#core/nodes/frames'
import type { ThingOf } from '#db/subjects'
import { within } from '#pacing/within'
import type { NodeTold } from '#shared/nodeRpc'
import type { NodeStatus } from '#shared/nodes'
import type { Finding } from '#shared/notes'
import type { BridgeStatus } from '#shared/bridges/status'
import type { LinkStatus, NotInForce, OutletStatus } from '#shared/status'
import type { ValueOrigin } from '#shared/values'
import { steadyNow } from '#pacing/clock'
import type { SampleSink } from '../table/intake'
import type { Expected, FarLink } from './farLink'
import type { Peer } from './peer'

const askMs = 70_000
/** Something that is shown again and again is asked so often at most. */
const originEveryMs = 300
const mostOrigins = 200
const findingsEveryMs = 10_000
/** A clock that is further off is told. */
const clockMs = 2000
const resendAfterMs = 100
const releaseLookMs = 25

interface Origin {
  askedAt: number
  origin: ValueOrigin | null
}

/** One node of the configuration as this site sees it: connected or away, what it told last, and whose values it brings. */
export class NodeRunner {
  private peer: Peer | null = null
  private told: NodeTold | null = null
  private toldAt = 0
  private since: number | null = null
  private lastFrom = ''
  private lastVersion = ''
  private expected = new Map<number, Expected>()
  private links = new Map<number, FarLink>()
  private origins = new Map<number, Origin>()
  private toResend = new Set<number>()
  private resendTimer: NodeJS.Timeout | null = null
  private findingsAt = 0
  /** Why it was not let in last; null: it was. */
  private refusal: Fault | null = null
  findings: readonly Finding[] = []

  constructor(private node: ThingOf['node']) {}

  get name() {
    return this.node.name
  }

  get key() {
    return this.node.key
  }

  get standsBy() {
    return this.node.standsBy
  }

  get isConnected() {
    return this.peer !== null
  }

  get connected(): Peer | null {
    return this.peer
  }

  update(node: ThingOf['node']) {
    if (node.key !== this.node.key) this.peer?.end('its node was given to another machine')
    this.node = node
  }

  /** @param why is told to the node */
  remove(why = 'its node was removed') {
    if (this.resendTimer) clearTimeout(this.resendTimer)
    this.peer?.end(why)
  }

  /** It came in. */
  connect(peer: Peer) {
    this.peer?.end('it came in again')
    this.peer = peer
    this.since = Date.now()
    this.lastFrom = peer.from
    this.lastVersion = peer.version
    this.refusal = null
    this.told = null
    this.findings = []
  }

  disconnect(peer: Peer) {
    if (this.peer !== peer) return
    this.peer = null
    this.since = Date.now()
    this.origins.clear()
    for (const link of this.links.values()) link.away()
  }

  get refusedWith() {
    return this.refusal?.code ?? null
  }

  refused(from: string, why: Fault) {
    this.lastFrom = from
    this.refusal = why
  }

  heard(told: NodeTold) {
    this.told = told
    this.toldAt = steadyNow()
    if (this.toldAt - this.findingsAt > findingsEveryMs) void this.askFindings()
  }

  attach(linkId: number, link: FarLink) {
    this.links.set(linkId, link)
  }

  /** Resolves once something does not run there any more, or nobody can tell. Who waits does so within bounds of their own. */
  async released(subject: 'link' | 'outlet' | 'bridge', id: number): Promise<void> {
    const { peer } = this
    while (peer && this.peer === peer && peer.has.get(subject)?.has(id)) await new Promise((resolve) => setTimeout(resolve, releaseLookMs))
  }

  detach(linkId: number, link: FarLink) {
    if (this.links.get(linkId) === link) this.links.delete(linkId)
  }

  /** From now on it brings the values of this tag. */
  expect(tag: number, expected: Expected) {
    this.expected.set(tag, expected)
    if (!this.peer) return
    this.toResend.add(tag)
    this.resendTimer ??= setTimeout(() => this.askAgain(), resendAfterMs)
  }

  forget(tag: number) {
    this.expected.delete(tag)
    this.origins.delete(tag)
  }

  /** Takes samples and confirmations. Throws where they cannot be understood. @param parcel takes what it recorded */
  frame(bytes: Uint8Array, parcel: (number: number, parcel: Uint8Array) => void) {
    const touched = new Set<SampleSink>()
    readFrame(bytes, {
      sample: (sample, revision) => this.sample(sample, revision, touched),
      confirmed: (tag, seenAt, revision) => this.of(tag, revision)?.sink.confirm(this.expected.get(tag)!.handle, seenAt),
      parcel,
    })
    for (const sink of touched) sink.flush()
  }

  /** Calls a function of the engine there. Rejects with a fault while it is away. */
  async ask(name: string, args: readonly unknown[], mostMs = askMs): Promise<unknown> {
    const { peer } = this
    if (!peer) throw this.away() as unknown as Error
    try {
      return await within(mostMs, peer.ask(name, args))
    } catch (error) {
      if (this.peer !== peer) throw this.away() as unknown as Error
      throw error
    }
  }

  /** How a value is made, as it was told last; asked for again in the background. */
  originOf(tag: number): ValueOrigin | null {
    const known = this.origins.get(tag) ?? { askedAt: 0, origin: null }
    if (!this.origins.has(tag) && this.origins.size >= mostOrigins) this.origins.clear()
    this.origins.set(tag, known)
    if (this.peer && steadyNow() - known.askedAt > originEveryMs) {
      known.askedAt = steadyNow()
      this.ask('origin', [tag]).then(
        (origin) => (known.origin = origin as ValueOrigin | null),
        () => {},
      )
    }
    return known.origin
  }

  linkStatus(id: number): Omit<LinkStatus, 'id' | 'tags' | 'goodTags'> {
    if (!this.peer) return notThere('broken', this.away())
    const told = this.told?.links.find((link) => link.id === id)
    if (!told) return notThere('late', fault('node.catching-up', { name: this.name }))
    const { id: _id, tags: _tags, goodTags: _good, ...status } = told
    return status
  }

  outletStatus(id: number): OutletStatus {
    const told = this.peer && this.told?.outlets.find((outlet) => outlet.id === id)
    return (
      told || {
        id,
        ...this.unknown(),
        addresses: [],
        clients: [],
        feeds: { links: [], others: [] },
        items: 0,
        changesPerSecond: 0,
        details: null,
      }
    )
  }

  bridgeStatus(id: number): BridgeStatus {
    const told = this.peer && this.told?.bridges.find((bridge) => bridge.id === id)
    return told || { id, ...this.unknown(), since: null, runs: 0, skipped: 0, failed: 0, perSecond: 0, destinations: [] }
  }

  private unknown(): Pick<OutletStatus, 'flow' | 'sentence' | 'fault'> {
    const why = this.peer ? fault('node.catching-up', { name: this.name }) : this.away()
    return { flow: this.peer ? 'late' : 'broken', sentence: why.what, fault: why }
  }

  /** What it could not bring into force. */
  notInForce(): readonly NotInForce[] {
    return this.told?.notInForce ?? []
  }

  get notInForceCount() {
    return this.told?.notInForceCount ?? 0
  }

  away(): Fault {
    if (this.since === null && this.node.key === null) return fault('node.never', { name: this.name })
    if (this.refusal) return this.refusal
    const since = this.since === null ? '' : ` since ${momentText(this.since)}`
    return fault('node.away', { name: this.name, since })
  }

  /** @param wanted up to which revision it should have the configuration @param isBehind whether something for it is on its way */
  status(wanted: number, isBehind: boolean): NodeStatus {
    const { peer, told } = this
    const clockAheadMs = peer ? peer.clockAheadMs : null
    return {
      ...{ id: this.node.id, name: this.name, ...this.state(isBehind, clockAheadMs), ...toldFacts(told) },
      ...{ isConnected: peer !== null, since: this.since, lastSeenAt: peer ? peer.heardAt : this.since },
      ...{ from: this.lastFrom, version: this.lastVersion, roundTripMs: peer?.roundTripMs ?? null, clockAheadMs },
      ...{ wanted, isBehind, notInForce: [...this.notInForce()] },
    }
  }

  /** It is this machine, which leads. */
  statusHere(wanted: number): NodeStatus {
    return {
      ...{ id: this.node.id, name: this.name, flow: 'flowing', sentence: 'It leads the site.', fault: null, ...toldFacts(null) },
      ...{ isConnected: true, since: null, lastSeenAt: Date.now(), from: '', version: '', roundTripMs: null, clockAheadMs: null },
      ...{ revision: wanted, wanted, isBehind: false, notInForce: [] },
    }
  }

  private state(isBehind: boolean, clockAheadMs: number | null): Pick<NodeStatus, 'flow' | 'sentence' | 'fault'> {
    const { peer, told } = this
    if (!peer) {
      const why = this.away()
      const isNew = why.code === 'node.never'
      return { flow: isNew ? 'off' : 'broken', sentence: isNew ? 'Waits for its machine.' : why.what, fault: why }
    }
    if (!told) return { flow: 'late', sentence: 'It came in, and is being told what it should have.', fault: null }
    if (told.notInForceCount > 0)
      return { flow: 'late', sentence: `${counted(told.notInForceCount, 'thing')} there is not as configured.`, fault: null }
    if (isBehind) return { flow: 'late', sentence: 'A change is on its way there.', fault: null }
    if (clockAheadMs !== null && Math.abs(clockAheadMs) > clockMs) {
      const off = `${wholeSeconds(Math.abs(clockAheadMs))} ${clockAheadMs > 0 ? 'ahead of' : 'behind'} ours`
      return { flow: 'late', sentence: `Its clock is ${off}: its values carry those times.`, fault: null }
    }
    if (told.waiting > 0 && told.waitingSince !== null && Date.now() - told.waitingSince > 15_000)
      return { flow: 'late', sentence: `${counted(told.waiting, 'sample')} of its record are on their way here.`, fault: null }
    const good = `${counted(told.links.length, 'link')}, ${counted(
      told.links.reduce((total, { tags }) => total + tags, 0),
      'tag',
    )}.`
    return { flow: 'flowing', sentence: `Connected: ${good}`, fault: null }
  }

  private sample({ tag, quality, sourceTime, seenAt, value }: NodeSample, revision: number, touched: Set<SampleSink>) {
    const expected = this.of(tag, revision)
    if (!expected) return
    expected.sink.pass(expected.handle, value, quality, seenAt, sourceTime)
    touched.add(expected.sink)
  }

  /** Whom a sample is for; undefined where it is of what the tag was before. */
  private of(tag: number, revision: number): Expected | undefined {
    const expected = this.expected.get(tag)
    return expected && revision >= expected.since ? expected : undefined
  }

  private askAgain() {
    this.resendTimer = null
    const tags = [...this.toResend]
    this.toResend.clear()
    this.peer?.resend(tags)
  }

  private async askFindings() {
    this.findingsAt = steadyNow()
    const found = await this.ask('findings', []).catch(() => null)
    if (Array.isArray(found)) this.findings = found as Finding[]
  }
}

const notThere = (flow: 'broken' | 'late', why: Fault) => ({
  ...{ flow, sentence: why.what, fault: why, answerMs: null, requests: 0, failures: 0, connections: 0 },
})

/** What it told of itself last. */
const toldFacts = (told: NodeTold | null) => {
  if (!told)
    return {
      revision: 0,
      notInForceCount: 0,
      links: 0,
      tags: 0,
      goodTags: 0,
      waiting: 0,
      waitingSince: null,
      changesPerSecond: 0,
      machine: null,
    }
  const { revision, notInForceCount, links, waiting, waitingSince, changesPerSecond, machine } = told
  const sum = (of: 'tags' | 'goodTags') => links.reduce((total, link) => total + link[of], 0)
  const counts = { links: links.length, tags: sum('tags'), goodTags: sum('goodTags') }
  return { ...counts, revision, notInForceCount, waiting, waitingSince, changesPerSecond, machine }
}

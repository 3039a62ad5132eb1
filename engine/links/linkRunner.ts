import { fault, type Fault } from '#core/faults/catalogue'
import { matcherOf } from '#core/mqtt/topic'
import { oddOf } from '#core/tags/odd'
import { isGood, quality } from '#core/tags/quality'
import type { PointDefinition } from '#core/links/protocol'
import type { TagValue } from '#core/tags/types'
import type { Flow } from '#shared/flow'
import { placeOf, type Link, type LinkDraft } from '#shared/links/link'
import type { Priorities } from '#shared/links/priorities'
import type { SensorOffer, SensorPortFound } from '#shared/links/sensorPorts'
import { isFrom } from '#shared/sources/registry'
import type { LinkStatistics } from '#shared/statistics'
import type { CheckStep, FarSide, LinkStatus } from '#shared/status'
import type { Writer } from '#shared/writes'
import type { ValueOrigin } from '#shared/values'
import { protocolOf } from '#core/links/registry'
import { Wire } from '../wire/wire'
import type { Claim } from '../arrivals/arrival'
import { ArrivalBook } from '../arrivals/arrivalBook'
import { ArrivalDoor } from '../arrivals/arrivalDoor'
import { boundedEnd } from '#pacing/ending'
import { Intake } from '../table/intake'
import type { Handle, TagTable } from '../table/tagTable'
import type { LinkBrowser, LinkContext, LinkSession, Listened, OpenPoint, Point, PointFinding, WriteOutcome } from './driver'
import type { Receiver } from './receiving'
import type { RunningSource } from '../sources/source'
import { Meters } from '#core/statistics/meters'
import { asPoint, type RegisteredTag } from '../tags/tagRegister'
import { driverOf } from './registry'

interface Running {
  session: LinkSession<Link['settings']>
  intake: Intake
  door: ArrivalDoor
}

/**
 * One link of the configuration: switched on it has a session, switched off its tags say so. Taking
 * a change never waits for the far side: a session that ends does so in the background, and nothing that
 * it still hears reaches the tags.
 */
export class LinkRunner implements RunningSource {
  private running: Running | null = null
  /** Switched on, and yet without a session: why. */
  private failure: Fault | null = null
  /** It is to run here, and the node that ran it may still do so. */
  private isAwaited = false
  private ending: Promise<void> = Promise.resolve()
  private points = new Map<Handle, OpenPoint>()
  /** What bridges listen to. */
  private wishes = new Set<Listened>()
  /** Writes that were refused for good, in words. */
  private refusedWrites = new Map<Handle, string>()
  /** Makes its connections, and sees what passes. */
  readonly wire: Wire
  /** What was asked of the far side; sessions come and go. */
  readonly meters = new Meters()
  /** What comes over it, for tags and others; sessions come and go. */
  readonly arrivals = new ArrivalBook((problem) => this.around.journal.caution(this.link.name, problem))

  /** @param ready resolves once everything that is configured beside it is in its place: messages wait for that */
  constructor(
    private link: Link,
    private around: Pick<LinkContext<never>, 'journal' | 'security' | 'keep' | 'roots' | 'described' | 'gaps' | 'takeOver'> & {
      table: TagTable
      /** Takes the place of a session for a link that runs on a node. */
      elsewhere?(link: Link, context: Pick<LinkContext<never>, 'name' | 'table'>): LinkSession<unknown>
    },
    ready: Promise<void> = Promise.resolve(),
  ) {
    if (protocolOf(link.kind).capabilities.messages) this.ending = ready
    this.wire = new Wire(protocolOf(link.kind).frames)
  }

  get name() {
    return this.link.name
  }

  /** The fingerprint of the copy that it is paired with; null: of none. */
  get partner(): string | null {
    const { settings } = this.link
    return ('paired' in settings && settings.paired?.fingerprint) || null
  }

  get kind() {
    return this.link.kind
  }

  /** Ends when the session before has: nobody talks to its far side for it any more. */
  get ended(): Promise<void> {
    return this.ending
  }

  /** Whether another machine runs it. */
  get isElsewhere() {
    return this.link.nodeId !== null
  }

  /** As it is configured. */
  get draft(): LinkDraft {
    return this.link
  }

  /** How it is, without counting its tags. */
  get flow(): Flow {
    try {
      return this.running?.session.status().flow ?? (this.failure ? 'broken' : 'off')
    } catch {
      return 'broken'
    }
  }

  /** Whether these are the settings that are in force. */
  has(settings: Link['settings']): boolean {
    return JSON.stringify(settings) === JSON.stringify(this.link.settings)
  }

  /** Opens where it is switched on. Throws where that cannot be; its tags say so then. */
  start() {
    if (this.link.on) this.open()
  }

  /** Does only what the change asks for: a new name reopens nothing. Throws where it cannot come into force. */
  update(link: Link) {
    const before = this.link
    this.link = link
    if (!link.on) return before.on ? this.shut() : undefined
    if (before.on && before.nodeId !== null && link.nodeId === null) return this.openOnceLetGo()
    if (this.isAwaited && link.nodeId === null) return
    this.isAwaited = false
    if (!this.running || before.kind !== link.kind || before.nodeId !== link.nodeId) return this.openAnew()
    if (JSON.stringify(before.settings) !== JSON.stringify(link.settings)) this.updateSession(link)
    if (JSON.stringify(before.odd) !== JSON.stringify(link.odd)) this.judgeAnew(this.running)
  }

  get hasPoints(): boolean {
    return this.points.size > 0
  }

  /** Its tags, as points. */
  take(changed: readonly RegisteredTag[], removed: readonly Handle[]): Map<Handle, unknown> {
    return this.setPoints(changed.filter((tag) => isFrom('point', tag)).map(asPoint), removed)
  }

  /** Points that are new or changed. Returns what is wrong with those that the session cannot take: they stop nobody else. */
  setPoints(changed: readonly OpenPoint[], removed: readonly Handle[]): Map<Handle, unknown> {
    for (const handle of removed) this.points.delete(handle)
    for (const point of changed) this.points.set(point.handle, point)
    for (const handle of [...removed, ...changed.map((point) => point.handle)]) this.refusedWrites.delete(handle)
    if (this.running) return this.give(this.running.session, changed, removed)
    const resting = this.failure ? quality.BadConfigurationError : quality.BadOutOfService
    this.mark(changed, this.isAwaited ? quality.BadWaitingForInitialData : resting)
    return new Map()
  }

  write(handle: Handle, value: TagValue, by: Writer): Promise<WriteOutcome> {
    if (this.running) return this.running.session.write(handle, value, by).then((outcome) => this.noted(handle, outcome))
    return Promise.resolve({ ok: false, quality: quality.BadOutOfService, fault: fault('link.off', { name: this.link.name }) })
  }

  /** Who holds a tag's value, where its protocol knows priorities. Rejects with a Fault. */
  async priorities(handle: Handle): Promise<Priorities> {
    const held = await this.running?.session.priorities?.(handle)
    if (!held) throw this.noPriorities as unknown as Error
    return held
  }

  async release(handle: Handle): Promise<WriteOutcome> {
    const released = await this.running?.session.release?.(handle)
    return released ?? { ok: false, quality: quality.BadNotSupported, fault: this.noPriorities }
  }

  /** What is plugged in where, where its protocol knows ports. */
  sensorPorts(): SensorPortFound[] | Fault {
    return this.running?.session.sensorPorts?.() ?? this.noPorts
  }

  /** Rejects with a Fault. */
  async sensorOffer(port: number): Promise<SensorOffer> {
    const offer = await this.running?.session.sensorOffer?.(port)
    if (!offer) throw this.noPorts as unknown as Error
    return offer
  }

  private get noPorts(): Fault {
    return fault(this.running ? 'link.no-ports' : 'link.off', { name: this.link.name })
  }

  private get noPriorities(): Fault {
    return fault(this.running ? 'link.no-priorities' : 'link.off', { name: this.link.name })
  }

  /** A far side that never takes it will not the next time. */
  private noted(handle: Handle, outcome: WriteOutcome): WriteOutcome {
    if (outcome.ok) this.refusedWrites.delete(handle)
    else if (neverTaken.has(outcome.quality) && this.points.has(handle)) this.refusedWrites.set(handle, outcome.fault.what)
    return outcome
  }

  /** What the far side refuses, or has otherwise than its points say. */
  findings(): PointFinding[] {
    const refused = [...this.refusedWrites].map(([handle, text]) => ({ handle, kind: 'unwritable' as const, text }))
    return [...(this.running?.session.findings() ?? []), ...refused]
  }

  experience() {
    return this.running?.session.experience?.() ?? {}
  }

  origin(handle: Handle, brief = false): ValueOrigin | null {
    return this.running?.session.origin(handle, brief) ?? null
  }

  /** Addresses that stay true whatever the far side renumbers; null for those that it cannot tell now. */
  lasting(addresses: readonly string[]): (string | null)[] {
    return this.running?.session.lasting?.(addresses) ?? addresses.map(() => null)
  }

  /** Over the connection at hand, else over one of its own. */
  async tryRead(point: PointDefinition): Promise<ValueOrigin> {
    return (await this.running?.session.tryRead?.(point)) ?? driverOf(this.link.kind).tryRead(this.link.settings, point, this.wire)
  }

  /** Over the connection at hand, where these are the settings that are in force; null where it has to be dialled. */
  check(settings: Link['settings'], signal: AbortSignal): AsyncGenerator<CheckStep> | null {
    if (!this.has(settings)) return null
    return this.running?.session.check?.(signal) ?? null
  }

  /** What the far side says of itself, as far as it can be asked. Rejects where it does not answer. */
  async farSide(): Promise<FarSide> {
    return (await this.running?.session.farSide?.()) ?? {}
  }

  /** Whether it holds a connection to this place. */
  isConnectedTo(kind: Link['kind'], place: string): boolean {
    return kind === this.kind && placeOf(this.link) === place && this.status().connections > 0
  }

  browser(): LinkBrowser | Fault {
    return this.running?.session.browser?.() ?? fault('link.not-browsable', { name: this.link.name })
  }

  /** Hands on messages that go by a filter, whatever session the link has; returns how to end it. */
  listen({ filter, qos, by, take }: Listened & Pick<Claim, 'by' | 'take'>): () => void {
    const letGo = this.arrivals.claim({ by, take, topic: /[+#]/.test(filter) ? matcherOf(filter) : filter })
    const wish: Listened = { filter, qos }
    this.wishes.add(wish)
    this.running?.session.listen?.([...this.wishes])
    return () => {
      letGo()
      this.wishes.delete(wish)
      this.running?.session.listen?.([...this.wishes])
    }
  }

  /** Tries at once what waits because it failed. @param unit of this part of the far side only; null: all of it */
  tryNow(unit: string | null): Fault | null {
    const { running } = this
    if (!running) return this.failure ?? fault('link.off', { name: this.link.name })
    running.session.tryNow?.(unit)
    return null
  }

  /** Where bridges send to. */
  receiver(): Receiver | Fault {
    const { name, kind } = this.link
    if (!this.running) return this.failure ?? fault('link.off', { name })
    return this.running.session.receiver?.() ?? fault('bridge.no-receiver', { link: name, what: `records (${protocolOf(kind).title})` })
  }

  statistics(): LinkStatistics {
    const { id, name, kind } = this.link
    const { whole, parts } = this.meters.told(Date.now())
    const { passed } = this.wire.tap
    return {
      ...{ id, name, kind, whole, bytesIn: passed.in, bytesOut: passed.out, connections: this.wire.tap.mark() },
      parts: parts.map(([part, measured]) => ({ name: part, measured })),
    }
  }

  /** Never throws: what cannot tell how it is, is broken. */
  status(): LinkStatus {
    const counts = { id: this.link.id, ...this.countTags() }
    try {
      const session = this.running?.session
      return { ...counts, ...(session?.status() ?? this.restingStatus()), nextTryAt: session?.nextTry?.() ?? null }
    } catch (error) {
      const why = fault('ours.unexpected', { problem: (error as Error).message })
      return { ...counts, ...resting, flow: 'broken', sentence: why.what, fault: why }
    }
  }

  close(): Promise<void> {
    this.isAwaited = false
    this.end()
    this.wire.close()
    return this.ending
  }

  private restingStatus(): typeof resting {
    const { failure } = this
    if (failure) return { ...resting, flow: 'broken', sentence: failure.what, fault: failure }
    if (this.isAwaited) return { ...resting, flow: 'late', sentence: 'The node that ran it lets go of it.' }
    return { ...resting, fault: fault('link.off', { name: this.link.name }) }
  }

  private countTags() {
    let [tags, goodTags] = [0, 0]
    for (const { handle, onRequest } of this.points.values()) {
      if (onRequest) continue
      tags++
      if (isGood(this.around.table.quality[handle]!)) goodTags++
    }
    return { tags, goodTags }
  }

  private open() {
    const { link } = this
    const { table, elsewhere, ...around } = this.around
    const points = [...this.points.values()]
    this.mark(points, quality.BadWaitingForInitialData)
    const intake = new Intake(table)
    const door = new ArrivalDoor(this.arrivals)
    try {
      const { name, settings } = link
      const here = { ...around, settings, arrivals: door, wire: this.wire, meters: this.meters, after: this.ending }
      const session =
        link.nodeId === null ? driverOf(link.kind).open({ ...here, name, table: intake }) : this.onNode(elsewhere, { name, table: intake })
      this.running = { session, intake, door }
      this.failure = null
      this.give(session, points, [])
      if (this.wishes.size > 0) session.listen?.([...this.wishes])
      around.journal.note(link.name, 'Switched on.')
    } catch (error) {
      this.fail(error)
    }
  }

  private onNode(elsewhere: typeof this.around.elsewhere, context: Pick<LinkContext<never>, 'name' | 'table'>) {
    if (!elsewhere) throw new Error('nodes are not possible here')
    return elsewhere(this.link, context)
  }

  /** All at once; where that fails, one by one, so that those at fault are found. */
  private give(session: Running['session'], open: readonly OpenPoint[], removed: readonly Handle[]): Map<Handle, unknown> {
    const changed = open.map((point): Point => ({ ...point, odd: oddOf(this.link.odd, point.odd) }))
    const problems = new Map<Handle, unknown>()
    const attempt = (points: readonly Point[], handles: readonly Handle[], failed: (error: unknown) => void) => {
      try {
        session.setPoints(points, handles)
      } catch (error) {
        failed(error)
      }
    }
    attempt(changed, removed, () => {
      for (const handle of removed) attempt([], [handle], (error) => problems.set(handle, error))
      for (const point of changed) attempt([point], [], (error) => problems.set(point.handle, error))
    })
    const refused = changed.filter(({ handle }) => problems.has(handle))
    if (refused.length > 0) this.mark(refused, quality.BadConfigurationError)
    return problems
  }

  /** Another far side, or another try: what the tags had says nothing about what comes. */
  private openAnew() {
    this.end()
    const now = Date.now()
    for (const handle of this.points.keys()) this.around.table.renew(handle, now)
    this.open()
  }

  /** Never two talk to its far side: the node that runs it ends that first, or is not there to be asked. */
  private openOnceLetGo() {
    this.end()
    this.isAwaited = true
    const now = Date.now()
    for (const handle of this.points.keys()) this.around.table.renew(handle, now)
    this.around.table.flush()
    void this.ending.then(() => {
      if (!this.isAwaited) return
      this.isAwaited = false
      try {
        this.open()
      } catch (error) {
        this.around.journal.trouble(this.link.name, (error as Error).message, this.failure)
      }
    })
  }

  /** Something else becomes of odd values: what the tags have says nothing about what comes. */
  private judgeAnew({ session }: Running) {
    const points = [...this.points.values()]
    const now = Date.now()
    for (const { handle } of points) this.around.table.renew(handle, now)
    this.give(session, points, [])
    this.around.table.flush()
  }

  private updateSession(link: Link) {
    try {
      this.running!.session.update(link.settings)
    } catch (error) {
      this.fail(error)
    }
  }

  /** Half a change is none: nothing of this link is in force, and its tags say so. */
  private fail(error: unknown): never {
    const problem = error instanceof Error ? error.message : String(error)
    this.failure = fault('force.failed', { thing: 'link', name: this.link.name, problem })
    this.end()
    this.mark([...this.points.values()], quality.BadConfigurationError)
    throw error
  }

  private shut() {
    this.failure = null
    this.isAwaited = false
    this.end()
    this.mark([...this.points.values()], quality.BadOutOfService)
    this.around.journal.note(this.link.name, 'Switched off.')
  }

  private end() {
    const { running } = this
    if (!running) return
    this.running = null
    this.refusedWrites.clear()
    running.intake.shut()
    running.door.shut()
    this.ending = boundedEnd([this.ending, (async () => running.session.close())()], (problem) =>
      this.around.journal.caution(this.link.name, problem),
    )
  }

  private mark(points: readonly Pick<Point, 'handle'>[], code: number) {
    const now = Date.now()
    for (const { handle } of points) this.around.table.degrade(handle, code, now)
    this.around.table.flush()
  }
}

/** Refusals that trying again does not change. */
const neverTaken = new Set<number>([
  ...[quality.BadNotSupported, quality.BadConfigurationError, quality.BadNotWritable, quality.BadUserAccessDenied],
  quality.BadWriteNotSupported,
])

const resting: Omit<LinkStatus, 'id' | 'tags' | 'goodTags'> = {
  flow: 'off',
  sentence: 'Switched off',
  fault: null,
  answerMs: null,
  requests: 0,
  failures: 0,
  connections: 0,
}

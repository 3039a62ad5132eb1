import { randomBytes } from 'node:crypto'
import { fault, type Fault } from '#core/faults/catalogue'
import type { PointDefinition } from '#core/links/protocol'
import type { MqttPointOptions, MqttSettings } from '#core/mqtt/settings'
import { writtenPayload } from '#core/mqtt/writing'
import { quality } from '#core/tags/quality'
import { toRaw } from '#core/tags/scaling'
import type { TagValue } from '#core/tags/types'
import { counted } from '#core/text/counted'
import { Backoff } from '#pacing/backoff'
import { DueList } from '#pacing/dueList'
import type { CheckStep, LinkStatus, RefusedPoint } from '#shared/status'
import type { ValueOrigin } from '#shared/values'
import type { Arrival } from '../../arrivals/arrival'
import type { Handle } from '../../table/tagTable'
import type { LinkContext, LinkSession, Listened, Point, PointFinding, WriteOutcome, LinkBrowser } from '../driver'
import type { Receiver } from '../receiving'
import { WriteQueue, type Sending } from '../writeQueue'
import { Broker, type Heard } from './broker'
import { checkConnected, Hearing, topicsStep } from './check'
import { credentialsOf } from './credentials'
import { Listenings } from './listenings'
import { originOf } from './origin'
import { MessagesTo } from './messagesTo'
import { Subscriptions } from './subscriptions'
import { tryOn } from './tryRead'
import { TopicBook } from './topicBook'
import { TopicBrowser } from './topicBrowser'
import { isFault } from './transport'
import { take, takeLast, targetOf, type Target, type Topic } from './topics'

const mostRefusedShown = 20

/**
 * An MQTT link at work: it stays with its broker as long as it can, comes back with growing pauses, and listens to the
 * topics of its tags. A message is handed on once, to tags and to whoever else claims it.
 */
export class MqttLinkSession implements LinkSession<MqttSettings> {
  private settings: MqttSettings
  private topics = new TopicBook((topic) => this.claim(topic))
  private broker: Broker | null = null
  private fault: Fault | null = null
  private backoff: Backoff
  private writes: WriteQueue
  private aging: DueList<Handle>
  private subscriptions: Subscriptions
  private interrupt: () => void = () => {}
  private entering: AbortController | null = null
  private listenings = new Listenings(() => ({
    settings: this.settings,
    credentials: credentialsOf(this.settings, this.context.security),
    wire: this.context.wire,
  }))
  private closed = false
  private flushing = false
  private counts = { requests: 0, failures: 0 }
  private running: Promise<void>

  constructor(private context: LinkContext<MqttSettings>) {
    this.settings = context.settings
    this.backoff = backoffOf(context.settings)
    this.writes = new WriteQueue(context.settings.writes)
    this.aging = new DueList((handles, now) => this.tooOld(handles, now))
    this.subscriptions = new Subscriptions({
      topics: () => this.topics.names(),
      qos: () => this.settings.reading.qos,
      noted: (name, why) => this.noteRefusal(name, why),
    })
    this.running = this.run()
  }

  update(settings: MqttSettings) {
    const before = this.settings
    this.settings = settings
    this.writes.adjust(settings.writes)
    if (reaches(before) !== reaches(settings)) return this.startOver()
    if (JSON.stringify(before.reading) === JSON.stringify(settings.reading)) return
    this.setPoints(
      this.topics.targets().map(({ point }) => point),
      [],
    )
    if (before.reading.qos !== settings.reading.qos) this.subscriptions.again()
  }

  setPoints(changed: readonly Point[], removed: readonly Handle[]) {
    const before = new Set(this.topics.names())
    for (const handle of removed) this.remove(handle)
    for (const point of changed) this.place(point)
    const isLess = this.topics.dropUnwanted().length > 0
    const fresh = this.topics.names().filter((name) => !before.has(name))
    if (isLess || fresh.length > 0) this.subscriptions.settle(fresh)
    this.context.table.flush()
  }

  async write(handle: Handle, value: TagValue): Promise<WriteOutcome> {
    const target = this.topics.target(handle)
    if (!target) return { ok: false, quality: quality.BadNotConnected, fault: fault('link.off', { name: this.context.name }) }
    return this.writes.push(handle, target.point.path, (sending) => this.writeNow(target, value, sending))
  }

  origin(handle: Handle): ValueOrigin | null {
    const [target, topic] = [this.topics.target(handle), this.topics.topicOf(handle)]
    if (!target || !topic) return null
    const origin = originOf(topic, target, this.context.table)
    return origin.fault || this.broker ? origin : { ...origin, fault: this.fault }
  }

  /** The link as it is, over its connection; null while it has none. */
  check(): AsyncGenerator<CheckStep> | null {
    const { broker, settings } = this
    return broker && this.checkOver(broker, settings)
  }

  private async *checkOver(broker: Broker, settings: MqttSettings): AsyncGenerator<CheckStep> {
    const hearing = new Hearing()
    const letGo = this.context.arrivals.claim({ by: 'a check', topic: (topic) => topic.startsWith('conduit/check/'), take: hearing.heard })
    try {
      yield* checkConnected(broker, settings, hearing)
      yield topicsStep([...this.topics.all()].map(({ name, last }) => ({ name, hasCome: last !== null })))
    } finally {
      letGo()
    }
  }

  /** Waits for a message on a topic; null while there is no connection. */
  async tryRead(point: PointDefinition): Promise<ValueOrigin | null> {
    const { broker } = this
    if (!broker) return null
    const origin = await tryOn(broker, this.settings, point, (topic, take) => this.context.arrivals.claim({ by: 'a try', topic, take }))
    this.subscriptions.settle([])
    if (!this.topics.has(point.address)) await broker.leave([point.address]).catch(() => {})
    return origin
  }

  /** Topics as they come, for somebody who looks around. */
  browser(): LinkBrowser {
    return new TopicBrowser(this.listenings)
  }

  /** Messages that bridges want, besides those of tags. */
  listen(filters: readonly Listened[]) {
    this.subscriptions.setFilters(filters)
  }

  /** Over the connection that is there when it is sent. */
  receiver(): Receiver | Fault {
    return this.broker ? new MessagesTo(this.broker) : (this.fault ?? fault('mqtt.not-connected', this.settings))
  }

  findings(): PointFinding[] {
    return [...this.topics.all()].flatMap(({ targets, refused }) =>
      [...targets.values()].flatMap(({ point: { handle }, problem }): PointFinding[] => {
        if (refused) return [{ handle, kind: 'refused', text: refused.what }]
        return problem ? [{ handle, kind: 'type', text: problem.what }] : []
      }),
    )
  }

  status(): Omit<LinkStatus, 'id' | 'tags' | 'goodTags'> {
    return {
      ...this.condition(),
      answerMs: this.broker?.ms ?? null,
      ...this.counts,
      refused: this.broker ? this.refusedPoints().slice(0, mostRefusedShown) : [],
      connections: this.broker ? 1 : 0,
    }
  }

  async close() {
    this.closed = true
    this.aging.close()
    this.entering?.abort()
    this.interrupt()
    await this.listenings.close()
    await this.broker?.close()
    await this.running
    this.degradeAll(quality.BadOutOfService)
    this.topics.close()
  }

  private async run() {
    await this.context.after
    while (!this.closed) {
      const broker = await this.enter()
      const isOurs = broker !== null && (await this.stay(broker))
      if (!this.closed) await this.pause(isOurs ? 0 : this.backoff.next())
    }
  }

  private async enter(): Promise<Broker | null> {
    const abort = new AbortController()
    this.entering = abort
    try {
      const { settings } = this
      const { wire } = this.context
      const clientId = settings.clientId || this.madeId
      const heard = (message: Heard) => this.hear(message)
      const broker = await Broker.enter({
        settings,
        clientId,
        credentials: credentialsOf(settings, this.context.security),
        wire,
        signal: abort.signal,
        heard,
      })
      if (!abort.signal.aborted) return broker
      await broker.close()
      return null
    } catch (why) {
      if (!abort.signal.aborted) this.stumbled(isFault(why) ? why : fault('ours.unexpected', { problem: (why as Error).message }))
      return null
    } finally {
      this.entering = null
    }
  }

  private isVersionTold = false
  private madeId = `conduit-${randomBytes(6).toString('hex')}`

  private noteVersion({ version }: Broker) {
    if (version === this.settings.version || this.isVersionTold) return
    this.isVersionTold = true
    this.context.journal.caution(this.context.name, `The broker does not speak MQTT 5.0; MQTT ${version} is spoken with it.`)
  }

  /** Until the connection ends. @returns whether it was us who ended it */
  private async stay(broker: Broker): Promise<boolean> {
    this.broker = broker
    if (this.fault) this.context.journal.note(this.context.name, 'Connected.')
    this.noteVersion(broker)
    this.fault = null
    this.waitForMessages(broker.askedAt)
    this.subscriptions.use(broker)
    const why = await broker.ended
    this.broker = null
    this.subscriptions.use(null)
    await broker.close()
    if (why) this.stumbled(why)
    else this.degradeAll(quality.BadNotConnected)
    // two clients with one client id throw each other out: that is no way to stand
    if (why === null || Date.now() - broker.askedAt > steadyMs) this.backoff.reset()
    return why === null
  }

  private hear({ topic, payload, retained, waits }: Heard) {
    this.context.arrivals.hand({ topic, payload, at: Date.now(), ...(retained ? { retained } : {}), ...(waits ? { waits } : {}) })
  }

  private takeArrival(topic: Topic, arrival: Arrival) {
    this.counts.requests++
    const took = take(topic, arrival, this.settings.reading.retained, this.context.table)
    if (took.length < topic.targets.size) this.counts.failures++
    for (const { point, age } of took) if (age !== null) this.aging.add(point.handle, arrival.at + age)
    this.flushSoon()
  }

  /** Messages come many at a time; the tags of all of them change together. */
  private flushSoon() {
    if (this.flushing) return
    this.flushing = true
    setImmediate(() => {
      this.flushing = false
      this.context.table.flush()
    })
  }

  private place(point: Point) {
    const was = this.topics.target(point.handle)
    if (was) this.remove(point.handle)
    const target = targetOf(point, this.settings)
    const topic = this.topics.place(target)
    if (was && !isSamePlace(was.point, point)) this.context.table.renew(point.handle, Date.now())
    this.showWhatIsKnown(topic, target)
  }

  private showWhatIsKnown(topic: Topic, target: Target) {
    const { table } = this.context
    const { handle } = target.point
    if (topic.refused) table.degrade(handle, quality.BadUserAccessDenied, Date.now())
    else if (this.broker && topic.last) this.takeKnown(topic, topic.last, target)
    else if (!this.broker && this.fault) table.degrade(handle, quality.BadNotConnected, Date.now())
  }

  /** What came last, which may have grown old meanwhile. */
  private takeKnown(topic: Topic, last: Arrival, target: Target) {
    const { handle } = target.point
    const now = Date.now()
    if (!takeLast(topic, last, target, this.settings.reading.retained, this.context.table) || target.age === null) return
    if (last.at + target.age > now) this.aging.add(handle, last.at + target.age)
    else this.context.table.degrade(handle, quality.UncertainLastUsableValue, now)
  }

  private claim(topic: Topic): () => void {
    const { name } = topic
    return this.context.arrivals.claim({ by: `tags on ${name}`, topic: name, take: (arrival) => this.takeArrival(topic, arrival) })
  }

  private remove(handle: Handle) {
    this.aging.cancel(handle)
    this.topics.remove(handle)
  }

  private noteRefusal(name: string, why: Fault | null) {
    const topic = this.topics.get(name)
    if (why && !topic) this.context.journal.caution(this.context.name, why.what, why)
    if (!topic) return
    topic.refused = why
    if (!why) return
    for (const handle of topic.targets.keys()) this.context.table.degrade(handle, quality.BadUserAccessDenied, Date.now())
    this.context.table.flush()
  }

  private async writeNow({ point }: Target, value: TagValue, { until }: Sending): Promise<WriteOutcome> {
    const raw = toRaw(value, point.type, point.scaling)
    if (!raw.ok)
      return {
        ok: false,
        quality: raw.reason === 'type' ? quality.BadTypeMismatch : quality.BadOutOfRange,
        fault: fault('write.value', { path: point.path, problem: raw.detail }),
      }
    const { broker } = this
    if (!broker || Date.now() > until)
      return { ok: false, quality: quality.BadNotConnected, fault: this.fault ?? fault('link.off', { name: this.context.name }) }
    const options = point.options as MqttPointOptions
    const payload = writtenPayload(raw.raw, point.type, options, Date.now())
    return sent(broker, point, options.setTopic ?? point.address, payload, this.settings.writes)
  }

  private tooOld(handles: readonly Handle[], now: number) {
    const { table } = this.context
    for (const handle of handles) table.degrade(handle, quality.UncertainLastUsableValue, now)
    table.flush()
  }

  private stumbled(why: Fault) {
    const known = this.fault?.code === why.code
    this.fault = why
    this.degradeAll(quality.BadNotConnected)
    if (!known) this.context.journal.caution(this.context.name, why.what, why)
  }

  /** There is a broker again: a value from before it is old until a message comes. */
  private waitForMessages(since: number) {
    const { table } = this.context
    const now = Date.now()
    for (const topic of this.topics.all()) {
      // a kept session gives what waited for us at once
      if (topic.last && topic.last.at >= since) continue
      topic.last = null
      for (const handle of topic.targets.keys())
        table.degrade(handle, table.values[handle] === undefined ? quality.BadWaitingForInitialData : quality.UncertainLastUsableValue, now)
    }
    table.flush()
  }

  private degradeAll(code: number) {
    const { table } = this.context
    const now = Date.now()
    for (const handle of this.topics.handles()) {
      this.aging.cancel(handle)
      table.degrade(handle, code, now)
    }
    table.flush()
  }

  private pause(ms: number): Promise<void> {
    return new Promise((resolve) => {
      const timer = setTimeout(resolve, ms)
      this.interrupt = () => {
        clearTimeout(timer)
        resolve()
      }
    })
  }

  /** Another broker, or another one that we are there: what was known says nothing about what comes. */
  private startOver() {
    const now = Date.now()
    for (const topic of this.topics.all()) topic.last = null
    for (const handle of this.topics.handles()) this.context.table.renew(handle, now)
    this.context.table.flush()
    this.backoff = backoffOf(this.settings)
    this.fault = null
    this.entering?.abort()
    void this.broker?.close()
    this.interrupt()
  }

  private refusedPoints(): RefusedPoint[] {
    return [...this.topics.all()].flatMap(({ name, refused, targets }) =>
      refused ? [...targets.values()].map(({ point }) => ({ path: point.path, address: name, why: refused.what })) : [],
    )
  }

  private condition(): Pick<LinkStatus, 'flow' | 'sentence' | 'fault'> {
    if (!this.broker) return { flow: this.fault ? 'broken' : 'late', sentence: this.fault?.what ?? 'Connecting', fault: this.fault }
    const refused = this.refusedPoints().length
    const note = refused > 0 ? ` · ${counted(refused, 'tag')} not given by the broker` : ''
    const heard = this.topics.size + this.subscriptions.filterCount
    const listening = heard === 0 ? 'Connected, no tags yet' : `Connected, listening to ${counted(heard, 'topic')}`
    const instead = this.broker.version === this.settings.version ? '' : `, by MQTT ${this.broker.version}`
    return { flow: 'flowing', sentence: listening + instead + note, fault: null }
  }
}

/** A connection that stood for so long was no vain attempt. */
const steadyMs = 10_000

const isSamePlace = (a: Point, b: Point) =>
  a.address === b.address && a.type === b.type && JSON.stringify([a.options, a.scaling]) === JSON.stringify([b.options, b.scaling])

const sent = async (
  broker: Broker,
  { path }: Point,
  topic: string,
  payload: string | Uint8Array,
  how: MqttSettings['writes'],
): Promise<WriteOutcome> => {
  try {
    await broker.send(topic, payload, how)
    return { ok: true }
  } catch (why) {
    if (isFault(why)) return { ok: false, quality: quality.BadUserAccessDenied, fault: why }
    return { ok: false, quality: quality.BadTimeout, fault: fault('write.unknown', { path, problem: (why as Error).message }) }
  }
}

const backoffOf = ({ patience }: MqttSettings) => new Backoff(patience.retryFirst, patience.retryMost)

/** What decides where and as whom we connect; a change of it starts over. */
const reaches = ({ reading: _reading, writes: _writes, ...rest }: MqttSettings) => JSON.stringify(rest)

import { randomBytes } from 'node:crypto'
import { fault, type Fault, isFault } from '#core/faults/catalogue'
import type { PointDefinition } from '#core/links/protocol'
import type { MqttSettings } from '#core/mqtt/settings'
import { quality } from '#core/tags/quality'
import type { TagValue } from '#core/tags/types'
import { counted } from '#core/text/counted'
import { Backoff } from '#pacing/backoff'
import type { CheckStep, LinkStatus } from '#shared/status'
import type { ValueOrigin } from '#shared/values'
import { steadyNow } from '#pacing/clock'
import type { Handle } from '../../table/tagTable'
import type { LinkContext, LinkSession, Listened, Point, PointFinding, WriteOutcome, LinkBrowser } from '../driver'
import type { Receiver } from '../receiving'
import { WriteQueue } from '../writeQueue'
import { Broker, type Heard } from './broker'
import { checkConnected, Hearing, topicsStep } from './check'
import { credentialsOf } from './credentials'
import { Listenings } from './listenings'
import { MessagesTo } from './messagesTo'
import { Subscriptions } from './subscriptions'
import { tryOn } from './tryRead'
import { TopicBrowser } from './topicBrowser'
import { TopicTags } from './topicTags'
import { writeTo } from './writing'

const mostRefusedShown = 20

/**
 * An MQTT link at work: it stays with its broker as long as it can, comes back with growing pauses, and listens to the
 * topics of its tags. A message is handed on once, to tags and to whoever else claims it.
 */
export class MqttLinkSession implements LinkSession<MqttSettings> {
  private settings: MqttSettings
  private tags: TopicTags
  private broker: Broker | null = null
  private fault: Fault | null = null
  private backoff: Backoff
  private writes: WriteQueue
  private subscriptions: Subscriptions
  private interrupt: () => void = () => {}
  private entering: AbortController | null = null
  private listenings = new Listenings(() => ({
    settings: this.settings,
    credentials: credentialsOf(this.settings, this.context.security),
    wire: this.context.wire,
  }))
  private closed = false
  private isVersionTold = false
  private madeId = `conduit-${randomBytes(6).toString('hex')}`
  private running: Promise<void>

  constructor(private context: LinkContext<MqttSettings>) {
    this.settings = context.settings
    this.backoff = backoffOf(context.settings)
    this.writes = new WriteQueue(context.settings.writes)
    this.tags = new TopicTags({
      context,
      settings: () => this.settings,
      isConnected: () => this.broker !== null,
      fault: () => this.fault,
    })
    this.subscriptions = new Subscriptions({
      topics: () => this.tags.names(),
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
    this.setPoints(this.tags.points(), [])
    if (before.reading.qos !== settings.reading.qos) this.subscriptions.again()
  }

  setPoints(changed: readonly Point[], removed: readonly Handle[]) {
    const { fresh, isLess } = this.tags.set(changed, removed)
    if (isLess || fresh.length > 0) this.subscriptions.settle(fresh)
  }

  async write(handle: Handle, value: TagValue): Promise<WriteOutcome> {
    const point = this.tags.pointAt(handle)
    if (!point) return { ok: false, quality: quality.BadNotConnected, fault: fault('link.off', { name: this.context.name }) }
    return this.writes.push(handle, point.path, ({ until }) => {
      const broker = this.broker && steadyNow() <= until ? this.broker : null
      return writeTo(broker ?? this.fault ?? fault('link.off', { name: this.context.name }), point, value, this.settings.writes)
    })
  }

  origin(handle: Handle): ValueOrigin | null {
    return this.tags.origin(handle)
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
      yield topicsStep(this.tags.heard())
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
    if (!this.tags.has(point.address)) await broker.leave([point.address]).catch(() => {})
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
    return this.tags.findings()
  }

  nextTry() {
    return this.backoff.nextTry
  }

  tryNow() {
    this.interrupt()
  }

  status(): Omit<LinkStatus, 'id' | 'tags' | 'goodTags'> {
    return {
      ...this.condition(),
      answerMs: this.broker?.ms ?? null,
      ...this.tags.counts,
      refused: this.broker ? this.tags.refusedPoints().slice(0, mostRefusedShown) : [],
      connections: this.broker ? 1 : 0,
    }
  }

  async close() {
    this.closed = true
    this.tags.stopAging()
    this.entering?.abort()
    this.interrupt()
    await this.listenings.close()
    await this.broker?.close()
    await this.running
    this.tags.degradeAll(quality.BadOutOfService)
    this.tags.close()
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
    this.tags.waitForMessages(broker.askedAt)
    this.subscriptions.use(broker)
    const why = await broker.ended
    this.broker = null
    this.subscriptions.use(null)
    await broker.close()
    if (why) this.stumbled(why)
    else this.tags.degradeAll(quality.BadNotConnected)
    // two clients with one client id throw each other out: that is no way to stand
    if (why === null || Date.now() - broker.askedAt > steadyMs) this.backoff.reset()
    return why === null
  }

  private hear({ topic, payload, retained, waits }: Heard) {
    this.context.arrivals.hand({ topic, payload, at: Date.now(), ...(retained ? { retained } : {}), ...(waits ? { waits } : {}) })
  }

  private noteRefusal(name: string, why: Fault | null) {
    if (!this.tags.noteRefusal(name, why) && why) this.context.journal.caution(this.context.name, why.what, why)
  }

  private stumbled(why: Fault) {
    const known = this.fault?.code === why.code
    this.fault = why
    this.tags.degradeAll(quality.BadNotConnected)
    if (!known) this.context.journal.caution(this.context.name, why.what, why)
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
    this.tags.forget()
    this.backoff = backoffOf(this.settings)
    this.fault = null
    this.entering?.abort()
    void this.broker?.close()
    this.interrupt()
  }

  private condition(): Pick<LinkStatus, 'flow' | 'sentence' | 'fault'> {
    if (!this.broker) return { flow: this.fault ? 'broken' : 'late', sentence: this.fault?.what ?? 'Connecting', fault: this.fault }
    const refused = this.tags.refusedPoints().length
    const note = refused > 0 ? ` · ${counted(refused, 'tag')} not given by the broker` : ''
    const heard = this.tags.size + this.subscriptions.filterCount
    const listening = heard === 0 ? 'Connected, no tags yet' : `Connected, listening to ${counted(heard, 'topic')}`
    const instead = this.broker.version === this.settings.version ? '' : `, by MQTT ${this.broker.version}`
    return { flow: 'flowing', sentence: listening + instead + note, fault: null }
  }
}

/** A connection that stood for so long was no vain attempt. */
const steadyMs = 10_000

const backoffOf = ({ patience }: MqttSettings) => new Backoff(patience.retryFirst, patience.retryMost)

/** What decides where and as whom we connect; a change of it starts over. */
const reaches = ({ reading: _reading, writes: _writes, ...rest }: MqttSettings) => JSON.stringify(rest)

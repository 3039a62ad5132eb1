import type { Fault } from '#core/faults/catalogue'
import type { MqttSettings } from '#core/mqtt/settings'
import { quality } from '#core/tags/quality'
import { DueList } from '#pacing/dueList'
import type { RefusedPoint } from '#shared/status'
import type { ValueOrigin } from '#shared/values'
import type { Arrival } from '../../arrivals/arrival'
import type { Handle } from '../../table/tagTable'
import type { LinkContext, Point, PointFinding } from '../driver'
import { originOf } from './origin'
import { TopicBook } from './topicBook'
import { take, takeLast, targetOf, type Target, type Topic } from './topics'

interface Around {
  context: LinkContext<MqttSettings>
  settings(): MqttSettings
  isConnected(): boolean
  /** Why there is no connection. */
  fault(): Fault | null
}

/** The tags of a link by their topics: what a message, its absence and the loss of the broker mean for their values. */
export class TopicTags {
  private topics = new TopicBook((topic) => this.claim(topic))
  private aging = new DueList<Handle>((handles, now) => this.tooOld(handles, now))
  private flushing = false
  readonly counts = { requests: 0, failures: 0 }

  constructor(private around: Around) {}

  get size() {
    return this.topics.size
  }

  names(): string[] {
    return this.topics.names()
  }

  has(name: string): boolean {
    return this.topics.has(name)
  }

  points(): Point[] {
    return this.topics.targets().map(({ point }) => point)
  }

  pointAt(handle: Handle): Point | undefined {
    return this.topics.target(handle)?.point
  }

  /** Which topics a message has come on. */
  heard(): { name: string; hasCome: boolean }[] {
    return [...this.topics.all()].map(({ name, last }) => ({ name, hasCome: last !== null }))
  }

  /** Returns the topics that are new, and whether some are wanted no more. */
  set(changed: readonly Point[], removed: readonly Handle[]): { fresh: string[]; isLess: boolean } {
    const before = new Set(this.topics.names())
    for (const handle of removed) this.remove(handle)
    for (const point of changed) this.place(point)
    const isLess = this.topics.dropUnwanted().length > 0
    this.table.flush()
    return { fresh: this.topics.names().filter((name) => !before.has(name)), isLess }
  }

  origin(handle: Handle): ValueOrigin | null {
    const [target, topic] = [this.topics.target(handle), this.topics.topicOf(handle)]
    if (!target || !topic) return null
    const origin = originOf(topic, target, this.table)
    return origin.fault || this.around.isConnected() ? origin : { ...origin, fault: this.around.fault() }
  }

  findings(): PointFinding[] {
    return [...this.topics.all()].flatMap(({ targets, refused }) =>
      [...targets.values()].flatMap(({ point: { handle }, problem }): PointFinding[] => {
        if (refused) return [{ handle, kind: 'refused', text: refused.what }]
        return problem ? [{ handle, kind: 'type', text: problem.what }] : []
      }),
    )
  }

  refusedPoints(): RefusedPoint[] {
    return [...this.topics.all()].flatMap(({ name, refused, targets }) =>
      refused ? [...targets.values()].map(({ point }) => ({ path: point.path, address: name, why: refused.what })) : [],
    )
  }

  /** The broker gives a topic, or does not. @returns whether it is one of tags */
  noteRefusal(name: string, why: Fault | null): boolean {
    const topic = this.topics.get(name)
    if (!topic) return false
    topic.refused = why
    if (!why) return true
    for (const handle of topic.targets.keys()) this.table.degrade(handle, quality.BadUserAccessDenied, Date.now())
    this.table.flush()
    return true
  }

  /** There is a broker again: a value from before it is old until a message comes. */
  waitForMessages(since: number) {
    const { table } = this
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

  degradeAll(code: number) {
    const now = Date.now()
    for (const handle of this.topics.handles()) {
      this.aging.cancel(handle)
      this.table.degrade(handle, code, now)
    }
    this.table.flush()
  }

  /** What was known says nothing about what comes. */
  forget() {
    const now = Date.now()
    for (const topic of this.topics.all()) topic.last = null
    for (const handle of this.topics.handles()) this.table.renew(handle, now)
    this.table.flush()
  }

  /** Its values are told no more. */
  stopAging() {
    this.aging.close()
  }

  close() {
    this.topics.close()
  }

  private get table() {
    return this.around.context.table
  }

  private claim(topic: Topic): () => void {
    const { name } = topic
    return this.around.context.arrivals.claim({ by: `tags on ${name}`, topic: name, take: (arrival) => this.takeArrival(topic, arrival) })
  }

  private takeArrival(topic: Topic, arrival: Arrival) {
    this.counts.requests++
    const took = take(topic, arrival, this.around.settings().reading.retained, this.table)
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
      this.table.flush()
    })
  }

  private place(point: Point) {
    const was = this.topics.target(point.handle)
    if (was) this.remove(point.handle)
    const target = targetOf(point, this.around.settings())
    const topic = this.topics.place(target)
    if (was && !isSamePlace(was.point, point)) this.table.renew(point.handle, Date.now())
    this.showWhatIsKnown(topic, target)
  }

  private showWhatIsKnown(topic: Topic, target: Target) {
    const { handle } = target.point
    const isConnected = this.around.isConnected()
    if (topic.refused) this.table.degrade(handle, quality.BadUserAccessDenied, Date.now())
    else if (isConnected && topic.last) this.takeKnown(topic, topic.last, target)
    else if (!isConnected && this.around.fault()) this.table.degrade(handle, quality.BadNotConnected, Date.now())
  }

  /** What came last, which may have grown old meanwhile. */
  private takeKnown(topic: Topic, last: Arrival, target: Target) {
    const { handle } = target.point
    const now = Date.now()
    if (!takeLast(topic, last, target, this.around.settings().reading.retained, this.table) || target.age === null) return
    if (last.at + target.age > now) this.aging.add(handle, last.at + target.age)
    else this.table.degrade(handle, quality.UncertainLastUsableValue, now)
  }

  private remove(handle: Handle) {
    this.aging.cancel(handle)
    this.topics.remove(handle)
  }

  private tooOld(handles: readonly Handle[], now: number) {
    for (const handle of handles) this.table.degrade(handle, quality.UncertainLastUsableValue, now)
    this.table.flush()
  }
}

const isSamePlace = (a: Point, b: Point) =>
  a.address === b.address && a.type === b.type && JSON.stringify([a.options, a.scaling]) === JSON.stringify([b.options, b.scaling])

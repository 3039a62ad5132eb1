import { gatheredJson, plainText, sampleJson, type PublishedSample } from '#core/outlets/published'
import { topicOf } from '#core/outlets/topicPattern'
import { topicProblem } from '#core/mqtt/topic'
import type { Qos } from '#core/mqtt/settings'
import type { Publication } from '#shared/outlets/mqttBroker'
import { inTurns } from '#pacing/turns'
import type { Handle, TagTable } from '../../table/tagTable'
import type { OutletTag } from '../driver'

interface Published {
  topic: string
  /** Empty: what was kept is taken back. */
  payload: string
  qos: Qos
  retain: boolean
}

/** One topic, with the tags that it tells of. */
interface Channel {
  topic: string
  by: Publication
  tags: Map<Handle, OutletTag>
  /** The last message is still on its way; what changes meanwhile goes with the next. */
  isBusy: boolean
  isDue: boolean
  /** What was sent without a quality is taken back where it is no longer good. */
  isTold: boolean
}

const mostProblems = 100

/** Tags as topics: what is published, when, and in which form. */
export class Publications {
  private publishes: readonly Publication[] = []
  private tags = new Map<Handle, OutletTag>()
  private channels = new Map<string, Channel>()
  private ofTag = new Map<Handle, Channel[]>()
  private setTopics = new Map<string, OutletTag>()
  private timers: NodeJS.Timeout[] = []
  private gathered = new Map<number, Set<Channel>>()
  private problems = new Map<string, string>()
  told = 0

  constructor(
    private table: TagTable,
    /** Resolves once it was handed on; never rejects. */
    private publish: (message: Published) => Promise<void>,
  ) {}

  /** What is published from now on; topics that are no longer tags' own keep nothing. */
  take(publishes: readonly Publication[]) {
    this.publishes = publishes
    for (const timer of this.timers) clearInterval(timer)
    this.gathered.clear()
    this.timers = [...new Set(publishes.flatMap(({ every }) => every ?? []))].map((every) => {
      this.gathered.set(every, new Set())
      return setInterval(() => this.tellGathered(every), every)
    })
    const before = [...this.channels.values()]
    this.channels = new Map()
    this.ofTag.clear()
    this.setTopics.clear()
    this.problems.clear()
    for (const tag of this.tags.values()) this.place(tag)
    for (const channel of before) if (!this.channels.has(channel.topic)) this.takeBack(channel)
    this.tellAll()
  }

  setTags(changed: readonly OutletTag[], removed: readonly Handle[]) {
    const touched = new Set<Channel>()
    const before = [...removed, ...changed.map(({ handle }) => handle)].flatMap((handle) => this.remove(handle))
    for (const tag of changed) {
      this.tags.set(tag.handle, tag)
      for (const channel of this.place(tag)) touched.add(channel)
    }
    for (const channel of before)
      if (channel.tags.size > 0) touched.add(channel)
      else if (this.channels.get(channel.topic) === channel) {
        this.channels.delete(channel.topic)
        this.takeBack(channel)
      }
    if (before.length > 0) for (const channel of this.placeLeft()) touched.add(channel)
    void inTurns(touched, (channel) => this.due(channel))
  }

  /** A topic that is free now may be that of a tag which had none. */
  private placeLeft(): Channel[] {
    if (this.problems.size === 0) return []
    const left = [...this.tags.values()].filter(({ path }) => this.problems.has(path))
    for (const { path } of left) this.problems.delete(path)
    return left.flatMap((tag) => this.place(tag))
  }

  /** These changed; never throws, and never waits. */
  announce(handles: readonly Handle[]) {
    for (const handle of handles) for (const channel of this.ofTag.get(handle) ?? []) this.changed(channel)
  }

  /** Whether a topic is a tag's own. */
  owns(topic: string): boolean {
    return this.channels.has(topic)
  }

  /** The tag that a topic sets. */
  setBy(topic: string): OutletTag | null {
    return this.setTopics.get(topic) ?? null
  }

  shows(path: string): boolean {
    return this.publishes.some(({ folder }) => isIn(path, folder))
  }

  status() {
    const notPublished = [...this.problems].slice(0, mostProblems).map(([path, problem]) => ({ path, problem }))
    return { published: this.channels.size, notPublished }
  }

  close() {
    for (const timer of this.timers) clearInterval(timer)
    this.timers = []
    this.channels.clear()
    this.ofTag.clear()
  }

  private place(tag: OutletTag): Channel[] {
    const placed = this.publishes.filter(({ folder }) => isIn(tag.path, folder)).flatMap((by) => this.placeBy(by, tag) ?? [])
    if (placed.length > 0) this.ofTag.set(tag.handle, placed)
    return placed
  }

  private placeBy(by: Publication, tag: OutletTag): Channel | null {
    const topic = topicOf(by.topic, tag.path)
    const problem = topicProblem(topic)
    if (problem) return this.noteProblem(tag, problem)
    const known = this.channels.get(topic)
    if (known && known.by !== by) return this.noteProblem(tag, `Its topic ${topic} is published already, by another folder’s line.`)
    if (known && !known.tags.has(tag.handle) && (by.form === 'plain' || isOwn(by.topic)))
      return this.noteProblem(tag, `Its topic ${topic} is that of ${[...known.tags.values()][0]?.path ?? 'another tag'} already.`)
    const channel = known ?? { topic, by, tags: new Map<Handle, OutletTag>(), isBusy: false, isDue: false, isTold: false }
    channel.tags.set(tag.handle, tag)
    this.channels.set(topic, channel)
    this.placeSetTopic(by, tag)
    return channel
  }

  private placeSetTopic({ set }: Publication, tag: OutletTag) {
    if (set === '') return
    const topic = topicOf(set, tag.path)
    const other = this.setTopics.get(topic)
    if (topicProblem(topic) === null && (!other || other.handle === tag.handle)) this.setTopics.set(topic, tag)
    else this.problems.set(tag.path, `${topic} cannot set it: ${topicProblem(topic) ?? `it sets ${other!.path} already`}`)
  }

  private noteProblem({ path }: OutletTag, problem: string): null {
    this.problems.set(path, problem)
    return null
  }

  /** Returns where it was told of. */
  private remove(handle: Handle): Channel[] {
    const tag = this.tags.get(handle)
    const channels = this.ofTag.get(handle) ?? []
    for (const channel of channels) channel.tags.delete(handle)
    this.ofTag.delete(handle)
    this.tags.delete(handle)
    if (!tag) return channels
    this.problems.delete(tag.path)
    for (const [topic, other] of this.setTopicsOf(tag)) if (other.handle === handle) this.setTopics.delete(topic)
    return channels
  }

  private setTopicsOf({ path }: OutletTag): [string, OutletTag][] {
    return this.publishes.flatMap(({ set }): [string, OutletTag][] => {
      const topic = set === '' ? '' : topicOf(set, path)
      const known = this.setTopics.get(topic)
      return known ? [[topic, known]] : []
    })
  }

  private tellAll() {
    void inTurns([...this.channels.values()], (channel) => this.due(channel))
  }

  private changed(channel: Channel) {
    const { every } = channel.by
    if (every === null) this.due(channel)
    else this.gathered.get(every)?.add(channel)
  }

  private tellGathered(every: number) {
    const waiting = this.gathered.get(every)
    if (!waiting?.size) return
    this.gathered.set(every, new Set())
    for (const channel of waiting) this.due(channel)
  }

  private due(channel: Channel) {
    if (this.channels.get(channel.topic) !== channel) return
    if (channel.isBusy) channel.isDue = true
    else void this.tell(channel)
  }

  private async tell(channel: Channel) {
    const payload = this.payloadOf(channel)
    const { topic, by } = channel
    if (payload === null && !(channel.isTold && by.retain)) return
    channel.isBusy = true
    channel.isTold = payload !== null
    this.told++
    await this.publish({ topic, payload: payload ?? '', qos: by.qos, retain: by.retain })
    channel.isBusy = false
    if (!channel.isDue) return
    channel.isDue = false
    this.due(channel)
  }

  private takeBack({ topic, by, isTold }: Channel) {
    if (by.retain && isTold) void this.publish({ topic, payload: '', qos: by.qos, retain: true })
  }

  /** Null: there is nothing that may be told. */
  private payloadOf({ by, tags }: Channel): string | null {
    const [only] = tags.values()
    if (!only) return null
    if (by.form === 'plain') return plainText(this.sampleOf(only))
    if (isOwn(by.topic)) return sampleJson(this.sampleOf(only))
    return gatheredJson([...tags.values()].map((tag) => [tag.path, this.sampleOf(tag)]))
  }

  private sampleOf({ handle, type, unit, names }: OutletTag): PublishedSample {
    const { table } = this
    return { value: table.values[handle], quality: table.quality[handle]!, sourceTime: table.sourceTime[handle]!, type, unit, names }
  }
}

/** With the whole path or the name in it each tag has a topic of its own; else tags go together. */
const isOwn = (pattern: string) => /\{(path|name)\}/.test(pattern)

const isIn = (path: string, folder: string) => folder === '' || path.startsWith(`${folder}/`)

import { alarmWays, isAlarmAsked } from '#core/alarms/paged'
import { alarmText, shownValue } from '#core/alarms/words'
import { limitName, severities, type AlarmTurn, type Limit } from '#core/alarms/limits'
import { LimitWatch, type Looked, type Turn } from '#core/alarms/watch'
import { fault } from '#core/faults/catalogue'
import { pageOfArray, type Page } from '#core/lists/paged'
import { severityOf } from '#core/tags/quality'
import type { Alarm, AlarmEvent, AlarmsAsked, AlarmsMatching, AlarmsStatus } from '#shared/alarms'
import type { JournalWriter } from '../journal/journal'
import type { SampleRing } from '../table/sampleRing'
import type { Handle, TagTable } from '../table/tagTable'
import type { RegisteredTag, TagRegister } from '../tags/tagRegister'
import { AlarmJournal } from './alarmJournal'
import type { OrderedStore } from '../disk/orderedStore'
import { AlarmStore, type KeptAlarm } from './alarmStore'

interface Around {
  table: TagTable
  tags: TagRegister
  journal: JournalWriter
  /** Where alarms outlast a restart; null: nowhere. */
  folder: string | null
  /** Keeps what became of alarms, for lists. */
  keep(event: AlarmEvent): void
  /** Awaited before what was kept is read. */
  opened?(store: OrderedStore): Promise<void>
}

interface Watched {
  tag: RegisteredTag
  watches: Map<string, LimitWatch>
  ring: SampleRing
  end(): void
}

const tickMs = 250
const mostBetween = 5000
const mostComment = 500

type Entry = readonly [key: string, alarm: KeptAlarm]
const ways = alarmWays(([, alarm]: Entry) => alarm)

const keyOf = (tagId: number, limit: Limit) => `${tagId}/${limitName(limit).toLowerCase()}`

/** Watches the limits of tags, and knows what is an alarm, who saw it and what was said of it. */
export class Alarms {
  private watched = new Map<Handle, Watched>()
  private alarms = new Map<string, KeptAlarm>()
  private waiting = new Set<Watched>()
  private dirty = new Set<Watched>()
  private listeners = new Set<(event: AlarmEvent) => void>()
  private store: AlarmStore
  private journal: AlarmJournal
  private opened: Promise<void>
  private isOpen = false
  private isConfigured = false
  private timer: NodeJS.Timeout
  private stopListening: () => void
  private diskTold = false

  constructor(private around: Around) {
    const { folder, journal, table } = around
    this.journal = new AlarmJournal(journal)
    const failed = (problem: string) => {
      if (!this.diskTold) journal.caution('Alarms', `Alarms are kept in memory only, and a restart forgets who saw them: ${problem}`)
      this.diskTold = true
    }
    this.store = new AlarmStore(folder, failed, around.opened)
    this.stopListening = table.listen((handles) => this.heard(handles))
    this.timer = setInterval(() => this.tick(Date.now()), tickMs)
    this.timer.unref()
    this.opened = this.open()
  }

  /** Where they outlast a restart. */
  get kept(): OrderedStore {
    return this.store.kept
  }

  /** What becomes of alarms from now on; returns how to end it. */
  listen(listener: (event: AlarmEvent) => void): () => void {
    this.listeners.add(listener)
    return () => this.listeners.delete(listener)
  }

  tagsChanged(set: readonly RegisteredTag[], removed: readonly RegisteredTag[]) {
    for (const tag of removed) this.leave(tag.handle, [])
    for (const tag of set) if (tag.limits.length > 0 || this.watched.has(tag.handle)) this.place(tag)
  }

  /** All that is configured has come: what was an alarm of something else is none any more. */
  configured() {
    this.isConfigured = true
    if (this.isOpen) this.dropGone()
  }

  /** The keys of all that is active or not acknowledged, the worst and newest first. */
  keys(): string[] {
    return pageOfArray([...this.alarms], { sort: 'rank', offset: 0, limit: Infinity }, ways).items.map(([key]) => key)
  }

  /** Of all that is active or not acknowledged. */
  page(asked: AlarmsAsked): Page<Alarm> {
    const all = [...this.alarms].filter(([, alarm]) => isAlarmAsked(alarm, asked))
    const page = pageOfArray(all, asked, ways)
    return { ...page, items: page.items.map(([key, one]) => this.shown(key, one)) }
  }

  /** The keys of those that nobody saw. */
  matching({ find, until }: AlarmsMatching): string[] {
    const unseen = [...this.alarms].filter(([, { seen, since }]) => !seen && since <= until)
    return pageOfArray(unseen, { find, sort: 'rank', offset: 0, limit: Infinity }, ways).items.map(([key]) => key)
  }

  get(key: string): Alarm | undefined {
    const known = this.alarms.get(key)
    return known && this.shown(key, known)
  }

  /** @returns the keys of those that are no alarms, or were acknowledged before */
  acknowledge(keys: readonly string[], who: string, comment: string): string[] {
    return keys.filter((key) => {
      const known = this.alarms.get(key)
      if (!known || known.seen) return true
      const at = Date.now()
      const said = comment === '' ? known.comment : { text: comment.slice(0, mostComment), by: who, at }
      this.settle(key, { ...known, seen: { by: who, at }, comment: said, count: 0 })
      this.tell(key, known, 'acknowledged', { at, who, comment })
      return false
    })
  }

  /** @returns whether there is such an alarm */
  comment(key: string, who: string, text: string): boolean {
    const known = this.alarms.get(key)
    if (!known) return false
    const at = Date.now()
    this.settle(key, { ...known, comment: { text: text.slice(0, mostComment), by: who, at } })
    this.tell(key, known, 'commented', { at, who, comment: text })
    return true
  }

  status(): AlarmsStatus {
    let [limits, active, unseen, worst] = [0, 0, 0, -1]
    for (const { watches } of this.watched.values()) limits += watches.size
    for (const one of this.alarms.values()) {
      if (one.active) active++
      if (!one.seen) unseen++
      worst = Math.max(worst, severities.indexOf(one.severity))
    }
    return { limits, active, unseen, worst: severities[worst] ?? null }
  }

  async close() {
    clearInterval(this.timer)
    this.stopListening()
    for (const { end } of this.watched.values()) end()
    await this.opened
    this.journal.close()
    await this.store.close()
  }

  /** What was an alarm before is one until its tag says otherwise. */
  private async open() {
    try {
      this.alarms = await this.store.open()
    } catch (error) {
      this.around.journal.caution('Alarms', `What was known of alarms cannot be read: ${(error as Error).message}`)
    }
    this.isOpen = true
    for (const watched of this.watched.values()) {
      watched.watches = this.watchesFor(watched.tag)
      // with all that came since it is followed
      this.begin(watched)
    }
    this.dirty.clear()
    if (this.isConfigured) this.dropGone()
  }

  private place(tag: RegisteredTag) {
    const before = this.watched.get(tag.handle)
    if (tag.limits.length === 0) return this.leave(tag.handle, [])
    const same = before && before.tag.id === tag.id && before.tag.passedOn === tag.passedOn
    const watches = this.watchesFor(tag, same ? before.watches : undefined)
    if (before) this.leave(tag.handle, [...watches.keys()])
    const { ring, end } = this.around.table.follow(tag.handle, mostBetween)
    const watched = { tag, watches, ring, end }
    this.watched.set(tag.handle, watched)
    // before it is known what was an alarm, nothing becomes one
    if (this.isOpen) this.begin(watched)
  }

  private watchesFor(tag: RegisteredTag, before?: ReadonlyMap<string, LimitWatch>): Map<string, LimitWatch> {
    return new Map(
      tag.limits.map((limit) => {
        const key = keyOf(tag.id, limit)
        const known = before?.get(key)
        const isAlike = known && JSON.stringify(known.limit) === JSON.stringify(limit)
        return [key, isAlike ? known : new LimitWatch(limit, known?.isActive ?? this.alarms.get(key)?.active ?? false)]
      }),
    )
  }

  private begin(watched: Watched) {
    this.rename(watched)
    this.drain(watched)
  }

  private rename({ tag: { path }, watches }: Watched) {
    for (const key of watches.keys()) {
      const known = this.alarms.get(key)
      if (known && known.path !== path) this.settle(key, { ...known, path })
    }
  }

  /** @param kept limits that go on */
  private leave(handle: Handle, kept: readonly string[]) {
    const watched = this.watched.get(handle)
    if (!watched) return
    watched.end()
    this.watched.delete(handle)
    this.waiting.delete(watched)
    this.dirty.delete(watched)
    for (const key of watched.watches.keys()) if (!kept.includes(key)) this.drop(key)
  }

  /** Alarms of tags and limits that went while nobody looked. */
  private dropGone() {
    for (const [key, { tagId }] of this.alarms) {
      const tag = this.around.tags.byTagId(tagId)
      if (!tag?.limits.some((limit) => keyOf(tagId, limit) === key)) this.drop(key)
    }
  }

  private drop(key: string) {
    const known = this.alarms.get(key)
    if (!known) return
    this.alarms.delete(key)
    this.store.remove(key)
    this.tell(key, known, 'dropped', { at: Date.now() })
  }

  /** Within a flush: only noted. */
  private heard(handles: readonly Handle[]) {
    if (this.watched.size === 0) return
    const before = this.dirty.size
    for (const handle of handles) {
      const watched = this.watched.get(handle)
      if (watched) this.dirty.add(watched)
    }
    if (before === 0 && this.dirty.size > 0) queueMicrotask(() => this.look())
  }

  private look() {
    if (!this.isOpen) return
    const dirty = [...this.dirty]
    this.dirty.clear()
    for (const watched of dirty) this.drain(watched)
  }

  private drain(watched: Watched) {
    const now = Date.now()
    for (const { value, quality, sourceTime } of watched.ring.drain())
      this.take(watched, { value, quality, at: sourceTime > 0 && sourceTime <= now ? sourceTime : now, now })
  }

  private take(watched: Watched, looked: Looked) {
    for (const [key, watch] of watched.watches) {
      const turn = watch.take(looked)
      if (turn) this.turned(watched.tag, key, watch.limit, turn)
    }
    const waits = [...watched.watches.values()].some((watch) => watch.waits)
    if (waits) this.waiting.add(watched)
    else this.waiting.delete(watched)
  }

  private tick(now: number) {
    this.journal.tick(now)
    for (const watched of this.waiting) {
      for (const [key, watch] of watched.watches) {
        const turn = watch.tick(now)
        if (turn) this.turned(watched.tag, key, watch.limit, turn)
      }
      if (![...watched.watches.values()].some((watch) => watch.waits)) this.waiting.delete(watched)
    }
  }

  private turned(tag: RegisteredTag, key: string, limit: Limit, { active, at, value }: Turn) {
    const known = this.alarms.get(key)
    if (known && known.active === active) return
    const text = alarmText(limit, value, tag.passedOn, tag.unit, tag.names)
    const shown = shownValue(value, tag.passedOn, tag.names)
    const { id: tagId, path } = tag
    const facts = { tagId, path, limit: limitName(limit), severity: limit.severity }
    if (!active) {
      if (!known) return
      this.settle(key, { ...known, active: false, over: at })
      return this.tell(key, known, 'over', { at, value: shown })
    }
    const isNew = !known || known.seen !== null
    const raised: KeptAlarm = {
      ...{ ...facts, text, active: true, since: at, over: null, value: shown },
      ...{ count: (isNew ? 0 : known.count) + 1, seen: limit.acknowledge ? null : { by: '', at }, comment: isNew ? null : known.comment },
    }
    this.settle(key, raised)
    this.tell(key, raised, 'raised', { at, value: shown })
  }

  /** What is over and was seen is done with. */
  private settle(key: string, alarm: KeptAlarm) {
    if (!alarm.active && alarm.seen) {
      this.alarms.delete(key)
      return this.store.remove(key)
    }
    this.alarms.set(key, alarm)
    this.store.put(key, alarm)
  }

  private tell(
    key: string,
    { tagId, path, limit, severity, text, value }: KeptAlarm,
    turn: AlarmTurn,
    more: { at: number; value?: string; who?: string; comment?: string },
  ) {
    const event: AlarmEvent = { ...{ key, tagId, path, limit, severity, text, value, turn, who: '', comment: '' }, ...more }
    this.around.keep(event)
    this.journal.add(event)
    for (const listener of this.listeners) this.hand(listener, event)
  }

  /** Whoever cannot take it keeps nobody else from it. */
  private hand(listener: (event: AlarmEvent) => void, event: AlarmEvent) {
    try {
      listener(event)
    } catch (error) {
      const why = fault('ours.unexpected', { problem: (error as Error).message })
      this.around.journal.trouble('Alarms', `Somebody who is told of alarms failed: ${why.what}`, why)
    }
  }

  private shown(key: string, alarm: KeptAlarm): Alarm {
    return { key, ...alarm, isUnknown: this.isUnknown(alarm.tagId) }
  }

  private isUnknown(tagId: number): boolean {
    const handle = this.around.tags.handleOf(tagId)
    return handle === undefined || severityOf(this.around.table.quality[handle]!) === 'bad'
  }
}

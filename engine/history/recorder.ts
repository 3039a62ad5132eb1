import { bucketStart, tierMs } from '#core/history/bucket'
import { closestOf } from '#core/history/closest'
import type { RecordingDraft } from '#core/history/settings'
import { quality } from '#core/tags/quality'
import type { TagValue } from '#core/tags/types'
import { Turns } from '#pacing/turns'
import { latestNow } from '#pacing/clock'
import type { Periods } from '../bridges/periods'
import type { Sample } from '../table/sampleRing'
import type { Handle, TagTable } from '../table/tagTable'
import type { RegisteredTag, TagRegister } from '../tags/tagRegister'
import type { OpenParcel } from './parcel'
import { recordedValue } from '#core/history/recordedValue'
import { believedTime, Series } from './series'

interface Around {
  table: TagTable
  tags: TagRegister
  periods: Periods
  parcel: OpenParcel
  /** Samples before this are not kept; Unix milliseconds. */
  oldest(now: number): number
  /** Whether another machine records it. */
  isElsewhere?(tag: RegisteredTag): boolean
}

interface Recorded {
  tag: RegisteredTag
  series: Series
  end(): void
}

/** As many samples of one tag between two looks as are told apart. */
const mostBetween = 20_000
/** A minute is closed this long after it is over, so that what is a little late is no late data. */
const graceMs = 3000

/** Follows the tags that are to be recorded, and lays every sample of them into the open parcel. */
export class Recorder {
  private recorded = new Map<number, Recorded>()
  private byHandle = new Map<Handle, Recorded>()
  /** Tags that other machines record. */
  private elsewhere = new Set<number>()
  private dirty = new Set<Recorded>()
  private rules: RecordingDraft[] = []
  /** Tags that others work from: every change of them is recorded, whatever the rules say. */
  private required: ReadonlySet<string> = new Set()
  private decide = closestOf<RecordingDraft>([])
  private closing: Promise<void> | null = null
  private stopListening: () => void
  /** All minutes before it are closed. */
  private closedTo: number
  /** Samples that gave way to others before they were looked at, and those whose times were not believed, since the start. */
  lost = 0
  doubtful = 0
  samples = 0
  lastDoubtful: { path: string; time: number } | null = null

  constructor(private around: Around) {
    this.closedTo = bucketStart(Date.now(), tierMs.minute)
    this.stopListening = around.table.listen((handles) => this.heard(handles))
  }

  get count() {
    return this.recorded.size + this.elsewhere.size
  }

  isRecorded(id: number): boolean {
    return this.recorded.has(id) || this.elsewhere.has(id)
  }

  setRules(rules: Iterable<RecordingDraft>) {
    this.rules = [...rules]
    this.decide = closestOf(this.rules)
    this.tagsChanged([...this.around.tags.all()], [])
  }

  require(paths: ReadonlySet<string>) {
    const touched = [...new Set([...paths, ...this.required])].filter((path) => paths.has(path) !== this.required.has(path))
    this.required = paths
    for (const path of touched) {
      const tag = this.around.tags.byPath(path)
      if (tag) this.place(tag)
    }
  }

  /** A sample of a time that is past already. */
  correct(id: number, sample: { at: number; value: TagValue | undefined; quality: number }, now: number) {
    const recorded = this.recorded.get(id)
    if (!recorded) return
    // what was told before, and said nothing new, must not come after it
    this.drain(recorded, now)
    const { number, text } = recordedValue(sample.value)
    this.samples++
    recorded.series.correct({ at: sample.at, arrived: now, quality: sample.quality, number, text }, this.around.parcel, this.closedTo, now)
  }

  tagsChanged(set: readonly RegisteredTag[], removed: readonly RegisteredTag[]) {
    for (const tag of removed) this.leave(tag.id)
    if (this.rules.length === 0 && this.required.size === 0 && this.count === 0) return
    for (const tag of set) this.place(tag)
  }

  /** Takes in what came since the last time. */
  take(now: number) {
    for (const recorded of this.dirty) this.drain(recorded, now)
    this.dirty.clear()
    const to = bucketStart(now - graceMs, tierMs.minute)
    if (to < this.closedTo - tierMs.minute && !this.closing) this.reopen(to, now)
    if (to > this.closedTo) this.closing ??= this.closeMinutes(to).finally(() => (this.closing = null))
  }

  /** Ends; what is being recorded is known up to now. */
  async close(now: number) {
    this.stopListening()
    for (const recorded of this.recorded.values()) {
      this.drain(recorded, now)
      recorded.end()
    }
    await this.closing
    this.recorded.clear()
    this.byHandle.clear()
  }

  private place(tag: RegisteredTag) {
    const how = this.required.has(tag.path) ? everyChange : this.decide(tag.path)?.how
    const known = this.recorded.get(tag.id)
    this.elsewhere.delete(tag.id)
    if (!how || how.kind === 'not') return this.leave(tag.id)
    if (this.around.isElsewhere?.(tag)) {
      this.leave(tag.id)
      this.elsewhere.add(tag.id)
      return
    }
    if (known && known.tag.handle === tag.handle && isAlike(known.series.how, how)) {
      known.series.how = how
      if (known.tag.path !== tag.path || known.tag.unit !== tag.unit || known.tag.passedOn !== tag.passedOn) this.tell(tag, true)
      known.tag = tag
      return
    }
    if (known) this.letGo(known)
    this.begin(tag, how)
  }

  private begin(tag: RegisteredTag, how: Series['how']) {
    const { table, periods } = this.around
    const { handle, id } = tag
    if (how.kind === 'period') {
      const series = new Series(id, handle, null, Date.now(), how)
      const recorded = { tag, series, end: periods.add(how.every, (at) => this.sampleNow(recorded, at)) }
      return this.keep(recorded)
    }
    const { ring, end } = table.follow(handle, mostBetween)
    const series = new Series(id, handle, ring, Date.now(), how)
    const recorded = { tag, series, end }
    // what it has now, it has from now on: since when is nothing that was recorded
    const [present] = ring.drain()
    this.keep(recorded)
    if (present?.value !== undefined) this.record(recorded, { ...present, sourceTime: Date.now() }, Date.now())
  }

  private keep(recorded: Recorded) {
    this.recorded.set(recorded.tag.id, recorded)
    this.byHandle.set(recorded.tag.handle, recorded)
    this.tell(recorded.tag, true)
  }

  private leave(id: number) {
    this.elsewhere.delete(id)
    const known = this.recorded.get(id)
    if (!known) return
    const now = Date.now()
    this.drain(known, now)
    const nothing = { at: now, arrived: now, quality: quality.BadNoData, number: NaN, text: null }
    known.series.take(nothing, this.around.parcel, this.closedTo, now)
    known.series.closeMinute(Infinity, this.around.parcel, now)
    this.tell(known.tag, false)
    this.letGo(known)
  }

  private letGo(recorded: Recorded) {
    recorded.end()
    this.recorded.delete(recorded.tag.id)
    this.byHandle.delete(recorded.tag.handle)
    this.dirty.delete(recorded)
  }

  private tell({ id, path, passedOn, unit }: RegisteredTag, recording: boolean) {
    this.around.parcel.addSeries({ id, path, type: passedOn, unit, recording, at: Date.now() })
  }

  /** Within a flush: only noted. */
  private heard(handles: readonly Handle[]) {
    if (this.byHandle.size === 0) return
    for (const handle of handles) {
      const recorded = this.byHandle.get(handle)
      if (recorded?.series.ring) this.dirty.add(recorded)
    }
  }

  private drain(recorded: Recorded, now: number) {
    const { ring } = recorded.series
    if (!ring) return
    for (const sample of ring.drain()) this.record(recorded, sample, now)
    this.lost += ring.lost - recorded.series.lostBefore
    recorded.series.lostBefore = ring.lost
  }

  private record(recorded: Recorded, sample: Sample, now: number) {
    const { at, isDoubtful } = believedTime(sample.sourceTime, now, this.around.oldest(now), latestNow())
    if (isDoubtful) this.noteDoubt(recorded.tag, sample.sourceTime)
    this.put(recorded, sample, Math.floor(at), now)
  }

  private put({ series }: Recorded, { value, quality: code }: Sample, at: number, now: number) {
    const { number, text } = recordedValue(value)
    this.samples++
    series.take({ at, arrived: now, quality: code, number, text }, this.around.parcel, this.closedTo, now)
  }

  private sampleNow(recorded: Recorded, at: number) {
    const { values, quality: codes } = this.around.table
    const { handle } = recorded.tag
    this.put(recorded, { value: values[handle], quality: codes[handle]!, sourceTime: at, seenAt: at }, at, Date.now())
  }

  private noteDoubt({ path }: RegisteredTag, time: number) {
    if (time === 0) return
    this.doubtful++
    this.lastDoubtful = { path, time }
  }

  /** The clock was set back: minutes that were ahead of it are none that it has reached. */
  private reopen(to: number, now: number) {
    for (const { series } of this.recorded.values()) series.closeMinute(Infinity, this.around.parcel, now)
    this.closedTo = to
    this.around.parcel.reopen(to, now)
  }

  private async closeMinutes(to: number) {
    const turns = new Turns()
    for (const { series } of this.recorded.values()) {
      if (turns.isOver) await turns.next()
      series.closeMinute(to, this.around.parcel, Date.now())
    }
    this.closedTo = to
    this.around.parcel.closeMinutes(to, Date.now())
  }
}

const everyChange = { kind: 'change', band: 0 } as const

/** Whether a series may go on as it is under another recording. */
const isAlike = (a: Series['how'], b: Series['how']) =>
  a.kind === 'change' ? b.kind === 'change' : b.kind === 'period' && a.every === b.every

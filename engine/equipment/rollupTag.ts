import { fault, type Fault } from '#core/faults/catalogue'
import { OpenBucket } from '#core/history/bucket'
import { goodNumber } from '#core/history/goodNumber'
import type { MadeOf } from '#core/equipment/made'
import { rolledUp } from '#core/equipment/rollup'
import { together } from '#core/equipment/slide'
import { Spans } from '#core/equipment/spans'
import { leastLength, windowAt, windowsBefore, type Stretch } from '#core/equipment/windows'
import { overText, rollupWord } from '#core/equipment/words'
import { severityOf } from '#core/tags/quality'
import type { TagValue } from '#core/tags/types'
import { momentText } from '#core/text/moment'
import { toRaw } from '#core/tags/scaling'
import type { ValueStage } from '#shared/values'
import { recordedValue } from '#core/history/recordedValue'
import { latestNow } from '#pacing/clock'
import type { Sample } from '../table/sampleRing'
import type { TagTable } from '../table/tagTable'
import type { RegisteredTag } from '../tags/tagRegister'
import { madeUp, type MadeUp } from './madeUp'
import type { Recalling } from './recalling'
import type { SampleReader, SampleTap } from './sampleTap'
import type { PropertyWork } from './work'

interface Around {
  table: TagTable
  tap: SampleTap
  recalling: Recalling
  zone(): string
}

/** Samples that came while a window was asked for. */
const mostMeanwhile = 20_000
/** What is a little late is no late data. */
const graceMs = 1000
const shortGraceMs = 200
/** The clock may be set back by so little and the window at hand stays. */
const mostBackMs = 60_000
/** So many windows of the past are made up for: of seconds half a day, of minutes a month. */
const mostMadeUp = 50_000
/** After a sleep of the machine only so many windows are made up for at once; the others are asked for. */
const mostMissed = 10_000

/**
 * A value over windows of time: made as samples come, and made again from what was recorded where they come late, or came
 * while nobody looked.
 */
export class RollupTag implements PropertyWork, SampleReader {
  fault: Fault | null = null
  /** The window at hand. */
  private window: OpenBucket | null = null
  /** Those before it that it is put together with, where it slides over several. */
  private before: OpenBucket[] = []
  private newestAt = -Infinity
  private newest = NaN
  /** Whether what is known here of the window at hand and those before it is not all of it. */
  private inDoubt = false
  /** How often that was found: what is found while the record is asked is not in its answer. */
  private doubts = 0
  private meanwhile: { at: number; value: number }[] = []
  /** What is over and to be made again. */
  private again = new Spans()
  private atWork: Stretch | null = null
  private noted: Stretch | null = null
  private knowsMissed = false
  private asking = false
  private toldAt = -Infinity
  private closed = false

  constructor(
    private tag: RegisteredTag,
    private made: MadeOf & { kind: 'rollup' },
    private around: Around,
  ) {
    around.tap.add(this, made.of)
  }

  take({ value, quality: code, sourceTime }: Sample) {
    const now = Date.now()
    if (!this.window) this.begin(now)
    const at = sourceTime > 0 && sourceTime <= latestNow() + 3_600_000 ? sourceTime : now
    const number = goodNumber(recordedValue(value).number, code)
    // what it had when somebody began to look, it has from then on
    if (this.newestAt === -Infinity && at < this.window!.at) {
      this.window!.begin(number)
      return this.note(at, number)
    }
    this.closeUntil(at)
    // one that is told twice counts once
    if (at === this.newestAt && Object.is(number, this.newest)) return
    if (at < this.window!.at) return this.takeLate(at, number)
    if (at <= this.newestAt) this.doubt()
    else this.window!.add(at, number)
    this.note(at, number)
    if (this.asking && this.meanwhile.length < mostMeanwhile) this.meanwhile.push({ at, value: number })
    if (this.made.shows === 'running') this.tell(this.window!, now)
  }

  /** One of a time that is past took the place of another. */
  correct(sample: Sample) {
    this.take(sample)
  }

  gone() {
    this.fault = fault('equipment.no-input', { path: this.tag.path, input: this.made.of })
  }

  lost() {
    this.doubt()
  }

  /** What was recorded of a stretch is not what it was. */
  makeAgain({ from, to }: Stretch) {
    if (!this.window) return
    if (to > this.window.at) this.doubt()
    this.makeUpFor({ from, to: Math.min(to, this.window.at) })
  }

  /** Time goes by. */
  tick(now: number) {
    if (!this.window || now < this.window.at - mostBackMs) this.begin(now)
    const grace = this.window!.end - this.window!.at >= 10_000 ? graceMs : shortGraceMs
    if (now >= this.window!.end + grace) this.closeUntil(now - grace)
    else if (this.made.shows === 'running') this.tell(this.window!, now)
  }

  /** Whether there is something to ask the record for. */
  get hasToAsk() {
    if (this.asking || this.closed || !this.window) return false
    return this.inDoubt || !this.again.isEmpty || this.hasToLearn
  }

  private get hasToLearn() {
    return !this.knowsMissed && this.around.recalling.isRecorded(this.tag)
  }

  /** Asks what was recorded of the window at hand, or else of what is over. */
  async ask() {
    this.asking = true
    this.meanwhile = []
    try {
      if (this.inDoubt) await this.recallPresent(this.window!)
      else if (this.hasToLearn) await this.learnMissed()
      else await this.makeNextAgain()
      this.fault = null
    } catch (error) {
      this.fault = fault('equipment.no-history', { path: this.tag.path, problem: (error as Error).message })
    } finally {
      this.asking = false
    }
  }

  stages(): ValueStage[] {
    const { window } = this
    const { how, of, shows } = this.made
    const shown = window ? `from ${momentText(window.at)}, ${window.count} samples so far` : 'not begun'
    const left = this.again.hull ?? this.atWork
    const behind = left ? `; what was from ${momentText(left.from)} is being made again` : ''
    return [
      { title: of, text: rollupWord(how), detail: `over ${overText(this.made)}, by the clock of ${this.around.zone()}` },
      {
        title: 'The window at hand',
        text: shown,
        detail: `${shows === 'running' ? 'passed on as it grows' : 'passed on when it is over'}${behind}`,
      },
    ]
  }

  close() {
    this.closed = true
    this.around.tap.remove(this)
  }

  /** Also where the clock was set back, by more than what is late: what was said of times ahead of it says nothing. */
  private begin(now: number) {
    this.before = []
    this.newestAt = this.toldAt = -Infinity
    this.newest = NaN
    const { from, to } = windowAt(this.made.window, now, this.around.zone())
    this.window = new OpenBucket(from, to)
    this.inDoubt = from < now || this.made.over > 1
  }

  private note(at: number, value: number) {
    if (at < this.newestAt) return
    this.newestAt = at
    this.newest = value
  }

  private doubt() {
    this.inDoubt = true
    this.doubts++
  }

  /** A window that is over is another one. */
  private takeLate(at: number, value: number) {
    // the window at hand begins with it
    if (at > this.newestAt) this.doubt()
    this.note(at, value)
    this.makeUpFor(windowAt(this.made.window, at, this.around.zone()))
  }

  private makeUpFor(stretch: Stretch) {
    this.again.add(stretch)
    this.noteAgain()
  }

  /** Ends windows that are over, and begins the one that a moment falls into. */
  private closeUntil(at: number) {
    let missed = 0
    while (this.window && at >= this.window.end) {
      const over = this.window
      over.close()
      this.tell(over, over.end)
      if (this.inDoubt) this.makeUpFor({ from: over.at, to: over.end })
      const next = windowAt(this.made.window, ++missed > mostMissed ? at : over.end, this.around.zone())
      if (next.from > over.end) this.skip(over.end, next.from)
      else this.keep(over)
      this.window = new OpenBucket(next.from, next.to)
      this.window.begin(over.heldNow)
      // those before it are not known either
      this.inDoubt = this.made.over > 1 && (this.inDoubt || this.before.length === 0)
    }
  }

  /** For the windows that slide over it. */
  private keep(over: OpenBucket) {
    this.before.push(over)
    if (this.before.length >= this.made.over) this.before.shift()
  }

  private skip(from: number, to: number) {
    this.before = []
    this.makeUpFor({ from, to })
  }

  /** Passes a window on, as far as it is known at a moment. */
  private tell(window: OpenBucket, until: number) {
    const isOver = until >= window.end
    if (this.made.shows === 'last' && !isOver) return
    const known = isOver ? window : window.copy()
    if (!isOver) known.closeAt(until)
    const { value, quality: code } = rolledUp(this.made.how, this.slidOver(known), Math.min(until, window.end))
    this.toldAt = isOver ? window.end : this.toldAt
    const fits = value === null ? null : toRaw(value, this.tag.type, null)
    this.put(fits?.ok ? fits.raw : undefined, code, Math.min(until, window.end))
  }

  private slidOver(window: OpenBucket): OpenBucket {
    const missing = this.made.over - 1 - this.before.length
    const from = this.before[0]?.at ?? window.at
    return together([...this.before, window], missing > 0 ? windowsBefore(this.made.window, from, missing, this.around.zone()) : from)
  }

  private put(value: TagValue | undefined, code: number, at: number) {
    const { table } = this.around
    if (value === undefined || severityOf(code) === 'bad') table.degrade(this.tag.handle, code, at)
    else table.set(this.tag.handle, value, code, Date.now(), at)
  }

  private async recallPresent(asked: OpenBucket) {
    const { of, window, over, shows } = this.made
    const { doubts } = this
    const borders = [asked.end, asked.at]
    for (let i = 1; i < over; i++) borders.push(windowsBefore(window, borders.at(-1)!, 1, this.around.zone()))
    const found = await this.around.recalling.intervals(of, borders.reverse(), asked.at)
    if (this.closed || this.window !== asked) return
    this.inDoubt = this.doubts !== doubts
    if (!found) return
    const stored = found.at(-1)!.whole
    for (const { at, value } of this.meanwhile) if (!(at <= stored.newestAt)) stored.add(at, value)
    this.window = stored
    this.before = found.slice(0, -1).map(({ whole }) => whole)
    if (shows === 'running') this.tell(stored, Date.now())
  }

  private async makeNextAgain() {
    const span = (this.atWork = this.again.take()!)
    try {
      const { tag, made, around } = this
      const found = await madeUp({ tag, made, zone: around.zone(), recalling: around.recalling, span, hand: this.window!.at })
      this.atWork = null
      if (this.closed || !found) return
      this.takeBack(found)
      for (const { at, value, quality: code } of found.corrections) this.tellAgain(at, value, code)
    } catch (error) {
      this.again.add(span)
      throw error
    } finally {
      this.atWork = null
      this.noteAgain()
    }
  }

  private takeBack({ windows, rest, reachesHand }: MadeUp) {
    if (rest) this.again.add(rest)
    else if (reachesHand) this.doubt()
    const byBegin = new Map(windows.map((window) => [window.at, window]))
    this.before = this.before.map((window) => byBegin.get(window.at) ?? window)
  }

  private tellAgain(at: number, value: TagValue | undefined, code: number) {
    const { recalling, tap } = this.around
    recalling.correct(this.tag, at, value, code)
    // rollups of this one have to know
    tap.correct(this.tag.handle, { value, quality: code, sourceTime: at, seenAt: Date.now() })
    if (at === this.toldAt && this.made.shows === 'last') this.put(value, code, at)
  }

  private async learnMissed() {
    const now = Date.now()
    const missed = await this.around.recalling.missed(this.tag, this.made.of, now)
    this.knowsMissed = true
    const hand = this.window!.at
    const from = Math.max(missed?.from ?? Infinity, hand - mostMadeUp * leastLength(this.made.window))
    if (!this.closed && missed && from < hand) this.makeUpFor({ from, to: Math.min(missed.to, hand) })
  }

  /** So that whoever begins after a kill goes on with it. */
  private noteAgain() {
    const [waiting, working] = [this.again.hull, this.atWork]
    const hull =
      waiting && working ? { from: Math.min(waiting.from, working.from), to: Math.max(waiting.to, working.to) } : (waiting ?? working)
    if (hull?.from === this.noted?.from && hull?.to === this.noted?.to) return
    if (this.around.recalling.noteAgain(this.tag, hull, this.knowsMissed)) this.noted = hull
  }
}

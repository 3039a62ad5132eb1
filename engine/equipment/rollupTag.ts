import { fault, type Fault } from '#core/faults/catalogue'
import { OpenBucket } from '#core/history/bucket'
import { goodNumber } from '#core/history/goodNumber'
import type { MadeOf } from '#core/equipment/made'
import { rolledUp } from '#core/equipment/rollup'
import { windowAt, windowText } from '#core/equipment/windows'
import { rollupWord } from '#core/equipment/words'
import { severityOf } from '#core/tags/quality'
import type { TagValue } from '#core/tags/types'
import { momentText } from '#core/text/moment'
import { toRaw } from '#core/tags/scaling'
import type { ValueStage } from '#shared/values'
import { recordedValue } from '../history/recordedValue'
import type { Sample } from '../table/sampleRing'
import type { TagTable } from '../table/tagTable'
import type { RegisteredTag } from '../tags/tagRegister'
import type { SampleReader, SampleTap } from './sampleTap'
import type { PropertyWork } from './work'

/** What a rollup needs of what was recorded. */
export interface Recalling {
  /** A window as the database has it, once all that was recorded until now is there. @param path the tag that is rolled up */
  window(path: string, from: number, to: number): Promise<OpenBucket | null>
  /** A window that was told already is another one: this is the sample that takes its place. */
  correct(tag: RegisteredTag, at: number, value: TagValue | null, quality: number): void
}

interface Around {
  table: TagTable
  tap: SampleTap
  recalling: Recalling
  zone(): string
}

/** Windows that are to be made again from what was recorded; more than that are made from what is known here. */
const mostAgain = 1000
/** Samples that came while a window was asked for. */
const mostMeanwhile = 20_000
/** What is a little late is no late data. */
const graceMs = 1000
const shortGraceMs = 200
/** After a sleep of the machine only so many windows are made up for. */
const mostMissed = 10_000

/** A value over windows of time: made as samples come, and made again from what was recorded where they come late. */
export class RollupTag implements PropertyWork, SampleReader {
  fault: Fault | null = null
  private window: OpenBucket | null = null
  private newestAt = -Infinity
  private newest = NaN
  /** Whether what is known here of the window at hand is not all of it. */
  private inDoubt = false
  private meanwhile: { at: number; value: number }[] = []
  /** Beginnings of windows that are over and to be made again. */
  private again = new Set<number>()
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
    const at = sourceTime > 0 && sourceTime <= now + 3_600_000 ? sourceTime : now
    const number = goodNumber(recordedValue(value).number, code)
    // what it had when somebody began to look, it has from then on
    if (this.newestAt === -Infinity && at < this.window!.at) {
      this.window!.begin(number)
      return this.note(at, number)
    }
    this.closeUntil(at)
    // one that is told twice counts once
    if (at === this.newestAt && Object.is(number, this.newest)) return
    if (at < this.window!.at) return void this.makeAgain(windowAt(this.made.window, at, this.around.zone()).from)
    if (at <= this.newestAt) this.doubt()
    else this.window!.add(at, number)
    this.note(at, number)
    if (this.asking && this.meanwhile.length < mostMeanwhile) this.meanwhile.push({ at, value: number })
    if (this.made.shows === 'running') this.tell(this.window!, now)
  }

  gone() {
    this.fault = fault('equipment.no-input', { path: this.tag.path, input: this.made.of })
  }

  lost() {
    this.doubt()
  }

  /** Time goes by. */
  tick(now: number) {
    if (!this.window) this.begin(now)
    const grace = this.window!.end - this.window!.at >= 10_000 ? graceMs : shortGraceMs
    if (now >= this.window!.end + grace) this.closeUntil(now - grace)
    else if (this.made.shows === 'running') this.tell(this.window!, now)
    if (!this.asking && (this.inDoubt || this.again.size > 0)) void this.recall()
  }

  stages(): ValueStage[] {
    const { window } = this
    const { how, of, shows } = this.made
    const shown = window ? `from ${momentText(window.at)}, ${window.count} samples so far` : 'not begun'
    return [
      { title: of, text: rollupWord(how), detail: `over ${windowText(this.made.window)}, by the clock of ${this.around.zone()}` },
      { title: 'The window at hand', text: shown, detail: shows === 'running' ? 'passed on as it grows' : 'passed on when it is over' },
    ]
  }

  close() {
    this.closed = true
    this.around.tap.remove(this)
  }

  private begin(now: number) {
    const { from, to } = windowAt(this.made.window, now, this.around.zone())
    this.window = new OpenBucket(from, to)
    this.inDoubt = from < now
  }

  private note(at: number, value: number) {
    if (at < this.newestAt) return
    this.newestAt = at
    this.newest = value
  }

  private doubt() {
    this.inDoubt = true
  }

  private makeAgain(from: number) {
    if (this.again.size < mostAgain) this.again.add(from)
  }

  /** Ends windows that are over, and begins the one that a moment falls into. */
  private closeUntil(at: number) {
    let missed = 0
    while (this.window && at >= this.window.end) {
      const over = this.window
      over.close()
      this.tell(over, over.end)
      if (this.inDoubt) this.makeAgain(over.at)
      const next = windowAt(this.made.window, ++missed > mostMissed ? at : over.end, this.around.zone())
      this.window = new OpenBucket(next.from, next.to)
      this.window.begin(over.heldNow)
      this.inDoubt = false
    }
  }

  /** Passes a window on, as far as it is known at a moment. */
  private tell(window: OpenBucket, until: number) {
    const isOver = until >= window.end
    if (this.made.shows === 'last' && !isOver) return
    const known = isOver ? window : window.copy()
    if (!isOver) known.closeAt(until)
    const { value, quality: code } = rolledUp(this.made.how, known, Math.min(until, window.end))
    this.toldAt = isOver ? window.end : this.toldAt
    this.put(value, code, Math.min(until, window.end))
  }

  private put(value: TagValue | null, code: number, at: number) {
    const { table } = this.around
    const fits = value === null ? null : toRaw(value, this.tag.type, null)
    if (!fits?.ok || severityOf(code) === 'bad') table.degrade(this.tag.handle, code, at)
    else table.set(this.tag.handle, fits.raw, code, Date.now(), at)
  }

  /** Asks what was recorded of the window at hand, or else of one that is over. */
  private async recall() {
    this.asking = true
    this.meanwhile = []
    try {
      if (this.inDoubt) await this.recallPresent(this.window!)
      else await this.recallPast()
      this.fault = null
    } catch (error) {
      this.fault = fault('equipment.no-history', { path: this.tag.path, problem: (error as Error).message })
    } finally {
      this.asking = false
    }
  }

  private async recallPresent(asked: OpenBucket) {
    const stored = await this.around.recalling.window(this.made.of, asked.at, asked.end)
    if (this.closed || this.window !== asked) return
    this.inDoubt = false
    if (!stored) return
    for (const { at, value } of this.meanwhile) if (!(at <= stored.newestAt)) stored.add(at, value)
    this.window = stored
    if (this.made.shows === 'running') this.tell(stored, Date.now())
  }

  private async recallPast() {
    const [from] = this.again
    if (from === undefined) return
    const { to } = windowAt(this.made.window, from, this.around.zone())
    const stored = await this.around.recalling.window(this.made.of, from, to)
    this.again.delete(from)
    if (this.closed || !stored) return
    stored.close()
    const { value, quality: code } = rolledUp(this.made.how, stored)
    const fits = value === null ? null : toRaw(value, this.tag.type, null)
    const right = fits?.ok ? fits.raw : null
    if (to === this.toldAt && this.made.shows === 'last') this.put(right, code, to)
    else this.around.recalling.correct(this.tag, to, right, code)
  }
}

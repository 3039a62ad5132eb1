import type { Fault } from '#core/faults/catalogue'
import type { Handle } from '../../table/tagTable'
import type { SampleSink } from '../../table/intake'
import type { Answer } from './caller'
import { failureOf, type CallFailure } from './caller'
import { qualityAfter, takeAnswer, type Target } from './targets'

interface Ways {
  /** Makes the call once it may go out. Rejects with a `CallFailure`. */
  make(etag: string | null): Promise<Answer>
  /** How long to wait after so many failures in a row, ms. */
  pauseAfter(failures: number): number
  usualInterval(): number
  table: SampleSink
  /** What became of it; null: it was answered. */
  told(failure: CallFailure | null, unfit: number, ms: number | null): void
}

/** A call that is made again and again for the tags that share it, as often as the quickest of them wants it. */
export class PolledCall {
  readonly targets = new Map<Handle, Target>()
  last: Answer | null = null
  fault: Fault | null = null
  private failures = 0
  private timer: NodeJS.Timeout | null = null
  private isUnderWay = false
  private closed = false
  private begunAt = 0
  /** Counts what it goes by; an answer to what was asked before is none. */
  private asking = 0

  constructor(
    readonly text: string,
    private ways: Ways,
  ) {}

  place(target: Target) {
    this.targets.set(target.point.handle, target)
    if (this.last && !this.fault) takeAnswer([target], this.text, this.last, this.ways.table)
    this.plan()
  }

  remove(handle: Handle) {
    this.targets.delete(handle)
  }

  /** Asks at once: something that it goes by is another. */
  again() {
    this.asking++
    this.last = null
    this.fault = null
    this.failures = 0
    this.begunAt = 0
    this.plan()
  }

  close() {
    this.closed = true
    if (this.timer) clearTimeout(this.timer)
  }

  private interval(): number {
    const usual = this.ways.usualInterval()
    return Math.min(...[...this.targets.values()].map(({ point }) => point.interval ?? usual))
  }

  /** The next time is reckoned from the last begin, so that a slow answer does not shift it. */
  plan() {
    if (this.closed || this.isUnderWay || this.targets.size === 0) return
    if (this.timer) clearTimeout(this.timer)
    const pause = this.failures > 0 ? Math.max(this.interval(), this.ways.pauseAfter(this.failures)) : this.interval()
    const due = this.begunAt === 0 ? 0 : Math.max(0, this.begunAt + pause - Date.now())
    this.timer = setTimeout(() => void this.run(), Math.min(due, 2_000_000_000))
  }

  private async run() {
    const { asking } = this
    const isOurs = () => !this.closed && asking === this.asking
    this.isUnderWay = true
    this.begunAt = Date.now()
    try {
      const answer = await this.ways.make(this.last?.etag ?? null)
      if (isOurs()) this.take(answer)
    } catch (error) {
      if (isOurs()) this.stumble(error)
    }
    this.isUnderWay = false
    this.plan()
  }

  private take(answer: Answer) {
    // the same as before: what was told holds now, too
    const whole = answer.status === 304 && this.last ? { ...this.last, at: answer.at, ms: answer.ms } : answer
    this.last = whole
    this.fault = null
    this.failures = 0
    const unfit = takeAnswer(this.targets.values(), this.text, whole, this.ways.table)
    this.ways.table.flush()
    this.ways.told(null, unfit, whole.ms)
  }

  private stumble(error: unknown) {
    const failure = failureOf(error)
    this.failures++
    this.fault = failure.why
    const code = qualityAfter(failure.status, failure.why)
    for (const handle of this.targets.keys()) this.ways.table.degrade(handle, code, Date.now())
    this.ways.table.flush()
    this.ways.told(failure, 0, null)
  }
}

import { steadyNow, wallOf } from '#pacing/clock'

/** What is asked again and again. */
interface Ways {
  /** Asks once, and tells whether it was answered. @param isOurs whether anybody still wants to know by what was asked for */
  ask(isOurs: () => boolean): Promise<boolean>
  /** How often it is wanted, ms; null: nobody wants it now. */
  interval(): number | null
  /** How long to wait after so many failures in a row, ms. */
  pauseAfter(failures: number): number
}

const longestTimer = 2_000_000_000

/** Asks the same again and again, one at a time, as often as it is wanted; where it fails, ever less often. */
export class Repeated {
  private failures = 0
  private timer: NodeJS.Timeout | null = null
  private isUnderWay = false
  private closed = false
  private begunAt = 0
  private dueAt = 0
  /** Counts what it goes by; an answer to what was asked before is none. */
  private asking = 0

  constructor(private ways: Ways) {}

  /** At once: something that it goes by is another. */
  again() {
    this.asking++
    this.failures = 0
    this.begunAt = 0
    this.plan()
  }

  /** Asks at once where it waits because it failed. */
  tryNow() {
    if (this.failures === 0 || this.isUnderWay) return
    this.begunAt = 0
    this.plan()
  }

  /** When it asks again after it failed, Unix ms; null: it does not wait because of that. */
  get nextTry(): number | null {
    return this.failures > 0 && !this.isUnderWay && this.dueAt > steadyNow() ? wallOf(this.dueAt) : null
  }

  close() {
    this.closed = true
    if (this.timer) clearTimeout(this.timer)
  }

  /** The next time is reckoned from the last begin, so that a slow answer does not shift it. */
  plan() {
    if (this.timer) clearTimeout(this.timer)
    const interval = this.ways.interval()
    if (this.closed || this.isUnderWay || interval === null) return
    const pause = this.failures > 0 ? Math.max(interval, this.ways.pauseAfter(this.failures)) : interval
    const due = this.begunAt === 0 ? 0 : Math.max(0, this.begunAt + pause - steadyNow())
    this.dueAt = steadyNow() + due
    this.timer = setTimeout(() => void this.run(), Math.min(due, longestTimer))
  }

  private async run() {
    const { asking } = this
    this.isUnderWay = true
    this.begunAt = steadyNow()
    const isOurs = () => !this.closed && asking === this.asking
    const answered = await this.ways.ask(isOurs)
    this.isUnderWay = false
    if (isOurs()) this.failures = answered ? 0 : this.failures + 1
    this.plan()
  }
}

/** Pauses that double up to the longest, spread so that many do not knock in step. */
export const pauseAfter = ({ retryFirst, retryMost }: { retryFirst: number; retryMost: number }, failures: number): number =>
  Math.min(retryMost, retryFirst * 2 ** Math.min(failures - 1, 20)) * (0.8 + 0.4 * Math.random())

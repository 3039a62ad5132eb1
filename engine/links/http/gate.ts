import { steadyNow } from '#pacing/clock'
/**
 * How many calls go out: so many at once, so many a minute, and none for as long as the far side wants to be left alone.
 * Who waits comes in turn.
 */
export class Gate {
  private under = 0
  private begun: number[] = []
  private waiting: (() => void)[] = []
  private timer: NodeJS.Timeout | null = null
  private closed = false
  /** Unix milliseconds. */
  private pausedUntil = 0

  constructor(private limits: { atOnce: number; perMinute: number | null }) {}

  adjust(limits: { atOnce: number; perMinute: number | null }) {
    this.limits = limits
    this.letIn()
  }

  get isPaused() {
    return steadyNow() < this.pausedUntil
  }

  /** Nothing goes out for so long, ms. */
  pause(ms: number) {
    this.pausedUntil = Math.max(this.pausedUntil, steadyNow() + ms)
  }

  /** Does it once it may go out; rejects with `late` where that is not within so many ms. After the end nothing goes out. */
  async pass<T>(work: () => Promise<T>, within = Infinity, late: () => Error = () => new Error('it came to no turn')): Promise<T> {
    await this.turn(within, late)
    try {
      if (this.closed) throw new Error('the link is closed')
      return await work()
    } finally {
      this.under--
      this.letIn()
    }
  }

  close() {
    this.closed = true
    if (this.timer) clearTimeout(this.timer)
    for (const resolve of this.waiting.splice(0)) {
      this.under++
      resolve()
    }
  }

  private turn(within: number, late: () => Error): Promise<void> {
    return new Promise<void>((resolve, reject) => {
      const goes = () => {
        clearTimeout(timer)
        resolve()
      }
      const gives = () => {
        this.waiting.splice(this.waiting.indexOf(goes), 1)
        reject(late())
      }
      const timer = within === Infinity ? undefined : setTimeout(gives, within)
      this.waiting.push(goes)
      this.letIn()
    })
  }

  private letIn() {
    while (this.waiting.length > 0 && this.under < this.limits.atOnce) {
      const ms = this.wait()
      if (ms > 0) return this.later(ms)
      this.under++
      this.begun.push(steadyNow())
      this.waiting.shift()!()
    }
  }

  /** How long until the next may go out, ms. */
  private wait(): number {
    const now = steadyNow()
    const { perMinute } = this.limits
    this.begun = this.begun.filter((at) => now - at < 60_000)
    const full = perMinute !== null && this.begun.length >= perMinute ? this.begun.at(-perMinute)! + 60_000 - now : 0
    return Math.max(full, this.pausedUntil - now)
  }

  private later(ms: number) {
    if (this.timer) clearTimeout(this.timer)
    this.timer = setTimeout(() => {
      this.timer = null
      this.letIn()
    }, ms)
  }
}

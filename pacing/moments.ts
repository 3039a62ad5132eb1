import { onClockSet, steadyNow } from './clock'

/** Timers wait no longer than this at once. */
const longestMs = 60_000

interface Plan {
  /** The first moment of the plan after a time, Unix ms; null: there is none any more. */
  after(at: number): number | null
  call(at: number): void
  /** It does not keep the process alive. */
  unref?: boolean
}

/**
 * Calls at the moments of a plan by the clock of the machine, each once, whatever becomes of that clock. One that the clock jumped over is
 * made up for once; one that comes again because the clock was set back is left out, unless as much time went by meanwhile as lies
 * between two moments. Missed ones are not made up for.
 */
export class Moments {
  private timer: NodeJS.Timeout | null = null
  private next: number | null
  private last: { at: number; steady: number; gap: number } | null = null
  private stopListening: () => void

  constructor(private plan: Plan) {
    this.next = plan.after(Date.now())
    this.stopListening = onClockSet((by) => this.clockSet(by))
    this.wait()
  }

  close() {
    this.stopListening()
    this.next = null
    if (this.timer) clearTimeout(this.timer)
  }

  private clockSet(by: number) {
    if (this.next === null) return
    if (by < 0) this.next = this.again()
    this.wait()
  }

  /** The clock was set back. */
  private again(): number | null {
    const now = Date.now()
    const { last } = this
    const planned = this.plan.after(now)
    if (!last || now >= last.at || planned === null) return planned
    const rest = last.steady + last.gap / 2 - steadyNow()
    const later = this.plan.after(Math.max(now, now + rest))
    const behind = this.plan.after(last.at)
    return later === null || behind === null ? later : Math.min(later, behind)
  }

  private wait() {
    if (this.timer) clearTimeout(this.timer)
    if (this.next === null) return
    this.timer = setTimeout(() => this.look(), Math.min(longestMs, Math.max(0, this.next - Date.now())))
    if (this.plan.unref) this.timer.unref()
  }

  private look() {
    const [now, due] = [Date.now(), this.next!]
    // a timer may come a little early
    if (now < due) return this.wait()
    const following = this.plan.after(due)
    this.last = { at: due, steady: steadyNow(), gap: (following ?? due) - due }
    this.next = following !== null && following <= now ? this.plan.after(now) : following
    this.wait()
    this.plan.call(due)
  }
}

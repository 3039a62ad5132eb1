/** So long no further change comes before a plan is made anew; and so long it waits at most. */
const quietMs = 25
const longestMs = 500

/** Decides when a unit's requests are planned anew: a large plan costs as much for one point as for all. */
export class PlanTimer {
  private timer: NodeJS.Timeout | null = null
  /** When a plan is due at the latest; 0: none is waited for. */
  private dueBy = 0
  private isDue = false
  private closed = false

  constructor(private plan: () => void) {}

  /** Changes that come in a row make one plan. */
  soon() {
    const now = Date.now()
    this.dueBy ||= now + longestMs
    if (this.timer) clearTimeout(this.timer)
    this.timer = setTimeout(() => this.now(), Math.min(quietMs, Math.max(0, this.dueBy - now)))
  }

  /** At the end of this turn of the event loop. */
  now() {
    if (this.isDue) return
    this.isDue = true
    queueMicrotask(() => this.run())
  }

  close() {
    this.closed = true
    if (this.timer) clearTimeout(this.timer)
  }

  private run() {
    this.isDue = false
    if (this.timer) clearTimeout(this.timer)
    this.timer = null
    this.dueBy = 0
    if (!this.closed) this.plan()
  }
}

/** Slows down whoever guesses: after some failures each further attempt has to wait, longer each time. */
interface Failures {
  count: number
  until: number
  at: number
}

const firstWaitMs = 5000
const longestWaitMs = 15 * 60_000
const forgottenAfterMs = 3_600_000
const mostKept = 10_000

export class Attempts {
  /** @param freeFailures before the first wait. */
  constructor(private freeFailures: number) {}

  private failures = new Map<string, Failures>()

  /** Milliseconds until the next attempt is taken; 0: now. */
  waitFor(key: string, now = Date.now()): number {
    return Math.max(0, (this.failures.get(key)?.until ?? 0) - now)
  }

  fail(key: string, now = Date.now()) {
    this.forgetOld(now)
    const count = (this.failures.get(key)?.count ?? 0) + 1
    const wait = count < this.freeFailures ? 0 : Math.min(longestWaitMs, firstWaitMs * 2 ** Math.min(20, count - this.freeFailures))
    this.failures.delete(key)
    this.failures.set(key, { count, until: now + wait, at: now })
  }

  succeed(key: string) {
    this.failures.delete(key)
  }

  private forgetOld(now: number) {
    for (const [key, { at }] of this.failures) {
      if (now - at < forgottenAfterMs && this.failures.size < mostKept) return
      this.failures.delete(key)
    }
  }
}

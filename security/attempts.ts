/** A clock that nobody sets: who sets that of the machine neither lets guesses through nor keeps anybody out. */
const steadyMs = () => performance.now()

/** How many failures are free, and how long a wait may become. */
interface Rule {
  free: number
  longestMs: number
}

interface Failures {
  count: number
  until: number
  at: number
}

const firstWaitMs = 1000
const forgottenAfterMs = 3_600_000
const mostKept = 10_000

/**
 * Slows down whoever guesses: after some failures each further attempt has to wait, longer each time.
 * An attempt counts as failed from the moment it is taken, so that a thousand at once are not all checked.
 */
export class Attempts {
  constructor(private rule: Rule) {}

  private failures = new Map<string, Failures>()

  /** Milliseconds until the next attempt is taken; 0: now. */
  waitFor(key: string, now = steadyMs()): number {
    return Math.max(0, (this.failures.get(key)?.until ?? 0) - now)
  }

  /** Counts an attempt that is about to be checked. */
  count(key: string, now = steadyMs()) {
    this.forgetOld(now)
    const { free, longestMs } = this.rule
    const count = (this.failures.get(key)?.count ?? 0) + 1
    const wait = count < free ? 0 : Math.min(longestMs, firstWaitMs * 2 ** Math.min(20, count - free))
    this.failures.delete(key)
    this.failures.set(key, { count, until: now + wait, at: now })
  }

  /** It was the right one: nothing failed here. */
  succeed(key: string) {
    this.failures.delete(key)
  }

  /** It was the right one, among others who failed: only this one does not count. */
  forgive(key: string) {
    const known = this.failures.get(key)
    if (!known) return
    if (known.count <= 1) this.failures.delete(key)
    else this.failures.set(key, { ...known, count: known.count - 1, until: known.count <= this.rule.free ? 0 : known.until })
  }

  private forgetOld(now: number) {
    for (const [key, { at }] of this.failures) {
      if (now - at < forgottenAfterMs && this.failures.size < mostKept) return
      this.failures.delete(key)
    }
  }
}

/** Which attempts an attempt counts among: by what is its own, and by what it shares with others. */
export interface Counted {
  own: [Attempts, string]
  shared: [Attempts, string][]
}

/** Takes an attempt, or tells for how many milliseconds it has to wait. Nothing is counted then. */
export const takeAttempt = ({ own, shared }: Counted, now = steadyMs()): number => {
  const all = [own, ...shared]
  const wait = Math.max(...all.map(([attempts, key]) => attempts.waitFor(key, now)))
  if (wait === 0) for (const [attempts, key] of all) attempts.count(key, now)
  return wait
}

export const attemptSucceeded = ({ own, shared }: Counted) => {
  own[0].succeed(own[1])
  for (const [attempts, key] of shared) attempts.forgive(key)
}

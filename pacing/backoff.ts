import { steadyNow, wallOf } from './clock'

/** Pauses between attempts: doubling, bounded, and spread so that many links do not knock in step. */
export class Backoff {
  private failures = 0
  private until = 0

  constructor(
    private first: number,
    private most: number,
  ) {}

  /** Milliseconds until the next attempt: half to all of the doubled pause. */
  next(): number {
    const pause = Math.min(this.most, this.first * 2 ** Math.min(this.failures, 20))
    this.failures++
    const spread = pause * (0.5 + Math.random() / 2)
    this.until = steadyNow() + spread
    return spread
  }

  /** When the pause that was told last is over, Unix ms; null: it is. */
  get nextTry(): number | null {
    return this.until > steadyNow() ? wallOf(this.until) : null
  }

  reset() {
    this.failures = 0
    this.until = 0
  }
}

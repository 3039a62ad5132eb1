/** Pauses between attempts: doubling, bounded, and spread so that many links do not knock in step. */
export class Backoff {
  private failures = 0

  constructor(
    private first: number,
    private most: number,
  ) {}

  /** Milliseconds until the next attempt: half to all of the doubled pause. */
  next(): number {
    const pause = Math.min(this.most, this.first * 2 ** Math.min(this.failures, 20))
    this.failures++
    return pause * (0.5 + Math.random() / 2)
  }

  reset() {
    this.failures = 0
  }
}

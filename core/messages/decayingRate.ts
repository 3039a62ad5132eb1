/** After so long without an event, what it counted for is down to a third. */
const memoryMs = 10_000

/** Events per second over the last seconds, in constant space: each counts for less as time goes by. */
export class DecayingRate {
  private weight = 0
  private at = 0
  private first = 0

  /** Times are milliseconds that never go back. */
  count(now: number) {
    if (this.weight === 0) this.first = now
    this.weight = this.weight * Math.exp((this.at - now) / memoryMs) + 1
    this.at = now
  }

  /** While it is young, it is measured over the time that it has been there, but at least over a second. */
  perSecond(now: number): number {
    const weight = this.weight * Math.exp((this.at - now) / memoryMs)
    const age = Math.max(now - this.first, 1000)
    return (weight * 1000) / (memoryMs * (1 - Math.exp(-age / memoryMs)))
  }
}

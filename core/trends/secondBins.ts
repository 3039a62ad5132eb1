/** How many seconds are kept: five minutes. */
export const keptSeconds = 300
/** Over so many whole seconds changes are counted. */
const rateSeconds = 10

/** What is told of the seconds that are kept. Null: a second in which there was no good number. */
export interface ToldBins {
  /** Unix milliseconds. */
  since: number
  /** Over the seconds that are kept. */
  least: number | null
  most: number | null
  changesPerSecond: number
  /** The second of the first of the lists; Unix seconds. */
  from: number
  lows: (number | null)[]
  highs: (number | null)[]
}

/**
 * The least and the most value of each of the last seconds, from samples as they come. A value stands until the next
 * one comes; what is not good leaves a gap.
 */
export class SecondBins {
  private lows = new Float64Array(keptSeconds).fill(NaN)
  private highs = new Float64Array(keptSeconds).fill(NaN)
  private counts = new Uint32Array(keptSeconds)
  private first: number
  /** The second that is being filled. */
  private second: number

  /**
   * @param since Unix milliseconds.
   * @param current the value at that moment; null: none that is good.
   */
  constructor(
    private since: number,
    private current: number | null,
  ) {
    this.first = this.second = Math.floor(since / 1000)
    if (current !== null) this.widen(this.second % keptSeconds, current)
  }

  /**
   * @param at Unix milliseconds; what is older than the second that is being filled counts for that one.
   * @param value null: none that is good.
   */
  add(at: number, value: number | null) {
    this.advance(at)
    const i = this.second % keptSeconds
    this.counts[i]!++
    this.current = value
    if (value !== null) this.widen(i, value)
  }

  /** Changes of which only the number is known. */
  missed(count: number, at: number) {
    if (count === 0) return
    this.advance(at)
    this.counts[this.second % keptSeconds]! += count
  }

  /** @param after only seconds from this one on. */
  told(now: number, after = 0): ToldBins {
    this.advance(now)
    const oldest = Math.max(this.first, this.second - keptSeconds + 1)
    const from = Math.min(Math.max(oldest, after), this.second)
    const seconds = Array.from({ length: this.second - from + 1 }, (_, i) => (from + i) % keptSeconds)
    const all = Array.from({ length: this.second - oldest + 1 }, (_, i) => (oldest + i) % keptSeconds)
    const [lows, highs] = [seconds.map((i) => orNull(this.lows[i]!)), seconds.map((i) => orNull(this.highs[i]!))]
    return {
      ...{ since: this.since, from, lows, highs, changesPerSecond: this.rate(oldest) },
      least: finite(all.reduce((least, i) => (this.lows[i]! < least ? this.lows[i]! : least), Infinity)),
      most: finite(all.reduce((most, i) => (this.highs[i]! > most ? this.highs[i]! : most), -Infinity)),
    }
  }

  /** Only whole seconds count: the present one has not seen all of its changes. */
  private rate(oldest: number): number {
    const whole = Math.min(rateSeconds, this.second - oldest)
    if (whole === 0) return this.counts[this.second % keptSeconds]!
    let changes = 0
    for (let second = this.second - whole; second < this.second; second++) changes += this.counts[second % keptSeconds]!
    return changes / whole
  }

  private advance(at: number) {
    const to = Math.floor(at / 1000)
    if (to <= this.second) return
    // after a long sleep of the machine only the last of it is kept
    this.second = Math.max(this.second, to - keptSeconds)
    while (this.second < to) {
      const i = ++this.second % keptSeconds
      this.counts[i] = 0
      this.lows[i] = this.highs[i] = this.current ?? NaN
    }
  }

  private widen(i: number, value: number) {
    if (!(this.lows[i]! <= value)) this.lows[i] = value
    if (!(this.highs[i]! >= value)) this.highs[i] = value
  }
}

const orNull = (value: number) => (Number.isNaN(value) ? null : value)
const finite = (value: number) => (Number.isFinite(value) ? value : null)

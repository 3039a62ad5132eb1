import { OpenBucket, tierMs, tiers, type Bucket, type Tier } from './bucket'

/** What became of a series between two borders. */
export interface Interval {
  from: number
  to: number
  /** Up to when it is known; earlier than `to` where that lies ahead, no later than `from` where all of it does. */
  until: number
  whole: OpenBucket
  /** False: it is made of something coarser, which reaches over its borders. */
  isExact: boolean
}

/** Takes what comes in the order of its times, and parts it at borders. */
export class IntervalBuilder {
  private intervals: Interval[]
  private at = 0

  /** @param borders in their order; one more than there are intervals */
  constructor(borders: readonly number[]) {
    this.intervals = borders.slice(1).map((to, i) => {
      const from = borders[i]!
      return { from, to, until: to, whole: new OpenBucket(from, to), isExact: true }
    })
  }

  /** What held when the first one began. @param value NaN: nothing good */
  begin(value: number) {
    this.intervals[0]?.whole.begin(value)
  }

  /** @param value NaN where it is no good number */
  sample(at: number, value: number) {
    this.intervalOf(at)?.whole.add(at, value)
  }

  bucket(bucket: Bucket, end: number) {
    const interval = this.intervalOf(bucket.at)
    if (!interval) return
    interval.whole.fold(bucket, end)
    if (end > interval.to) this.blur(end)
  }

  /** @param until nothing is known of what comes after it */
  done(until: number): Interval[] {
    const { intervals } = this
    while (this.at < intervals.length - 1) this.next()
    for (const interval of intervals) {
      interval.until = Math.max(interval.from, Math.min(interval.to, until))
      if (interval.until > interval.from) interval.whole.closeAt(interval.until)
    }
    return intervals
  }

  /** What a bucket has that reaches over borders may belong to any of the intervals that it touches. */
  private blur(end: number) {
    for (let i = this.at; i < this.intervals.length && this.intervals[i]!.from < end; i++) this.intervals[i]!.isExact = false
  }

  private intervalOf(at: number): Interval | undefined {
    while (this.at < this.intervals.length && at >= this.intervals[this.at]!.to) this.next()
    return this.intervals[this.at]
  }

  /** What holds at the end of one holds at the beginning of the next. */
  private next() {
    const { heldNow } = this.intervals[this.at]!.whole
    this.intervals[++this.at]?.whole.begin(heldNow)
  }
}

/** The longest buckets that end at every one of these borders; null: none do. */
export const commonTier = (borders: readonly number[]): Tier | null =>
  tiers.findLast((tier) => borders.every((border) => border % tierMs[tier] === 0)) ?? null

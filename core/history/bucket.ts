/**
 * What became of one tag within one second, minute or hour. A bucket says only what its own samples say: what held before
 * its first one stands in the bucket before. So late data touch the bucket that they fall into, and no other.
 */
export interface Bucket {
  /** Its beginning; Unix milliseconds. */
  at: number
  /** Samples, and those of them that were a good number. */
  count: number
  good: number
  /** Of the good ones; NaN where there is none. */
  min: number
  max: number
  sum: number
  /** The squares of their distances from their mean, added up: count × variance. */
  spread: number
  first: number
  last: number
  firstAt: number
  lastAt: number
  /** When the first sample came, whatever its quality. */
  openedAt: number
  /** Whether the last sample is a good number, which holds on. */
  holds: boolean
  /** Value × seconds from the first sample to the end of the bucket, each value held until the next one, while it is good. */
  integral: number
  /** Seconds of that. */
  seconds: number
}

export const tiers = ['second', 'minute', 'hour'] as const
export type Tier = (typeof tiers)[number]
export const tierMs: Record<Tier, number> = { second: 1000, minute: 60_000, hour: 3_600_000 }

export const bucketStart = (at: number, size: number) => Math.floor(at / size) * size

/** A bucket that takes samples in the order of their times. */
export class OpenBucket implements Bucket {
  count = 0
  good = 0
  min = NaN
  max = NaN
  sum = NaN
  spread = 0
  first = NaN
  last = NaN
  firstAt = NaN
  lastAt = NaN
  openedAt = NaN
  integral = 0
  seconds = 0
  /** The least and the most of all that was good in it, also of what held when it began. */
  private begun = NaN
  /** What holds, and since when it is not in the integral. */
  private held = NaN
  private heldAt = NaN

  constructor(
    readonly at: number,
    readonly end: number,
  ) {}

  get holds() {
    return !Number.isNaN(this.held)
  }

  /** The time of its newest sample; NaN: none. */
  newestAt = NaN

  /** What holds now; NaN: nothing good. */
  get heldNow() {
    return this.held
  }

  /** The same as it is now, to go on with by itself. */
  copy(): OpenBucket {
    return Object.assign(new OpenBucket(this.at, this.end), this)
  }

  get leastHeld() {
    return this.begun <= this.min || Number.isNaN(this.min) ? this.begun : this.min
  }

  get mostHeld() {
    return this.begun >= this.max || Number.isNaN(this.max) ? this.begun : this.max
  }

  /** What held when it began; NaN: nothing good, or it is not known. */
  get begunWith() {
    return this.begun
  }

  /** What held when it began; it is none of its samples. @param value NaN: nothing good */
  begin(value: number) {
    this.begun = this.held = value
    this.heldAt = this.at
  }

  /** @param value NaN where it is no good number */
  add(at: number, value: number) {
    if (this.count++ === 0) this.open(at)
    this.hold(at)
    this.held = value
    this.heldAt = at
    this.newestAt = at
    if (!Number.isNaN(value)) this.take(at, value, value, at, value, value, value, 0, 1)
  }

  /** Takes what a smaller bucket within it has; whatever held before goes on until that one’s first sample. */
  fold(inner: Bucket, innerEnd: number) {
    if (this.count === 0) this.open(inner.openedAt)
    this.hold(inner.openedAt)
    this.count += inner.count
    this.integral += inner.integral
    this.seconds += inner.seconds
    this.held = inner.holds ? inner.last : NaN
    this.heldAt = innerEnd
    this.newestAt = inner.lastAt
    if (inner.good > 0)
      this.take(inner.firstAt, inner.first, inner.last, inner.lastAt, inner.min, inner.max, inner.sum, inner.spread, inner.good)
  }

  /** Takes the one that comes right after it, is closed, and began with what this one ends with. */
  join(next: OpenBucket) {
    if (this.count === 0) this.openedAt = next.openedAt
    this.count += next.count
    this.integral += next.integral
    this.seconds += next.seconds
    this.held = next.held
    this.heldAt = next.heldAt
    this.newestAt = next.newestAt
    if (next.good > 0) this.take(next.firstAt, next.first, next.last, next.lastAt, next.min, next.max, next.sum, next.spread, next.good)
  }

  /** Nothing more comes. */
  close(): Bucket {
    return this.closeAt(this.end)
  }

  /** @param until it ends earlier */
  closeAt(until: number): Bucket {
    this.hold(until)
    return this
  }

  /** Its first sample; where that comes with its beginning, nothing that held before is part of it. */
  private open(at: number) {
    this.openedAt = at
    if (at === this.at) this.begun = NaN
  }

  private hold(until: number) {
    if (!Number.isNaN(this.held) && until > this.heldAt) {
      const seconds = (until - this.heldAt) / 1000
      this.integral += this.held * seconds
      this.seconds += seconds
    }
    this.heldAt = until
  }

  private take(
    firstAt: number,
    first: number,
    last: number,
    lastAt: number,
    min: number,
    max: number,
    sum: number,
    spread: number,
    good: number,
  ) {
    if (this.good === 0) {
      this.first = first
      this.firstAt = firstAt
      this.min = min
      this.max = max
      this.sum = sum
      this.spread = spread
    } else {
      // Chan, Golub, LeVeque, “Updating formulae and a pairwise algorithm for computing sample variances”, 1979
      const apart = sum / good - this.sum / this.good
      this.spread += spread + (apart * apart * this.good * good) / (this.good + good)
      if (min < this.min) this.min = min
      if (max > this.max) this.max = max
      this.sum += sum
    }
    this.last = last
    this.lastAt = lastAt
    this.good += good
  }
}

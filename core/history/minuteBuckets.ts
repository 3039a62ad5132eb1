import { bucketStart, OpenBucket, tierMs, type Bucket } from './bucket'

/** Minutes with more samples than this have their seconds kept as well; of others the samples themselves say as much. */
export const denseFrom = 120

export interface MinuteBuckets {
  minute: Bucket
  /** Those in which something came; none where the minute is not dense. */
  seconds: Bucket[]
}

/** A minute that takes samples in the order of their times, second by second. */
export class OpenMinute {
  private minute: OpenBucket
  private second: OpenBucket | null = null
  private closed: Bucket[] = []
  newestAt = NaN
  /** Whether its samples alone no longer say how it was: they came out of order, or began before somebody listened. */
  isInDoubt = false

  /** @param keepsSeconds whether its seconds are kept from the start; else a minute that turns out dense is in doubt */
  constructor(
    readonly at: number,
    private keepsSeconds: boolean,
  ) {
    this.minute = new OpenBucket(at, at + tierMs.minute)
  }

  get count() {
    return this.minute.count + (this.second?.count ?? 0)
  }

  get isDense() {
    return this.count > denseFrom
  }

  /** @param value NaN where it is no good number */
  add(at: number, value: number) {
    if (at <= this.newestAt) this.isInDoubt = true
    this.newestAt = at
    if (this.second === null || at >= this.second.end) this.next(at)
    this.second!.add(at, value)
  }

  close(): MinuteBuckets {
    this.endSecond()
    if (this.isDense && !this.keepsSeconds) this.isInDoubt = true
    return { minute: this.minute.close(), seconds: this.isDense ? this.closed : [] }
  }

  private next(at: number) {
    this.endSecond()
    const start = bucketStart(at, tierMs.second)
    this.second = new OpenBucket(start, start + tierMs.second)
  }

  private endSecond() {
    const { second } = this
    if (second === null) return
    this.second = null
    second.close()
    this.minute.fold(second, second.end)
    if (this.keepsSeconds) this.closed.push(second)
  }
}

/**
 * The buckets of one minute from all of its samples, in the order of their times.
 * @param values NaN where it is no good number
 */
export const minuteOf = (at: number, times: readonly number[], values: readonly number[]): MinuteBuckets => {
  const open = new OpenMinute(at, true)
  for (let i = 0; i < times.length; i++) open.add(times[i]!, values[i]!)
  return open.close()
}

/** An hour from its minutes, in their order. */
export const hourOf = (at: number, minutes: readonly Bucket[]): Bucket => {
  const open = new OpenBucket(at, at + tierMs.hour)
  for (const minute of minutes) open.fold(minute, minute.at + tierMs.minute)
  return open.close()
}

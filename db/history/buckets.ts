import type { Bucket } from '#core/history/bucket'
import type { CopyReader, CopyRows } from './copyRows'

/** A bucket as the columns of its table have it. */
export const bucketColumns =
  'series, at, count, good, min, max, sum, spread, first, last, first_at, last_at, opened_at, holds, integral, seconds'

export const addBucket = (rows: CopyRows, series: number, bucket: Bucket) => {
  rows.row(16).int4(series).time(bucket.at).int4(bucket.count).int4(bucket.good)
  rows
    .float8OrNull(bucket.min)
    .float8OrNull(bucket.max)
    .float8OrNull(bucket.sum)
    .float8(bucket.spread)
    .float8OrNull(bucket.first)
    .float8OrNull(bucket.last)
  rows.timeOrNull(bucket.firstAt).timeOrNull(bucket.lastAt).time(bucket.openedAt).bool(bucket.holds)
  rows.float8(bucket.integral).float8(bucket.seconds)
}

/** The fields of one row, after its series. */
export const readBucket = (row: CopyReader): Bucket => ({
  at: row.time(),
  count: row.int4(),
  good: row.int4(),
  min: row.float8(),
  max: row.float8(),
  sum: row.float8(),
  spread: row.float8(),
  first: row.float8(),
  last: row.float8(),
  firstAt: row.time(),
  lastAt: row.time(),
  openedAt: row.time(),
  holds: row.bool(),
  integral: row.float8(),
  seconds: row.float8(),
})

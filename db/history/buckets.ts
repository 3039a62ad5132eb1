import { bucketStart, type Bucket } from '#core/history/bucket'
import type { CopyReader, CopyRows } from './copyRows'

/** A bucket as it is written. Parcels on disk have it in this order: it stays. */
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

export const blankBucket = (): Bucket => ({
  ...{ at: NaN, count: 0, good: 0, min: NaN, max: NaN, sum: NaN, spread: 0, first: NaN, last: NaN },
  ...{ firstAt: NaN, lastAt: NaN, openedAt: NaN, holds: false, integral: 0, seconds: 0 },
})

const facts = 'count, good, min, max, first, last, first_at, last_at, opened_at, holds, integral, seconds'
/** A bucket as it is read. */
export const readColumns = `series, at, sum, spread, ${facts}`
/** What of it a picture shows: with each column less the database is so much sooner done. */
export const shownColumns = `series, ${facts}`

/** The fields of one row, after its series. @param into one that was read before, where nobody keeps it */
export const readBucket = (row: CopyReader, into: Bucket = blankBucket()): Bucket => {
  into.at = row.time()
  into.sum = row.float8()
  into.spread = row.float8()
  readFacts(row, into)
  return into
}

/** The same of what a picture shows. @param size of the bucket, ms */
export const readShown = (row: CopyReader, into: Bucket, size: number) => {
  readFacts(row, into)
  into.at = bucketStart(into.openedAt, size)
}

const readFacts = (row: CopyReader, into: Bucket) => {
  into.count = row.int4()
  into.good = row.int4()
  into.min = row.float8()
  into.max = row.float8()
  into.first = row.float8()
  into.last = row.float8()
  into.firstAt = row.time()
  into.lastAt = row.time()
  into.openedAt = row.time()
  into.holds = row.bool()
  into.integral = row.float8()
  into.seconds = row.float8()
}

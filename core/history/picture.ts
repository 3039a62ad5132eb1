import { OpenBucket, type Bucket } from './bucket'

/** A line with as many points as a picture of some width can show, and no fewer: whatever was least or most stays in it. */
export interface Picture {
  /** Unix milliseconds. */
  at: number[]
  /** Null: from here on nothing good. */
  values: (number | null)[]
  /** Where nothing good was, from and up to; closer ones are one. */
  gaps: [number, number][]
  statistics: Statistics
}

/** What is said of a span as a whole. A value counts for as long as it held. */
export interface Statistics {
  least: number | null
  most: number | null
  /** By time. */
  mean: number | null
  /** Samples of any quality. */
  samples: number
  /** Seconds of the span in which there was a good value. */
  seconds: number
}

/**
 * Reduces what comes in the order of its times to the first, the least, the most and the last of each column of a picture.
 * Drawn as a line in that width it colours the same pixels as all of it would (M4: Jugel, Jerzak, Hackenbroich, Markl,
 * “M4: A Visualization-Oriented Time Series Data Aggregation”, PVLDB 7 (10), 2014). Of a bucket that reaches over the border of
 * two columns the least and the most stand in its middle, so that they may be one column off.
 */
export class PictureBuilder {
  private at: number[] = []
  private values: (number | null)[] = []
  private gaps: [number, number][] = []
  private whole: OpenBucket
  private column = -1
  private width: number
  /** Of the column at hand; the first time is NaN where there is none. */
  private firstAt = NaN
  private first = NaN
  private leastAt = NaN
  private least = NaN
  private mostAt = NaN
  private most = NaN
  private lastAt = NaN
  private last = NaN
  /** Since when nothing good is there; NaN: there is. */
  private gapFrom: number
  /** Of the column at hand: the gap that it begins with; NaN: none. */
  private gapFirst = NaN

  /** @param columns as many as the picture is wide */
  constructor(
    private from: number,
    private to: number,
    columns: number,
  ) {
    this.width = (to - from) / columns
    this.whole = new OpenBucket(from, to)
    this.gapFrom = from
  }

  /** What held when the span began. @param value NaN: nothing good */
  begin(value: number) {
    this.whole.begin(value)
    if (Number.isNaN(value)) return
    this.point(this.from, value)
  }

  /** @param value NaN where it is no good number */
  sample(at: number, value: number) {
    this.whole.add(at, value)
    this.point(at, value)
  }

  bucket(bucket: Bucket, end: number) {
    this.whole.fold(bucket, end)
    const { good, openedAt, firstAt, lastAt, first, last, min, max, holds } = bucket
    if (good === 0) return this.point(openedAt, NaN)
    if (openedAt < firstAt) this.point(openedAt, NaN)
    this.point(firstAt, first)
    if (good > 2) {
      const middle = (firstAt + lastAt) / 2
      this.point(middle, min)
      this.point(middle, max)
    }
    if (good > 1) this.point(lastAt, last)
    if (!holds) this.point(Math.max(lastAt, openedAt) + 1, NaN)
  }

  /** @param until what was last holds on until then */
  done(until = this.to): Picture {
    this.endColumn()
    this.endGap(until)
    const { count, integral, seconds } = this.whole.closeAt(until)
    const { leastHeld: least, mostHeld: most } = this.whole
    return {
      ...{ at: this.at, values: this.values, gaps: this.gaps },
      statistics: {
        ...{ least: orNull(least), most: orNull(most), mean: seconds > 0 ? integral / seconds : null },
        ...{ samples: count, seconds },
      },
    }
  }

  private point(at: number, value: number) {
    const column = Math.floor((at - this.from) / this.width)
    if (column !== this.column) {
      this.endColumn()
      this.column = column
    }
    if (Number.isNaN(value)) return this.noteBad(at)
    this.endGap(at)
    this.keep(at, value)
  }

  private noteBad(at: number) {
    if (!Number.isNaN(this.gapFrom)) return
    this.gapFrom = at
    if (Number.isNaN(this.firstAt)) this.gapFirst = at
  }

  private keep(at: number, value: number) {
    const isFirst = Number.isNaN(this.firstAt)
    if (isFirst) {
      this.firstAt = at
      this.first = value
    }
    if (isFirst || value < this.least) {
      this.leastAt = at
      this.least = value
    }
    if (isFirst || value > this.most) {
      this.mostAt = at
      this.most = value
    }
    this.lastAt = at
    this.last = value
  }

  private endColumn() {
    if (!Number.isNaN(this.gapFirst)) this.endLine(this.gapFirst)
    if (!Number.isNaN(this.firstAt)) this.pushColumn()
    // the column ends without anything good
    if (!Number.isNaN(this.gapFrom)) this.endLine(this.gapFrom)
    this.gapFirst = this.firstAt = NaN
  }

  private pushColumn() {
    this.push(this.firstAt, this.first)
    const isFalling = this.mostAt < this.leastAt
    if (isFalling) this.pushOther(this.mostAt, this.most)
    this.pushOther(this.leastAt, this.least)
    if (!isFalling) this.pushOther(this.mostAt, this.most)
    this.pushOther(this.lastAt, this.last)
  }

  private endGap(at: number) {
    if (Number.isNaN(this.gapFrom)) return
    const [from, to] = [this.gapFrom, Math.min(at, this.to)]
    this.gapFrom = NaN
    if (to <= from) return
    const before = this.gaps.at(-1)
    if (before && from - before[1] < this.width) before[1] = to
    else this.gaps.push([from, to])
  }

  private pushOther(at: number, value: number) {
    const { length } = this.at
    if (this.at[length - 1] !== at || this.values[length - 1] !== value) this.push(at, value)
  }

  private push(at: number, value: number) {
    this.at.push(at)
    this.values.push(value)
  }

  private endLine(at: number) {
    if (this.values.length === 0 || this.values.at(-1) === null) return
    this.at.push(at)
    this.values.push(null)
  }
}

const orNull = (value: number) => (Number.isNaN(value) ? null : value)

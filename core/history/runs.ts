import { integerRanges, isArrayType, type DataType } from '../tags/types'

/** Series that have no numbers: what is drawn of them is which text they had, from when to when. */
export const hasTexts = (type: DataType): boolean => type === 'string' || isArrayType(type)

/** Whole numbers whose values have names say more as these than as a line. */
export const hasNamedValues = (type: DataType, names: readonly unknown[]): boolean =>
  names.length > 0 && (type === 'bool' || integerRanges[type] !== undefined)

/** Unix milliseconds. */
export interface Run {
  from: number
  to: number
  text: string
  /** 0: it had this text all the time. Else it had so many texts in turn, closer together than a picture can show apart; the last one stands. */
  several: number
}

export interface TextPicture {
  runs: Run[]
  /** Where nothing good was, from and up to; closer ones are one. */
  gaps: [number, number][]
  /** In which there was a good text. */
  seconds: number
}

/**
 * Puts together what has the same text, in the order of its times. What follows so closely that it would take less than a
 * column of the picture is one run, so that there are never more than two for a column.
 */
export class RunsBuilder {
  private runs: Run[] = []
  private gaps: [number, number][] = []
  private width: number
  /** Since when it has what it has now; null: nothing good. */
  private since: number
  private text: string | null = null
  /** Short ones so far that follow each other. */
  private short: Run | null = null
  private seconds = 0

  /** @param columns as many as the picture is wide */
  constructor(
    from: number,
    private to: number,
    columns: number,
  ) {
    this.width = (to - from) / columns
    this.since = from
  }

  /** What it had when the span began. @param text null: nothing good */
  begin(text: string | null) {
    this.text = text
  }

  /** @param text null: nothing good */
  sample(at: number, text: string | null) {
    if (text === this.text) return
    this.end(at)
    this.since = at
    this.text = text
  }

  /** @param until what it has last holds on until then */
  done(until = this.to): TextPicture {
    this.end(Math.max(this.since, until))
    this.flush()
    return { runs: this.runs, gaps: this.gaps, seconds: this.seconds }
  }

  private end(at: number) {
    const { since, text, width } = this
    if (at <= since) return
    if (text === null) return this.endGap(since, at)
    this.seconds += (at - since) / 1000
    const run = { from: since, to: at, text, several: 0 }
    if (at - since < width) return this.takeShort(run)
    this.flush()
    this.runs.push(run)
  }

  private takeShort({ from, to, text }: Run) {
    const { short } = this
    this.short = short ? { from: short.from, to, text, several: Math.max(1, short.several) + 1 } : { from, to, text, several: 0 }
  }

  private endGap(from: number, to: number) {
    const before = this.gaps.at(-1)
    if (before && from - before[1] < this.width) before[1] = to
    else this.gaps.push([from, to])
    if (to - from >= this.width) this.flush()
  }

  private flush() {
    if (this.short) this.runs.push(this.short)
    this.short = null
  }
}

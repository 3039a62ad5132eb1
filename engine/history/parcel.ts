import { z } from 'zod'
import { CopyRows } from '#db/history/copyRows'
import { addBucket } from '#db/history/buckets'
import type { Bucket } from '#core/history/bucket'
import type { Packing } from '../disk/keptQueue'
import type { MinuteBuckets } from '#core/history/minuteBuckets'

/** The tables that rows of a parcel go to, in the order in which they stand in it. */
const sections = ['sample', 'second', 'minute', 'late'] as const
type Section = (typeof sections)[number]

const headContract = z.object({
  /** Its own: who is not sure whether it arrived finds it noted there. */
  id: z.string(),
  /** Series that begin, are called otherwise, or are recorded no more. */
  series: z.array(z.object({ id: z.int(), path: z.string(), type: z.string(), unit: z.string(), recording: z.boolean(), at: z.number() })),
  /** Days of UTC that its samples fall into, counted from 1970. */
  days: z.array(z.int()),
  samples: z.int(),
  /** Whether somebody begins anew; `from`: since when nothing was recorded, where that is known. */
  begins: z.object({ from: z.number().nullable() }).nullable(),
  /** What of rollups is still to be made again, by their tags; without times: nothing. Not all: besides what is noted. */
  again: z
    .array(z.object({ id: z.int(), span: z.object({ from: z.number(), to: z.number() }).nullable(), isAll: z.boolean() }))
    .default([]),
  /** All minutes before this one are closed; null: no more than before. */
  minutesTo: z.number().nullable(),
  /** The clock was set back, or somebody begins anew: minutes and hours from here on are not known to be made. */
  reopens: z.number().nullable().default(null),
  /** When the oldest of it was handed over. */
  at: z.number(),
  sizes: z.array(z.int().min(0)).length(sections.length),
})
export type ParcelHead = z.output<typeof headContract>
export type SeriesFacts = ParcelHead['series'][number]

/** What goes into the database in one step: all of it, or nothing. */
export interface Parcel {
  head: ParcelHead
  rows: Record<Section, Uint8Array>
}

const headLength = 4

export const parcelBytes = ({ head, rows }: Parcel): Uint8Array => {
  const text = new TextEncoder().encode(JSON.stringify(head))
  const whole = new Uint8Array(headLength + text.length + head.sizes.reduce((sum, size) => sum + size, 0))
  new DataView(whole.buffer).setUint32(0, text.length)
  whole.set(text, headLength)
  let at = headLength + text.length
  for (const section of sections) {
    whole.set(rows[section], at)
    at += rows[section].length
  }
  return whole
}

/** Null: what was kept is none, or was cut off. */
export const readParcel = (bytes: Uint8Array): Parcel | null => {
  try {
    const length = new DataView(bytes.buffer, bytes.byteOffset).getUint32(0)
    let at = headLength + length
    const head = headContract.parse(JSON.parse(new TextDecoder().decode(bytes.subarray(headLength, at))))
    const rows = {} as Parcel['rows']
    for (const [i, section] of sections.entries()) {
      rows[section] = bytes.subarray(at, at + head.sizes[i]!)
      at += head.sizes[i]!
    }
    return at === bytes.length ? { head, rows } : null
  } catch {
    return null
  }
}

export const parcelPacking: Packing<Parcel> = {
  bytes: parcelBytes,
  read: readParcel,
  facts: ({ head: { at, samples } }) => ({ at, samples }),
}

/** What became of one sample in the form that its table has. */
export interface RecordedSample {
  at: number
  arrived: number
  quality: number
  /** NaN: it has none. */
  number: number
  text: string | null
}

const dayMs = 86_400_000

/** A parcel that is being filled. */
export class OpenParcel {
  private rows: Record<Section, CopyRows> = { sample: new CopyRows(), second: new CopyRows(), minute: new CopyRows(), late: new CopyRows() }
  private series = new Map<number, SeriesFacts>()
  private days = new Set<number>()
  private marked = new Set<string>()
  private again = new Map<number, ParcelHead['again'][number]>()
  private begins: ParcelHead['begins'] = null
  private minutesTo: number | null = null
  private reopens: number | null = null
  private openedAt: number | null = null
  private lastDay = NaN

  get isEmpty() {
    return this.openedAt === null
  }

  get size() {
    return this.rows.sample.size + this.rows.second.size + this.rows.minute.size
  }

  get samples() {
    return this.rows.sample.count
  }

  addSample(series: number, { at, arrived, quality, number, text }: RecordedSample) {
    this.openedAt ??= arrived
    const day = Math.floor(at / dayMs)
    if (day !== this.lastDay) {
      this.days.add(day)
      this.lastDay = day
    }
    const row = this.rows.sample
      .row(6)
      .int4(series)
      .time(at)
      .time(arrived)
      .int4(quality | 0)
      .float8OrNull(number)
    if (text === null) row.null()
    else row.text(text)
  }

  addMinute(series: number, { minute, seconds }: MinuteBuckets, now: number) {
    this.openedAt ??= now
    this.noteDay(minute)
    addBucket(this.rows.minute, series, minute)
    for (const second of seconds) addBucket(this.rows.second, series, second)
  }

  /** This minute is to be made from its samples again. */
  addLate(series: number, minute: number, now: number) {
    const mark = `${series} ${minute}`
    if (this.marked.has(mark)) return
    this.marked.add(mark)
    this.openedAt ??= now
    this.rows.late.row(2).int4(series).time(minute)
  }

  addSeries(facts: SeriesFacts) {
    this.openedAt ??= facts.at
    this.series.set(facts.id, facts)
  }

  noteAgain(note: ParcelHead['again'][number], now: number) {
    this.openedAt ??= now
    this.again.set(note.id, note)
  }

  begin(from: number | null, now: number) {
    this.openedAt ??= now
    this.begins = { from }
  }

  closeMinutes(to: number, now: number) {
    this.openedAt ??= now
    this.minutesTo = to
  }

  /** Minutes from here on come again, or for the first time. */
  reopen(from: number, now: number) {
    this.openedAt ??= now
    this.reopens = Math.min(from, this.reopens ?? Infinity)
    this.minutesTo = null
  }

  /** What is in it; the next one begins. */
  take(id: string): Parcel {
    const { openedAt, begins, minutesTo, reopens, samples } = this
    const rows = Object.fromEntries(sections.map((section) => [section, this.rows[section].take()])) as Parcel['rows']
    const sizes = sections.map((section) => rows[section].length)
    const head = {
      ...{ id, series: [...this.series.values()], days: [...this.days], again: [...this.again.values()] },
      ...{ samples, begins, minutesTo, reopens, at: openedAt ?? 0, sizes },
    }
    this.series.clear()
    this.again.clear()
    this.days.clear()
    this.marked.clear()
    this.begins = this.minutesTo = this.reopens = this.openedAt = null
    this.lastDay = NaN
    return { head, rows }
  }

  private noteDay({ at }: Bucket) {
    this.days.add(Math.floor(at / dayMs))
  }
}

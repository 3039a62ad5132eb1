import type { RecordingHow } from '#core/history/settings'
import { bucketStart, tierMs } from '#core/history/bucket'
import { goodNumber } from '#core/history/goodNumber'
import { OpenMinute } from '#core/history/minuteBuckets'
import { isSameReading } from './sameReading'
import type { SampleRing } from '../table/sampleRing'
import type { Handle } from '../table/tagTable'
import type { OpenParcel, RecordedSample } from './parcel'

/** Times of a source that lie further ahead than this are not believed. */
const mostAheadMs = 3_600_000

/** In ms; the record counts in them. */
const aMicrosecond = 0.001

/** What is said of the times of a source. */
export interface Believed {
  at: number
  isDoubtful: boolean
}

/** Whether a source’s time is one that a sample can have; else it is taken for that of its arrival. @param oldest samples before it are not kept @param latest what the time may be */
export const believedTime = (sourceTime: number, now: number, oldest: number, latest = now): Believed =>
  sourceTime > oldest && sourceTime <= latest + mostAheadMs ? { at: sourceTime, isDoubtful: false } : { at: now, isDoubtful: true }

/** One tag that is recorded: what was recorded last, and the minute that is not over. */
export class Series {
  private last: RecordedSample | null = null
  private minute: OpenMinute | null = null
  private isDense = false
  /** When the last one came: of two of one time the later holds, so that no two come at once. */
  private arrivedAt = 0

  constructor(
    readonly id: number,
    readonly handle: Handle,
    readonly ring: SampleRing | null,
    /** Minutes that began before are not known as a whole. */
    private bornAt: number,
    public how: Exclude<RecordingHow, { kind: 'not' }>,
  ) {}

  /** Samples that gave way since it was last asked. */
  lostBefore = 0

  /** @param closedTo minutes before it are closed already */
  take(sample: RecordedSample, into: OpenParcel, closedTo: number, now: number) {
    if (this.saysNothing(sample)) return
    this.keep(sample, into, closedTo, now)
  }

  /** One that takes the place of what was recorded for its time. */
  correct(sample: RecordedSample, into: OpenParcel, closedTo: number, now: number) {
    this.keep(sample, into, closedTo, now)
  }

  /** Of times before it began others recorded as well: what holds there, is not known here. */
  private saysNothing(sample: RecordedSample): boolean {
    const { last, how, bornAt } = this
    return how.kind === 'change' && last !== null && last.at >= bornAt && isSameReading(last, sample, how.band)
  }

  private keep(sample: RecordedSample, into: OpenParcel, closedTo: number, now: number) {
    this.arrivedAt = Math.max(sample.arrived, this.arrivedAt + aMicrosecond)
    into.addSample(this.id, { ...sample, arrived: this.arrivedAt })
    if (!this.last || sample.at >= this.last.at) this.last = sample
    this.bucket(sample.at, goodNumber(sample.number, sample.quality), into, closedTo, now)
  }

  /** Ends the minute that is open, where it is over. */
  closeMinute(to: number, into: OpenParcel, now: number) {
    if (this.minute && this.minute.at + tierMs.minute <= to) this.endMinute(into, now)
  }

  private bucket(at: number, value: number, into: OpenParcel, closedTo: number, now: number) {
    const start = bucketStart(at, tierMs.minute)
    if (this.minute && start > this.minute.at) this.endMinute(into, now)
    if (start < (this.minute?.at ?? closedTo)) return into.addLate(this.id, start, now)
    this.minute ??= this.open(start)
    this.minute.add(at, value)
  }

  private open(start: number) {
    const minute = new OpenMinute(start, this.isDense)
    minute.isInDoubt = start < this.bornAt
    return minute
  }

  private endMinute(into: OpenParcel, now: number) {
    const minute = this.minute!
    this.minute = null
    const buckets = minute.close()
    this.isDense = minute.isDense
    if (minute.isInDoubt) into.addLate(this.id, minute.at, now)
    else into.addMinute(this.id, buckets, now)
  }
}

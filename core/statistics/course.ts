import { Histogram } from './histogram'

const minuteMs = 60_000
/** So far back it goes. */
const mostMinutes = 24 * 60

/** One minute of what was asked. */
export interface CourseMinute {
  /** When it began, Unix milliseconds. */
  at: number
  requests: number
  failures: number
  /** How long half of its answers took at the most, ms; null: there was none. */
  p50: number | null
  p95: number | null
}

/** How requests, failures and answer times went over the last day, minute by minute. It takes its memory with the first request. */
export class Course {
  private slots: Float32Array | null = null
  /** The minute that is counted now, since 1970; its place in the ring is this modulo their number. */
  private minute = 0
  private first = 0
  private times = new Histogram()
  private lost = 0
  private failures = 0

  /** @param ms how long the answer took; null: there was none */
  add(ms: number | null, isFailure: boolean, now = Date.now(), index?: number) {
    this.come(Math.floor(now / minuteMs))
    if (ms === null) this.lost++
    else this.times.add(ms, index)
    if (isFailure) this.failures++
  }

  /** The minutes from the first request on, the oldest first; the one under way is the last. */
  told(now: number): CourseMinute[] {
    if (!this.slots) return []
    this.come(Math.floor(now / minuteMs))
    const minutes: CourseMinute[] = []
    for (let minute = Math.max(this.first, this.minute - mostMinutes + 1); minute < this.minute; minute++) {
      const [requests, failures, p50, p95] = this.slots.subarray((minute % mostMinutes) * 4, (minute % mostMinutes) * 4 + 4)
      minutes.push({ at: minute * minuteMs, requests: requests!, failures: failures!, p50: orNull(p50!), p95: orNull(p95!) })
    }
    return [...minutes, this.underWay()]
  }

  private underWay(): CourseMinute {
    const { times, lost, failures } = this
    return {
      ...{ at: this.minute * minuteMs, requests: times.count + lost, failures },
      ...{ p50: times.quantile(0.5), p95: times.quantile(0.95) },
    }
  }

  /** Minutes in which nothing was asked are minutes, too. A clock that was set back stays in the minute that it left. */
  private come(minute: number) {
    if (!this.slots) {
      this.slots = new Float32Array(4 * mostMinutes)
      this.first = this.minute = minute
    }
    if (minute <= this.minute) return
    this.keep()
    const from = Math.max(this.minute + 1, minute - mostMinutes)
    for (let empty = from; empty < minute; empty++) this.slots.set([0, 0, NaN, NaN], (empty % mostMinutes) * 4)
    this.minute = minute
  }

  private keep() {
    const { requests, failures, p50, p95 } = this.underWay()
    this.slots!.set([requests, failures, p50 ?? NaN, p95 ?? NaN], (this.minute % mostMinutes) * 4)
    this.times.clear()
    this.lost = this.failures = 0
  }
}

const orNull = (ms: number) => (Number.isNaN(ms) ? null : ms)

import { Course } from './course'
import { classOf } from './histogram'
import { Meter, type Measured } from './meter'

/** More parts of one are measured with the whole only. */
const mostParts = 1000

/**
 * What is asked of one far side, as a whole and by its parts where it has some; or what one outlet is asked, as a whole and by
 * its clients. It outlives sessions.
 */
export class Meters {
  private whole = new Meter(Date.now())
  private parts = new Map<string, Meter>()
  /** The whole over time; it is not reset. */
  readonly course = new Course()
  /** How much nobody answered, ever; it is not reset. */
  unanswered = 0

  /** @param part such as a unit; null: the far side has none @param ms how long it took */
  answered(part: string | null, ms: number) {
    this.answeredBy(part === null ? null : this.of(part), ms)
  }

  /** @param part as `of` gave it */
  answeredBy(part: Meter | null, ms: number, now = Date.now()) {
    const index = classOf(ms)
    this.whole.answered(ms, index)
    this.course.add(ms, false, now, index)
    part?.answered(ms, index)
  }

  /** @param code of the fault @param ms how long its answer took; null: there was none @param waited how long was waited in vain, ms */
  failed(part: string | null, code: string, ms: number | null, waited = 0) {
    if (ms === null) this.unanswered++
    this.whole.failed(code, ms, waited)
    this.course.add(ms, true)
    if (part !== null) this.of(part)?.failed(code, ms, waited)
  }

  told(now: number): { whole: Measured; parts: [name: string, measured: Measured][] } {
    return { whole: this.whole.told(now), parts: [...this.parts].map(([name, meter]) => [name, meter.told(now)]) }
  }

  reset(now: number) {
    this.whole.reset(now)
    this.parts.clear()
  }

  /** The meter of a part; null: there are too many. It is another one after a reset. */
  of(part: string): Meter | null {
    const known = this.parts.get(part)
    if (known || this.parts.size >= mostParts) return known ?? null
    const made = new Meter(Date.now())
    this.parts.set(part, made)
    return made
  }
}

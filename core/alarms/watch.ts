import { severityOf } from '../tags/quality'
import type { TagValue } from '../tags/types'
import type { Limit, RateLimit } from './limits'

/** What a tag had at a moment. */
export interface Looked {
  value: TagValue | undefined
  quality: number
  /** Unix milliseconds: of the source, and of the arrival. */
  at: number
  now: number
}

/** A limit was crossed, or the value came back. */
export interface Turn {
  active: boolean
  at: number
  value: TagValue | undefined
}

/**
 * Follows one limit of one tag. A value that is bad says nothing: what was an alarm stays one, and nothing becomes one. With a delay
 * the value has to stay beyond, and every good sample in between counts.
 */
export class LimitWatch {
  private beyondSince: { at: number; now: number; value: TagValue | undefined } | null = null
  private reference: { number: number; at: number } | null = null
  private rate: number | null = null

  /** @param active whether it is an alarm already, as somebody knew before */
  constructor(
    readonly limit: Limit,
    private active: boolean,
  ) {}

  get isActive() {
    return this.active
  }

  /** Whether time alone can turn it. */
  get waits(): boolean {
    return this.beyondSince !== null || (this.limit.kind === 'rate' && this.reference !== null)
  }

  /** Takes what the tag has now. @returns what became of the limit; null: nothing */
  take(looked: Looked): Turn | null {
    const { value, quality } = looked
    if (value === undefined || severityOf(quality) === 'bad') {
      this.beyondSince = null
      this.reference = null
      return null
    }
    const beyond = this.isBeyond(looked)
    return beyond === null ? null : this.decide(beyond, looked)
  }

  /** Time went by. */
  tick(now: number): Turn | null {
    if (this.limit.kind === 'rate' && this.active && this.reference && now - this.reference.at >= this.limit.over * 2 + this.limit.delay) {
      // nothing came for so long: it does not move any more
      this.active = false
      return { active: false, at: now, value: this.reference.number }
    }
    const { beyondSince } = this
    if (!beyondSince || now - beyondSince.now < this.limit.delay) return null
    this.beyondSince = null
    this.active = true
    return { active: true, at: beyondSince.at + this.limit.delay, value: beyondSince.value }
  }

  private decide(beyond: boolean, { at, now, value }: Looked): Turn | null {
    if (!beyond) {
      this.beyondSince = null
      if (!this.active) return null
      this.active = false
      return { active: false, at, value }
    }
    if (this.active) return null
    this.beyondSince ??= { at, now, value }
    if (now - this.beyondSince.now < this.limit.delay) return null
    const since = this.beyondSince
    this.beyondSince = null
    this.active = true
    return { active: true, at: this.limit.delay === 0 ? at : since.at + this.limit.delay, value }
  }

  /** Null: it cannot be told yet. */
  private isBeyond({ value, at }: Looked): boolean | null {
    const { limit, active } = this
    if (limit.kind === 'state')
      return limit.values.some((one) => one === value || (typeof value === 'bigint' && Number(value) === one)) !== limit.not
    const number = Number(value)
    if (Number.isNaN(number)) return null
    if (limit.kind === 'rate') return this.isTooFast(limit, number, at)
    const sign = limit.kind === 'high' || limit.kind === 'higher' ? 1 : -1
    const over = sign * (number - limit.at)
    // at the limit itself nothing is wrong yet; what is an alarm is over once the value came back by the band
    return active ? over > -limit.band : over > 0
  }

  private isTooFast(limit: RateLimit, number: number, at: number): boolean | null {
    const { reference } = this
    if (!reference || at < reference.at) {
      this.reference = { number, at }
      return null
    }
    const ms = at - reference.at
    if (ms < limit.over) return this.rate === null ? null : this.isRateBeyond(limit, this.rate)
    this.rate = ((number - reference.number) / ms) * 1000
    this.reference = { number, at }
    return this.isRateBeyond(limit, this.rate)
  }

  private isRateBeyond({ at, way, band }: RateLimit, rate: number): boolean {
    const speed = way === 'either' ? Math.abs(rate) : way === 'rising' ? rate : -rate
    return speed > (this.active ? at - band : at)
  }
}

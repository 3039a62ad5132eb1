import { Histogram } from './histogram'

/** What was measured of one that is asked, since a moment. Times in ms. */
export interface Measured {
  /** Unix milliseconds. */
  since: number
  requests: number
  /** Those that were answered, whatever the answer said. */
  answers: number
  failures: number
  /** Failures by their code. */
  causes: Record<string, number>
  least: number | null
  mean: number | null
  p50: number | null
  p95: number | null
  p99: number | null
  most: number | null
  /** The share of the time in which at least one request was answered or waited for: 0 to 1. */
  busy: number
}

/** More different causes are counted as others. */
const mostCauses = 40

/** Counts what is asked of one part of the far side, and how long its answers take. */
export class Meter {
  private times = new Histogram()
  private causes = new Map<string, number>()
  private failures = 0
  private lost = 0
  private waited = 0
  private since: number

  constructor(now: number) {
    this.since = now
  }

  /** It answered, with what was wanted. @param ms how long that took @param index its class, where that is known already */
  answered(ms: number, index?: number) {
    this.times.add(ms, index)
  }

  /** It refused, or never answered. @param code of the fault @param ms how long its answer took; null: there was none @param waited how long was waited in vain */
  failed(code: string, ms: number | null, waited = 0) {
    this.failures++
    if (ms !== null) this.times.add(ms)
    else {
      this.lost++
      this.waited += waited
    }
    const known = this.causes.has(code) || this.causes.size < mostCauses ? code : 'others'
    this.causes.set(known, (this.causes.get(known) ?? 0) + 1)
  }

  told(now: number): Measured {
    const { times } = this
    const span = Math.max(1, now - this.since)
    return {
      since: this.since,
      requests: times.count + this.lost,
      answers: times.count,
      failures: this.failures,
      causes: Object.fromEntries(this.causes),
      least: times.count > 0 ? times.least : null,
      mean: times.count > 0 ? times.sum / times.count : null,
      p50: times.quantile(0.5),
      p95: times.quantile(0.95),
      p99: times.quantile(0.99),
      most: times.count > 0 ? times.most : null,
      busy: Math.min(1, (times.sum + this.waited) / span),
    }
  }

  reset(now: number) {
    this.times.clear()
    this.causes.clear()
    this.failures = this.lost = this.waited = 0
    this.since = now
  }
}

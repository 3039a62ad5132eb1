import type { CourseMinute } from '#core/statistics/course'
import { counted } from '#core/text/counted'
import { duration } from '#core/text/duration'
import { momentText } from '#core/text/moment'

/** Some minutes together. */
export interface CourseBar {
  at: number
  /** How long it is, ms. */
  width: number
  requests: number
  failures: number
  /** The worst of its minutes, ms; null: there was no answer. */
  p95: number | null
}

const mostBars = 120
const steps = [1, 2, 5, 10, 15, 30]
const minuteMs = 60_000

/** Minutes as so many bars as a picture has room for. */
export const courseBars = (minutes: readonly CourseMinute[]): CourseBar[] => {
  const together = steps.find((step) => minutes.length / step <= mostBars) ?? steps.at(-1)!
  const width = together * minuteMs
  const bars = new Map<number, CourseBar>()
  for (const { at, requests, failures, p95 } of minutes) {
    const start = Math.floor(at / width) * width
    const bar = bars.get(start) ?? { at: start, width, requests: 0, failures: 0, p95: null }
    bar.requests += requests
    bar.failures += failures
    if (p95 !== null) bar.p95 = Math.max(bar.p95 ?? 0, p95)
    bars.set(start, bar)
  }
  return [...bars.values()]
}

/** What a bar says in words; null: what all of them say. */
export const courseText = (bars: readonly CourseBar[], index: number | null): string => {
  const [bar] = index === null ? [] : bars.slice(index, index + 1)
  const sum = (of: 'requests' | 'failures') => bars.reduce((total, one) => total + one[of], 0)
  if (bars.length === 0) return 'Nothing was asked since the engine began'
  if (!bar)
    return `${counted(sum('requests'), 'request')}, ${sum('failures').toLocaleString('en-GB')} failed; a bar is ${duration(bars[0]!.width)}; what failed hangs below, the line has 95 % of the answers`
  const times = bar.p95 === null ? 'no answer' : `95 % answered within ${duration(bar.p95)}`
  return `${momentText(bar.at)}: ${counted(bar.requests, 'request')}, ${bar.failures.toLocaleString('en-GB')} failed, ${times}`
}

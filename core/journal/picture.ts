import { severities, type JournalSeverity } from './entry'

/** Widths of the bars, ms: what a person reads off at a glance. */
const [second, minute, hour, day] = [1000, 60_000, 3_600_000, 86_400_000]
const widths = [
  ...[1, 2, 5, 10, 15, 30].map((n) => n * second),
  ...[1, 2, 5, 10, 15, 30].map((n) => n * minute),
  ...[1, 2, 3, 6, 12].map((n) => n * hour),
  ...[1, 2, 7, 14, 28, 91, 364].map((n) => n * day),
]
/** So many bars are drawn at most. */
export const mostBars = 60

/** The least width with which a span has no more bars than can be drawn. @returns ms */
export const barWidth = (spanMs: number): number => widths.find((width) => spanMs / width <= mostBars - 1) ?? widths.at(-1)!

/** A picture counts so many of the newest at most: enough to see, and quick among millions. */
export const mostPictured = 200_000

/** How often something happened from a moment on, for as long as a bar is wide. */
export type Bar = { at: number } & Record<JournalSeverity, number>

export interface CountedMoment {
  /** Unix milliseconds of the begin of its bar. */
  at: number
  severity: JournalSeverity
  times: number
}

/** All bars of a span, those with nothing in them, too; bars begin at whole widths. */
export const barsOf = (counted: readonly CountedMoment[], from: number, to: number, width: number): Bar[] => {
  const first = Math.floor(from / width) * width
  const bars: Bar[] = []
  for (let at = first; at < to && bars.length <= mostBars; at += width) bars.push({ at, note: 0, caution: 0, trouble: 0 })
  for (const { at, severity, times } of counted) {
    const bar = bars[Math.floor((at - first) / width)]
    if (bar) bar[severity] += times
  }
  return bars
}

/** How often each severity was met in all bars. */
export const totalsOf = (bars: readonly Bar[]): Record<JournalSeverity, number> =>
  Object.fromEntries(severities.map((one) => [one, bars.reduce((sum, bar) => sum + bar[one], 0)])) as Record<JournalSeverity, number>

import { duration } from '../text/duration'

/** Which changes of a tag are passed on. */
export interface Reports {
  /** A value counts once it is further away than this from the one passed on last; in the tag's unit, or percent of its range. */
  deadband: { kind: 'absolute' | 'percent'; value: number } | null
  /** So many milliseconds between two values at least; what comes meanwhile waits, and the newest goes on then. */
  least: number | null
  /** After so many without a change, a value that its source went on confirming is passed on once more. */
  most: number | null
}

export const deadbandKinds = ['absolute', 'percent'] as const

/** The deadband in the tag's unit; 0: none. */
export const bandOf = (reports: Reports, range: { low: number; high: number } | null): number => {
  const { deadband } = reports
  if (!deadband) return 0
  return deadband.kind === 'absolute' ? deadband.value : range ? (deadband.value / 100) * (range.high - range.low) : 0
}

/** In a line: `past 0.5 bar, at most every 1 s, at least every 1 min`; empty: each change. */
export const reportsText = (reports: Reports | null, unit: string): string => {
  if (!reports) return ''
  const { deadband, least, most } = reports
  const parts = [
    deadband && (deadband.kind === 'percent' ? `past ${deadband.value} % of the range` : `past ${deadband.value}${unit && ` ${unit}`}`),
    least !== null && `at most every ${duration(least)}`,
    most !== null && `at least every ${duration(most)}`,
  ].filter((part) => typeof part === 'string')
  return parts.join(', ')
}

import type { OpenBucket } from '../history/bucket'
import { quality } from '../tags/quality'
import type { RollupWay } from './settings'

export interface RolledUp {
  /** Null: nothing of the window says it. */
  value: number | null
  /** An OPC UA status code: good where the whole window is known. */
  quality: number
}

/** Of the length of a window so much may be unknown, for the sake of the last digit. */
const rounding = 1e-9

/**
 * What is said of a window. Least and most count what held when it began; means and sums by samples count those that came
 * within it; by time each value counts for as long as it held.
 *
 * @param until the window as far as it is known
 */
export const rolledUp = (how: RollupWay, window: OpenBucket, until = window.end): RolledUp => {
  const value = valueOf(how, window)
  const known = (until - window.at) / 1000
  if (value === null || (window.seconds === 0 && window.good === 0))
    return { value: how === 'count' ? window.good : null, quality: quality.BadNoData }
  const isWhole = window.seconds >= known * (1 - rounding)
  return { value, quality: isWhole ? quality.Good : quality.UncertainDataSubNormal }
}

const valueOf = (how: RollupWay, window: OpenBucket): number | null => {
  const { good, sum, spread, seconds, integral, leastHeld, mostHeld, first, last } = window
  const ofGood = (value: number) => (good > 0 ? value : null)
  const orNull = (value: number) => (Number.isNaN(value) ? null : value)
  switch (how) {
    case 'min':
      return orNull(leastHeld)
    case 'max':
      return orNull(mostHeld)
    case 'range':
      return orNull(mostHeld - leastHeld)
    case 'mean':
      return ofGood(sum / good)
    case 'mean by time':
      return seconds > 0 ? integral / seconds : null
    case 'sum':
      return good > 0 ? sum : 0
    case 'count':
      return good
    case 'first':
      return ofGood(first)
    case 'last':
      return ofGood(last)
    case 'deviation':
      return ofGood(Math.sqrt(spread / good))
    // value × hours: kW become kWh
    case 'integral':
      return integral / 3600
    case 'time true':
      return integral
  }
}

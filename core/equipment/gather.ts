import { isGood, quality, severityOf } from '../tags/quality'
import type { TagValue } from '../tags/types'
import type { GatherWay } from './settings'

export interface Gathered {
  /** Null: nothing says it. */
  value: number | boolean | null
  /** An OPC UA status code: uncertain where not all children are good. */
  quality: number
}

/** What of a child can be gathered; null: nothing. */
export const gatherable = (value: TagValue | undefined): number | null =>
  typeof value === 'number' || typeof value === 'boolean' || typeof value === 'bigint' ? Number(value) : null

/**
 * What children have together. Those that are bad are left out; where one is, or one is uncertain, so is the result.
 *
 * @param values of each child, with its quality; null: no number, or nothing yet
 */
export const gathered = (how: GatherWay, values: readonly { value: number | null; quality: number }[]): Gathered => {
  const usable = values.flatMap(({ value, quality: code }) => (value !== null && severityOf(code) !== 'bad' ? [value] : []))
  const isWhole = values.every(({ value, quality: code }) => value !== null && isGood(code))
  if (how === 'count') return { value: usable.length, quality: quality.Good }
  // nothing adds up to nothing
  if (values.length === 0 && how === 'sum') return { value: 0, quality: quality.Good }
  if (usable.length === 0) return { value: null, quality: quality.BadNoData }
  return { value: valueOf(how, usable), quality: isWhole ? quality.Good : quality.UncertainDataSubNormal }
}

const valueOf = (how: Exclude<GatherWay, 'count'>, good: readonly number[]): number | boolean => {
  const sum = () => good.reduce((total, value) => total + value, 0)
  switch (how) {
    case 'sum':
      return sum()
    case 'mean':
      return sum() / good.length
    case 'min':
      return good.reduce((least, value) => Math.min(least, value))
    case 'max':
      return good.reduce((most, value) => Math.max(most, value))
    case 'all true':
      return good.every((value) => value !== 0)
    case 'any true':
      return good.some((value) => value !== 0)
  }
}

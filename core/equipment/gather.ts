import { isGood, quality } from '../tags/quality'
import type { GatherWay } from './settings'

export interface Gathered {
  /** Null: nothing says it. */
  value: number | boolean | null
  /** An OPC UA status code: uncertain where not all children are good. */
  quality: number
}

/**
 * What children have together. Those that are not good are left out, and the result says so.
 *
 * @param values of each child, with its quality; null: no number, or nothing yet
 */
export const gathered = (how: GatherWay, values: readonly { value: number | null; quality: number }[]): Gathered => {
  const good = values.flatMap(({ value, quality: code }) => (value !== null && isGood(code) ? [value] : []))
  if (how === 'count') return { value: good.length, quality: quality.Good }
  if (values.length === 0 || good.length === 0)
    return {
      value: how === 'sum' && values.length === 0 ? 0 : null,
      quality: values.length === 0 && how === 'sum' ? quality.Good : quality.BadNoData,
    }
  return { value: valueOf(how, good), quality: good.length === values.length ? quality.Good : quality.UncertainDataSubNormal }
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

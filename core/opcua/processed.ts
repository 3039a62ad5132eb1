import type { Interval } from '../history/intervals'
import { quality } from '../tags/quality'

/** Values worked out of what was recorded, as clients of the standard ask for them (OPC 10000-13). */

/** The aggregates that are served, by the numbers of their nodes in namespace 0. */
export const aggregates = { 2342: 'average', 2343: 'time average', 2346: 'minimum', 2347: 'maximum', 2352: 'count' } as const
export type Aggregate = (typeof aggregates)[keyof typeof aggregates]
export const aggregateOf = (namespace: number, id: unknown): Aggregate | null =>
  namespace === 0 && typeof id === 'number' && id in aggregates ? aggregates[id as keyof typeof aggregates] : null

/** How much of an interval has to be good, or bad, so that it counts as that (OPC 10000-13, 4.2.1.2); percent. */
export interface Share {
  good: number
  bad: number
}
export const usualShare: Share = { good: 100, bad: 100 }

/** Of the length of an interval so much may be unknown, for the sake of the last digit. */
const rounding = 1e-9

export interface Processed {
  /** Unix milliseconds. */
  at: number
  value: number | null
  /** An OPC UA status code, without its info bits. */
  quality: number
  /** It is of a part of its interval. */
  isPartial: boolean
}

/**
 * Where the intervals of a request begin and end, in the order in which they are told; the last may be shorter.
 *
 * @param step ms; 0: one interval
 * @param most so many intervals; what is left begins at `next`
 */
export const intervalsAsked = (
  start: number,
  end: number,
  step: number,
  most: number,
): { borders: number[]; isBackwards: boolean; next: number | null } => {
  const [isBackwards, length] = [end < start, Math.abs(end - start)]
  const count = step <= 0 || step >= length ? 1 : Math.ceil(length / step)
  const told = Math.min(count, most)
  const borderAt = (i: number) => (i >= count ? end : start + (isBackwards ? -1 : 1) * i * step)
  const borders = Array.from({ length: told + 1 }, (_, i) => borderAt(i))
  return { borders: isBackwards ? borders.toReversed() : borders, isBackwards, next: told < count ? borderAt(told) : null }
}

/** One interval by an aggregate. Values hold until the next one: series are stepped. */
export const processed = (how: Aggregate, interval: Interval, asked: { isBackwards: boolean; step: number; share: Share }): Processed => {
  const { from, to, until, whole, isExact } = interval
  const isPartial = until < to || (asked.step > 0 && to - from < asked.step)
  const told = { at: asked.isBackwards ? to : from, isPartial }
  if (until <= from) return { ...told, value: null, quality: quality.BadNoData }
  const value = valueOf(how, interval)
  if (how === 'count') return { ...told, value, quality: whole.count > whole.good ? quality.UncertainDataSubNormal : quality.Good }
  if (value === null) return { ...told, value: null, quality: quality.BadNoData }
  const known = (until - from) / 1000
  const good = whole.seconds >= known * (1 - rounding) ? 100 : (whole.seconds / known) * 100
  if (good >= asked.share.good && isExact) return { ...told, value, quality: quality.Good }
  const isBad = 100 - good >= asked.share.bad
  return { ...told, value: isBad ? null : value, quality: isBad ? quality.BadNoData : quality.UncertainDataSubNormal }
}

const valueOf = (how: Aggregate, { whole: { good, sum, min, max, seconds, integral } }: Interval): number | null => {
  const ofGood = (value: number) => (good > 0 ? value : null)
  switch (how) {
    case 'average':
      return ofGood(sum / good)
    case 'minimum':
      return ofGood(min)
    case 'maximum':
      return ofGood(max)
    case 'time average':
      return seconds > 0 ? integral / seconds : null
    case 'count':
      return good
  }
}

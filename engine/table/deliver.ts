import type { OddJudge } from '#core/tags/odd'
import { quality, severityOf } from '#core/tags/quality'
import { isScaled, toEngineering, type Scaling } from '#core/tags/scaling'
import type { TagValue } from '#core/tags/types'
import type { SampleSink } from './intake'
import type { Handle } from './tagTable'

/** Where a raw value goes, and what is made of it. */
interface Destination {
  handle: Handle
  scaling: Scaling | null
}

/** Makes the engineering value of a raw one and writes it; what is odd becomes what was chosen for it. On the hot path of every link. */
export const deliver = (
  into: SampleSink,
  { handle, scaling }: Destination,
  odd: OddJudge | null,
  raw: TagValue,
  code: number,
  seenAt: number,
  sourceTime: number,
) => {
  const instead = odd === null ? null : odd(raw)
  if (instead !== null) return deliverOdd(into, { handle, scaling }, instead, raw, code, seenAt, sourceTime)
  into.set(handle, isScaled(scaling) ? toEngineering(raw, scaling) : raw, code, seenAt, sourceTime)
}

const deliverOdd = (
  into: SampleSink,
  { handle, scaling }: Destination,
  instead: 'bad' | 'last' | number,
  raw: TagValue,
  code: number,
  seenAt: number,
  sourceTime: number,
) => {
  const isBad = severityOf(code) === 'bad'
  if (typeof instead === 'number') {
    const value = typeof raw === 'bigint' && !isScaled(scaling) ? BigInt(instead) : instead
    return into.set(handle, value, isBad ? code : quality.UncertainSubstituteValue, seenAt, sourceTime)
  }
  const isLast = instead === 'last' && into.values[handle] !== undefined
  into.degrade(handle, isBad ? code : isLast ? quality.UncertainLastUsableValue : quality.BadSensorFailure, sourceTime)
  into.confirm(handle, seenAt)
}

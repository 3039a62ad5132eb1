import { base64Of, isoText, type Carried } from '../messages/carried'
import { carriedOf } from '../bridges/tagValue'
import { isGood, qualityName } from '../tags/quality'
import type { DataType, TagValue } from '../tags/types'
import type { CloudSample, CloudValue } from './entries'

/** What a tag had at a moment, as it goes to a platform. @param at Unix milliseconds */
export const cloudSampleOf = (at: number, value: TagValue | undefined, quality: number, type: DataType): CloudSample => {
  const time = Math.floor(at)
  const carried = cloudValueOf(carriedOf(value, type))
  if (isGood(quality) && carried !== null) return [time, carried]
  return [time, carried, isGood(quality) ? 'BadNoData' : qualityName(quality)]
}

/** As JSON has it: a whole number of 64 bits as its digits, a time as ISO 8601, bytes as base64; what is no number is nothing. */
const cloudValueOf = (value: Carried): CloudValue => {
  if (value === null || value === undefined) return null
  if (typeof value === 'bigint') return value.toString()
  if (typeof value === 'number') return Number.isFinite(value) ? value : null
  if (typeof value !== 'object') return value
  if (value instanceof Date) return isoText(value) || null
  if (value instanceof Uint8Array) return base64Of(value)
  return Array.isArray(value) ? value.map(cloudValueOf) : null
}

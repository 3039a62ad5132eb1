import { backward, forward, inOtherUnit, isRanges, writable, type RangeScaling, type Scaling } from './curve'
import {
  elementOf,
  integerRanges,
  isArrayType,
  isArrayValue,
  isNumeric,
  isWide,
  type DataType,
  type ScalarType,
  type ScalarValue,
  type TagValue,
  passedOnType,
} from './types'
import { conversion } from './units'

export type { Scaling } from './curve'

export const isScaled = (scaling: Scaling | null | undefined): scaling is Scaling =>
  !!scaling && (isRanges(scaling) || scaling.gain !== 1 || scaling.offset !== 0)

/** What makes an engineering value of a raw one. */
export interface Made {
  scaling: Scaling | null
  /** The unit before it is converted to the tag’s; empty: it is the tag’s. */
  rawUnit: string
  unit: string
}

/** The whole way from the raw value to the one in the tag’s unit. */
export const wholeScaling = ({ scaling, rawUnit, unit }: Made): Scaling | null => {
  const step = rawUnit === '' ? null : conversion(rawUnit, unit)
  return step ? inOtherUnit(scaling, step) : scaling
}

/** The type that consumers of a tag get. */
export const passedOnBy = (tag: Made & { type: DataType }): DataType => passedOnType(tag.type, isScaled(wholeScaling(tag)))

/** Applies scaling to a decoded value. What is no number passes through unchanged. */
export const toEngineering = (raw: TagValue, scaling: Scaling | null): TagValue => {
  if (!isScaled(scaling)) return raw
  if (typeof raw === 'bigint') return forward(Number(raw), scaling)
  return typeof raw === 'number' ? forward(raw, scaling) : raw
}

type Problem = { ok: false; reason: 'type' | 'range'; detail: string }
export type Unscaled = { ok: true; raw: TagValue } | Problem
type UnscaledScalar = { ok: true; raw: ScalarValue } | Problem

/**
 * Turns what a person or client wrote (engineering units) into the raw value of the type.
 * What does not fit the type is refused, never wrapped and never cut off. With scaling, the nearest step of
 * the raw integer is meant; without it, 1.5 is no integer.
 * An array may come as one, or as text: elements divided by commas, in brackets or not.
 */
export const toRaw = (value: TagValue, type: DataType, scaling: Scaling | null): Unscaled => {
  return isArrayType(type) ? asArray(value, type) : toRawScalar(value, type, scaling)
}

/** The same for types of one element. */
export const toRawScalar = (value: TagValue, type: ScalarType, scaling: Scaling | null): UnscaledScalar =>
  isArrayValue(value) ? wrongType(value, type) : asScalar(value, type, scaling)

const asScalar = (value: ScalarValue, type: DataType, scaling: Scaling | null): UnscaledScalar => {
  if (type === 'bool') return asBool(value)
  if (type === 'string') return { ok: true, raw: String(value) }
  if (type === 'datetime') return asDateTime(value)
  if (!isNumeric(type) || typeof value === 'boolean') return wrongType(value, type)
  return isWide(type) && !isScaled(scaling) ? asWideInteger(value, type) : asNumber(value, type, scaling)
}

const asArray = (value: TagValue, type: DataType): Unscaled => {
  const elements = isArrayValue(value) ? value : elementsIn(String(value))
  if (!elements) return wrongType(value, type)
  const raw: ScalarValue[] = []
  for (const element of elements) {
    const one = asScalar(element, elementOf(type), null)
    if (!one.ok) return one
    raw.push(one.raw)
  }
  return { ok: true, raw }
}

const elementsIn = (text: string): ScalarValue[] | null => {
  const inner = text
    .trim()
    .replace(/^\[|\]$/g, '')
    .trim()
  return inner === '' ? [] : inner.split(',').map((element) => element.trim().replace(/^"(.*)"$/, '$1'))
}

/** Unix milliseconds, or a time that ISO 8601 allows; without a zone it is UTC. */
const asDateTime = (value: ScalarValue): UnscaledScalar => {
  if (typeof value === 'number' && Number.isFinite(value)) return { ok: true, raw: value }
  const text = String(value).trim()
  const time = Date.parse(/T[\d:.]+$/.test(text) ? `${text}Z` : text)
  return Number.isNaN(time) ? wrongType(value, 'datetime') : { ok: true, raw: time }
}

const asBool = (value: ScalarValue): UnscaledScalar => {
  if (typeof value === 'boolean') return { ok: true, raw: value }
  const text = String(value).trim().toLowerCase()
  if (['1', 'true', 'on'].includes(text)) return { ok: true, raw: true }
  if (['0', 'false', 'off'].includes(text)) return { ok: true, raw: false }
  return wrongType(value, 'bool')
}

const asWideInteger = (value: ScalarValue, type: DataType): UnscaledScalar => {
  const whole = wholeNumber(value)
  return whole === null ? wrongType(value, type) : withinRange(whole, type, whole)
}

const wholeNumber = (value: ScalarValue): bigint | null => {
  if (typeof value === 'bigint') return value
  if (typeof value === 'number') return Number.isInteger(value) ? BigInt(value) : null
  return /^\s*[-+]?\d+\s*$/.test(String(value)) ? BigInt(String(value).trim().replace(/^\+/, '')) : null
}

const asNumber = (value: ScalarValue, type: DataType, scaling: Scaling | null): UnscaledScalar => {
  const engineering = typeof value === 'string' && value.trim() === '' ? NaN : Number(value)
  if (Number.isNaN(engineering) && typeof value !== 'number') return wrongType(value, type)
  const raw = isScaled(scaling) ? backward(engineering, scaling) : engineering
  if (raw === null) return beyondEnd(engineering, scaling as RangeScaling)
  if (type === 'float64') return { ok: true, raw }
  if (type === 'float32') return asFloat32(raw)
  if (!Number.isFinite(raw)) return outOfRange(raw, type)
  if (!isScaled(scaling) && !Number.isInteger(raw)) return notWhole(raw, type)
  const rounded = BigInt(Math.round(raw))
  return withinRange(rounded, type, isWide(type) ? rounded : Number(rounded))
}

const asFloat32 = (raw: number): UnscaledScalar =>
  Number.isFinite(raw) && !Number.isFinite(Math.fround(raw)) ? outOfRange(raw, 'float32') : { ok: true, raw: Math.fround(raw) }

const withinRange = (whole: bigint, type: DataType, raw: ScalarValue): UnscaledScalar => {
  const range = integerRanges[type]
  return range && (whole < range.low || whole > range.high) ? outOfRange(whole, type) : { ok: true, raw }
}

const outOfRange = (raw: number | bigint, type: DataType): Problem => {
  const range = integerRanges[type]
  const holds = range ? `${range.low} to ${range.high}` : '±3.4e38'
  return { ok: false, reason: 'range', detail: `${raw} on the wire, and ${type} holds ${holds}` }
}

const beyondEnd = (value: number, scaling: RangeScaling): Problem => {
  const { low, high } = writable(scaling)
  const holds = low === -Infinity ? `up to ${high}` : high === Infinity ? `from ${low} on` : `from ${low} to ${high}`
  return { ok: false, reason: 'range', detail: `${value} is no value that the scaling gives: they go ${holds}` }
}

const notWhole = (raw: number, type: DataType): Problem => ({
  ok: false,
  reason: 'type',
  detail: `${raw} has a fraction, and ${type} holds whole numbers`,
})

const wrongType = (value: TagValue, type: DataType): Problem => ({
  ok: false,
  reason: 'type',
  detail: `“${String(value)}” is no ${type}`,
})

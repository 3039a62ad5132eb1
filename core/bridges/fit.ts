import { moment } from '../messages/moment'
import { isPlainObject, jsonOf, textOf, type Carried } from '../messages/carried'

/** What a field of a destination can hold. */
export interface FieldType {
  /** As the destination calls it, as in numeric(8,4). */
  name: string
  holds: 'whole' | 'decimal' | 'float32' | 'float64' | 'text' | 'truth' | 'time' | 'date' | 'bytes' | 'json' | 'anything'
  /** Of whole numbers, both ends included. */
  low?: bigint
  high?: bigint
  /** Digits in all and behind the point, of decimals. */
  digits?: number
  decimals?: number
  /** Characters of text, bytes of bytes. */
  length?: number
  /** Whether it may be without a value. */
  nullable: boolean
}

/** How a value fits: as it is; changed, and into what; or not at all, and why. */
export type Fit =
  | { ok: true; value: Carried; how: 'exact' }
  | { ok: true; value: Carried; how: 'rounds' | 'cut'; text: string }
  | { ok: false; how: 'range' | 'type' | 'null'; text: string }

export type FitHow = Fit['how']

const exact = (value: Carried): Fit => ({ ok: true, value, how: 'exact' })
const wrong = (value: Carried, { name }: FieldType): Fit => ({ ok: false, how: 'type', text: `${shown(value)} is no ${name}` })
const beyond = (value: Carried, { name }: FieldType): Fit => ({
  ok: false,
  how: 'range',
  text: `${shown(value)} is out of range of ${name}`,
})

const mostShown = 40
const shown = (value: Carried): string => {
  const text = textOf(value)
  return text.length > mostShown ? `${text.slice(0, mostShown)}…` : text
}

/** Brings a value into a field, as far as that is possible; what is told here is what is sent. */
export const fitInto = (type: FieldType, value: Carried): Fit => {
  if (value === null || value === undefined)
    return type.nullable ? exact(null) : { ok: false, how: 'null', text: 'there is no value, and the field takes none without' }
  return fitters[type.holds](value, type)
}

type Fitter = (value: Carried, type: FieldType) => Fit

/** A number in any form that holds one; truths count as 1 and 0. */
const numberIn = (value: Carried): number | bigint | null => {
  if (typeof value === 'number' || typeof value === 'bigint') return value
  if (typeof value === 'boolean') return Number(value)
  if (typeof value !== 'string' || !/^\s*[+-]?(\d+\.?\d*|\.\d+)(e[+-]?\d+)?\s*$/i.test(value)) return null
  return /^\s*[+-]?\d+\s*$/.test(value) ? BigInt(value.trim().replace('+', '')) : Number(value)
}

const whole: Fitter = (value, type) => {
  const number = numberIn(value)
  if (number === null) return wrong(value, type)
  if (typeof number === 'number' && !Number.isFinite(number)) return beyond(value, type)
  const rounded = typeof number === 'bigint' ? number : BigInt(Math.round(number))
  if ((type.low !== undefined && rounded < type.low) || (type.high !== undefined && rounded > type.high)) return beyond(value, type)
  const isExact = typeof number === 'bigint' || Number.isInteger(number)
  return isExact ? exact(rounded) : { ok: true, value: rounded, how: 'rounds', text: `rounds ${shown(value)}` }
}

/** Decimals stay text, so that none of their digits goes by way of a double. */
const decimal: Fitter = (value, type) => {
  const number = numberIn(value)
  if (number === null) return wrong(value, type)
  if (typeof number === 'number' && !Number.isFinite(number)) return beyond(value, type)
  const text = typeof number === 'bigint' ? number.toString() : plainText(number)
  if (type.decimals === undefined) return exact(text)
  const rounded = roundedText(text, type.decimals)
  const wholeDigits = rounded.replace(/^-/, '').split('.')[0]!.replace(/^0+/, '').length
  if (type.digits !== undefined && wholeDigits > type.digits - type.decimals) return beyond(value, type)
  return isSameNumber(rounded, text) ? exact(rounded) : { ok: true, value: rounded, how: 'rounds', text: `rounds ${shown(value)}` }
}

/** A double in all of its digits, without an exponent. */
const plainText = (value: number): string => {
  const text = String(value)
  const match = /^(-?)(\d)(?:\.(\d+))?e([+-]\d+)$/.exec(text)
  if (!match) return text
  const [, sign, first, rest = '', exponent] = match
  const digits = `${first}${rest}`
  const at = 1 + Number(exponent)
  if (at <= 0) return `${sign}0.${'0'.repeat(-at)}${digits}`
  return `${sign}${digits.padEnd(at, '0').slice(0, at)}${digits.length > at ? `.${digits.slice(at)}` : ''}`
}

/** Rounds half away from zero, digit by digit. */
const roundedText = (text: string, decimals: number): string => {
  const sign = text.startsWith('-') ? '-' : ''
  const [before = '0', after = ''] = text.replace(/^-/, '').split('.')
  if (after.length <= decimals) return `${sign}${before}${decimals > 0 ? `.${after.padEnd(decimals, '0')}` : ''}`
  const kept = BigInt(`${before}${after.slice(0, decimals)}`) + (after[decimals]! >= '5' ? 1n : 0n)
  const digits = kept.toString().padStart(decimals + 1, '0')
  const cut = digits.length - decimals
  return `${sign}${digits.slice(0, cut)}${decimals > 0 ? `.${digits.slice(cut)}` : ''}`
}

const isSameNumber = (a: string, b: string) =>
  a.replace(/\.?0*$/, '') === b.replace(/(\.\d*?)0*$/, '$1').replace(/\.$/, '') || Number(a) === Number(b)

const float64: Fitter = (value, type) => {
  const number = numberIn(value)
  if (number === null) return wrong(value, type)
  const double = Number(number)
  if (typeof number === 'bigint' && BigInt(double) !== number)
    return { ok: true, value: double, how: 'rounds', text: `rounds ${shown(value)}` }
  return exact(double)
}

/** A float32 keeps about seven digits: what differs only beyond them is what it is there for. */
const float32: Fitter = (value, type) => {
  const wide = float64(value, type)
  if (!wide.ok) return wide
  const double = wide.value as number
  const single = Math.fround(double)
  if (Number.isFinite(double) && !Number.isFinite(single)) return beyond(value, type)
  if (wide.how !== 'exact' || (Number.isInteger(double) && single !== double))
    return { ok: true, value: single, how: 'rounds', text: `rounds ${shown(value)}` }
  return exact(double)
}

const text: Fitter = (value, type) => {
  const whole = textOf(value)
  if (type.length === undefined || whole.length <= type.length) return exact(whole)
  const characters = Array.from(whole)
  if (characters.length <= type.length) return exact(whole)
  return { ok: true, value: characters.slice(0, type.length).join(''), how: 'cut', text: `cut off after ${type.length} characters` }
}

const truths: Record<string, boolean> = { true: true, false: false, '1': true, '0': false }

const truth: Fitter = (value, type) => {
  if (typeof value === 'boolean') return exact(value)
  const known = truths[textOf(value).trim().toLowerCase()]
  return known === undefined ? wrong(value, type) : exact(known)
}

/** ISO 8601, in UTC where it names no zone; Unix seconds or milliseconds, which their size tells apart. */
const timeIn = (value: Carried): Date | null => {
  if (value instanceof Date) return Number.isNaN(value.getTime()) ? null : value
  const time = moment(typeof value === 'bigint' ? Number(value) : value)
  return time === null ? null : new Date(time)
}

const time: Fitter = (value, type) => {
  const moment = timeIn(value)
  return moment ? exact(moment) : wrong(value, type)
}

const date: Fitter = (value, type) => {
  const moment = timeIn(value)
  if (!moment) return wrong(value, type)
  const day = moment.toISOString().slice(0, 10)
  return typeof value === 'string' && value.trim() === day ? exact(day) : { ok: true, value: day, how: 'cut', text: 'the day alone (UTC)' }
}

const bytes: Fitter = (value, type) => {
  const given = value instanceof Uint8Array ? value : typeof value === 'string' ? new TextEncoder().encode(value) : null
  if (!given) return wrong(value, type)
  if (type.length === undefined || given.length <= type.length) return exact(given)
  return { ok: true, value: given.slice(0, type.length), how: 'cut', text: `cut off after ${type.length} bytes` }
}

/** Text that is JSON already is taken as such; all else becomes JSON. */
const json: Fitter = (value) => {
  if (typeof value === 'string' && isJson(value)) return exact(value)
  return exact(jsonOf(value))
}

const isJson = (value: string) => {
  try {
    JSON.parse(value)
    return true
  } catch {
    return false
  }
}

const fitters: Record<FieldType['holds'], Fitter> = {
  ...{ whole, decimal, float32, float64, text, truth, time, date, bytes, json },
  anything: (value) => exact(value),
}

/** Whether a value has parts, so that only text or JSON can hold it. */
export const hasParts = (value: Carried) => Array.isArray(value) || isPlainObject(value)

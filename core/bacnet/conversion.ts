import { elementOf, integerRanges, isArrayType, type DataType, type ScalarType, type ScalarValue, type TagValue } from '../tags/types'
import type { AppValue, CalendarDate, ClockTime } from './appValue'
import { objectText } from './address'
import type { AppTagName } from './tagged'

/** What came of values of the wire: a value of the tag's type, none at all, or one that the type does not hold. */
export type Converted = { ok: true; value: TagValue } | { ok: false; why: 'none' | 'type'; text: string }

/** Reads what a device sent as a value of this type. */
export const toTag = (values: readonly AppValue[], type: DataType): Converted => {
  if (isArrayType(type)) return toArray(values, elementOf(type))
  if (type === 'datetime') return toMoment(values)
  const [value] = values
  if (value === undefined) return { ok: false, why: 'none', text: 'nothing' }
  if (values.length > 1) return { ok: false, why: 'type', text: 'several values, where one is read' }
  return toScalar(value, type)
}

const toArray = (values: readonly AppValue[], element: ScalarType): Converted => {
  const only = values.length === 1 ? values[0] : undefined
  if (only?.tag === 'bits') return element === 'bool' ? { ok: true, value: only.value } : wrong(only)
  const elements: ScalarValue[] = []
  for (const value of values) {
    const one = toScalar(value, element)
    if (!one.ok) return one
    elements.push(one.value as ScalarValue)
  }
  return { ok: true, value: elements }
}

const toScalar = (value: AppValue, type: ScalarType): Converted => {
  if (value.tag === 'null') return { ok: false, why: 'none', text: 'null: nobody holds it' }
  if (type === 'string') return { ok: true, value: appText(value) }
  if (value.tag === 'boolean') return type === 'bool' ? { ok: true, value: value.value } : wrong(value)
  if (value.tag !== 'unsigned' && value.tag !== 'signed' && value.tag !== 'enumerated' && value.tag !== 'real' && value.tag !== 'double')
    return wrong(value)
  return toNumber(value, type)
}

const toNumber = (value: AppValue & { value: number | bigint }, type: ScalarType): Converted => {
  const number = value.value
  if (type === 'bool') return number === 0 || number === 1 ? { ok: true, value: number === 1 } : wrong(value)
  if (type === 'float32' || type === 'float64') return { ok: true, value: Number(number) }
  const range = integerRanges[type]
  const isWhole = typeof number === 'bigint' || Number.isInteger(number)
  if (!range || !isWhole || BigInt(number) < range.low || BigInt(number) > range.high) return wrong(value)
  return { ok: true, value: type === 'int64' || type === 'uint64' ? BigInt(number) : Number(number) }
}

/** Times of a device have no zone, and are taken as UTC. */
const toMoment = (values: readonly AppValue[]): Converted => {
  const [date, time] = values
  if (date?.tag !== 'date' || values.length > 2 || (time && time.tag !== 'time')) return wrong(date)
  const { year, month, day } = date.value
  if (year === null || month === null || day === null) return { ok: false, why: 'none', text: 'a date that leaves something open' }
  const { hour, minute, second, hundredths } = time?.value ?? { hour: 0, minute: 0, second: 0, hundredths: 0 }
  return { ok: true, value: Date.UTC(year, month - 1, day, hour ?? 0, minute ?? 0, second ?? 0, 10 * (hundredths ?? 0)) }
}

const wrong = (value: AppValue | undefined): Converted => ({
  ok: false,
  why: 'type',
  text: value ? `${value.tag} ${appText(value)}` : 'nothing',
})

/** A value as a person reads it. */
export const appText = (value: AppValue): string => {
  switch (value.tag) {
    case 'null':
      return 'null'
    case 'text':
      return value.value
    case 'octets':
    case 'constructed':
      return value.value.toString('hex')
    case 'bits':
      return value.value.map((on) => (on ? '1' : '0')).join('')
    case 'object':
      return objectText(value.value)
    case 'date':
      return dateText(value.value)
    case 'time':
      return timeText(value.value)
    default:
      return String(value.value)
  }
}

const two = (part: number | null) => (part === null ? '*' : String(part).padStart(2, '0'))
const dateText = ({ year, month, day }: CalendarDate) => `${year ?? '*'}-${two(month)}-${two(day)}`
const timeText = ({ hour, minute, second, hundredths }: ClockTime) =>
  `${two(hour)}:${two(minute)}:${two(second)}${hundredths ? `.${two(hundredths)}` : ''}`

/** What is written for a tag's value: as the property has it on the wire. Throws a RangeError where that does not hold it. */
export const toApp = (value: TagValue, tag: AppTagName): AppValue[] => {
  if (Array.isArray(value)) {
    if (tag === 'bits') return [{ tag, value: (value as readonly ScalarValue[]).map(Boolean) }]
    return (value as readonly ScalarValue[]).map((one) => scalarToApp(one, tag))
  }
  if (typeof value === 'number' && tag === 'date') return momentToApp(value)
  return [scalarToApp(value as ScalarValue, tag)]
}

const scalarToApp = (value: ScalarValue, tag: AppTagName): AppValue => {
  const made = makers[tag]
  if (!made) throw new RangeError(`a ${tag} cannot be written from a tag`)
  return made(value)
}

const makers: Partial<Record<AppTagName, (value: ScalarValue) => AppValue>> = {
  real: (value) => {
    const number = Number(value)
    if (Number.isFinite(number) && !Number.isFinite(Math.fround(number))) throw new RangeError('a real number of 32 bits does not hold it')
    return { tag: 'real', value: number }
  },
  double: (value) => ({ tag: 'double', value: Number(value) }),
  boolean: (value) => ({ tag: 'boolean', value: Number(value) !== 0 }),
  unsigned: (value) => ({ tag: 'unsigned', value: notNegative(whole(value)) }),
  signed: (value) => ({ tag: 'signed', value: whole(value) }),
  enumerated: (value) => ({ tag: 'enumerated', value: Number(notNegative(whole(value))) }),
  text: (value) => ({ tag: 'text', value: String(value) }),
  octets: (value) => ({ tag: 'octets', value: octetsOf(String(value)) }),
  date: (value) => ({ tag: 'date', value: dateIn(String(value)) }),
  time: (value) => ({ tag: 'time', value: timeIn(String(value)) }),
}

const whole = (value: ScalarValue): number | bigint => {
  const number = typeof value === 'bigint' ? value : Number(value)
  if (typeof number === 'number' && !Number.isSafeInteger(number)) throw new RangeError('a whole number is wanted')
  return number
}

const notNegative = (number: number | bigint) => {
  if (number < 0) throw new RangeError('it cannot be negative')
  return number
}

const octetsOf = (text: string) => {
  if (!/^([0-9a-f]{2})*$/i.test(text)) throw new RangeError('octets are written in hex, as in 0a1f')
  return Buffer.from(text, 'hex')
}

const dateIn = (text: string): CalendarDate => {
  const found = /^(\d{4})-(\d{2})-(\d{2})$/.exec(text)
  if (!found || Number(found[1]) < 1900 || Number(found[1]) > 2154) throw new RangeError('a date is written as 2026-11-27')
  return { year: Number(found[1]), month: Number(found[2]), day: Number(found[3]) }
}

const timeIn = (text: string): ClockTime => {
  const found = /^(\d{2}):(\d{2}):(\d{2})(?:\.(\d{2}))?$/.exec(text)
  if (!found) throw new RangeError('a time is written as 07:30:00')
  return { hour: Number(found[1]), minute: Number(found[2]), second: Number(found[3]), hundredths: Number(found[4] ?? 0) }
}

const momentToApp = (ms: number): AppValue[] => {
  const at = new Date(ms)
  return [
    { tag: 'date', value: { year: at.getUTCFullYear(), month: at.getUTCMonth() + 1, day: at.getUTCDate() } },
    {
      tag: 'time',
      value: {
        hour: at.getUTCHours(),
        minute: at.getUTCMinutes(),
        second: at.getUTCSeconds(),
        hundredths: Math.floor(at.getUTCMilliseconds() / 10),
      },
    },
  ]
}

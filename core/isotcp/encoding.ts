import type { NumericType, ScalarValue, TagValue } from '../tags/types'
import { isArrayValue } from '../tags/types'
import { bytesOf, elementBytes, type ByteOrder, type IsoLayout } from './layout'

/** What is written: bytes from so many behind the beginning of the point on. */
export interface Written {
  skip: number
  bytes: Buffer
}

/**
 * The bytes that carry a value, which must already fit its type. Of a text with lengths the most there is room for is left
 * as the controller has it. Throws RangeError where a text is too long, a time is none of this form, or an array has other elements.
 */
export const encodeValue = (value: TagValue, layout: IsoLayout): Written => {
  if (isArrayValue(value)) return encodeArray(value, layout)
  if (layout.type === 'string') return encodeText(String(value), layout)
  const bytes = Buffer.alloc(bytesOf({ ...layout, count: 0 }))
  writeOne(bytes, 0, value, layout)
  return { skip: 0, bytes }
}

const encodeArray = (values: readonly ScalarValue[], layout: IsoLayout): Written => {
  if (values.length !== layout.count) throw new RangeError(`it has ${values.length} elements, and the place has ${layout.count}`)
  const width = elementBytes(layout)
  const bytes = Buffer.alloc(width * values.length)
  for (const [i, value] of values.entries()) writeOne(bytes, i * width, value, layout)
  return { skip: 0, bytes }
}

const encodeText = (text: string, { form, length }: IsoLayout): Written => {
  const room = (count: number) => {
    if (count > length) throw new RangeError(`“${text}” has ${count} characters, and there is room for ${length}`)
  }
  if (form === 'wide') {
    room(text.length)
    const chars = Buffer.from(text, 'utf16le').swap16()
    return { skip: 2, bytes: Buffer.concat([Buffer.from([text.length >> 8, text.length & 0xff]), chars]) }
  }
  const beyond = [...text].find((letter) => letter.codePointAt(0)! > 0xff)
  if (beyond !== undefined) throw new RangeError(`“${beyond}” is no character of one byte (ISO 8859-1)`)
  room(text.length)
  const chars = Buffer.from(text, 'latin1')
  if (form !== 'chars') return { skip: 1, bytes: Buffer.concat([Buffer.from([chars.length]), chars]) }
  const padded = Buffer.alloc(length, 0x20)
  chars.copy(padded)
  return { skip: 0, bytes: padded }
}

type Write = (into: Buffer, at: number, value: ScalarValue) => void

const writeOne = (into: Buffer, at: number, value: ScalarValue, { type, order, form }: IsoLayout) => {
  if (form === 'digits') into.writeUInt16BE(digitsOf(Number(value)), at)
  else if (form === 'timer') into.writeUInt16BE(timerWord(Number(value)), at)
  else if (type === 'datetime') writeTime(into, at, Number(value), form)
  else if (type === 'bool' || type === 'string') throw new RangeError(`a ${type} is not written so`)
  else numbers[order][type](into, at, value)
}

const one: Record<'uint8' | 'int8', Write> = {
  uint8: (b, at, value) => b.writeUInt8(Number(value), at),
  int8: (b, at, value) => b.writeInt8(Number(value), at),
}

const numbers: Record<ByteOrder, Record<NumericType, Write>> = {
  big: {
    ...one,
    uint16: (b, at, value) => b.writeUInt16BE(Number(value), at),
    int16: (b, at, value) => b.writeInt16BE(Number(value), at),
    uint32: (b, at, value) => b.writeUInt32BE(Number(value), at),
    int32: (b, at, value) => b.writeInt32BE(Number(value), at),
    uint64: (b, at, value) => b.writeBigUInt64BE(BigInt(value), at),
    int64: (b, at, value) => b.writeBigInt64BE(BigInt(value), at),
    float32: (b, at, value) => b.writeFloatBE(Number(value), at),
    float64: (b, at, value) => b.writeDoubleBE(Number(value), at),
  },
  little: {
    ...one,
    uint16: (b, at, value) => b.writeUInt16LE(Number(value), at),
    int16: (b, at, value) => b.writeInt16LE(Number(value), at),
    uint32: (b, at, value) => b.writeUInt32LE(Number(value), at),
    int32: (b, at, value) => b.writeInt32LE(Number(value), at),
    uint64: (b, at, value) => b.writeBigUInt64LE(BigInt(value), at),
    int64: (b, at, value) => b.writeBigInt64LE(BigInt(value), at),
    float32: (b, at, value) => b.writeFloatLE(Number(value), at),
    float64: (b, at, value) => b.writeDoubleLE(Number(value), at),
  },
}

const firstDay = Date.UTC(1990, 0, 1)
const bcd = (number: number) => (Math.floor(number / 10) << 4) | (number % 10)

const writeTime = (into: Buffer, at: number, time: number, form: IsoLayout['form']) => {
  const date = new Date(time)
  const year = date.getUTCFullYear()
  const outside = (from: number, to: number) => {
    if (!(year >= from && year <= to)) throw new RangeError(`it is not between ${from} and ${to}`)
  }
  const parts = [date.getUTCMonth() + 1, date.getUTCDate(), date.getUTCHours(), date.getUTCMinutes(), date.getUTCSeconds()]
  if (form === 'days') {
    outside(1990, 2168)
    return into.writeUInt16BE(Math.floor((time - firstDay) / 86_400_000), at)
  }
  if (form === 'nanos') return into.writeBigInt64BE(BigInt(Math.round(time)) * 1_000_000n, at)
  if (form === 'fields') {
    outside(1970, 2554)
    into.writeUInt16BE(year, at)
    into.set([parts[0]!, parts[1]!, date.getUTCDay() + 1, ...parts.slice(2)], at + 2)
    return into.writeUInt32BE(date.getUTCMilliseconds() * 1_000_000, at + 8)
  }
  outside(1990, 2089)
  const ms = date.getUTCMilliseconds()
  into.set([bcd(year % 100), ...parts.map(bcd), bcd(Math.floor(ms / 10)), ((ms % 10) << 4) | (date.getUTCDay() + 1)], at)
}

const digitsOf = (number: number) => {
  if (!Number.isInteger(number) || number < 0 || number > 999) throw new RangeError('it is no whole number from 0 to 999')
  return (Math.floor(number / 100) << 8) | bcd(number % 100)
}

/** The finest time base in which it has three digits. */
const timerWord = (ms: number) => {
  for (let base = 0; base <= 3; base++) {
    const count = ms / 10 ** (base + 1)
    if (count <= 999) return (base << 12) | digitsOf(Math.round(count))
  }
  throw new RangeError('it is longer than a timer takes, 9,990 s')
}

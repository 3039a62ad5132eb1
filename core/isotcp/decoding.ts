import type { NumericType, ScalarValue, TagValue } from '../tags/types'
import { elementBytes, type ByteOrder, type IsoLayout } from './layout'

export type Decoder = (bytes: Buffer, at: number) => TagValue
type One = (bytes: Buffer, at: number) => ScalarValue

/** Builds the function that takes a value out of bytes: `at` is the index of its first byte. */
export const decoderFor = (layout: IsoLayout): Decoder => {
  const { count, type, bit } = layout
  if (type === 'bool') return count > 0 ? bits(bit ?? 0, count) : oneBit(bit ?? 0)
  const one = elementDecoder(layout)
  if (count === 0) return one
  const width = elementBytes(layout)
  return (bytes, at) => Array.from({ length: count }, (_, i) => one(bytes, at + i * width))
}

const oneBit =
  (bit: number): One =>
  (bytes, at) =>
    ((bytes[at]! >> bit) & 1) === 1

const bits =
  (first: number, count: number): Decoder =>
  (bytes, at) =>
    Array.from({ length: count }, (_, i) => ((bytes[at + ((first + i) >> 3)]! >> ((first + i) & 7)) & 1) === 1)

const elementDecoder = ({ type, form, order, length }: IsoLayout): One => {
  if (form === 'timer') return (bytes, at) => timerMs(bytes.readUInt16BE(at))
  if (form === 'digits') return (bytes, at) => threeDigits(bytes.readUInt16BE(at))
  if (type === 'string') return textDecoders[form === 'wide' || form === 'chars' ? form : 'counted'](length)
  if (type === 'datetime') return timeDecoders[form === 'fields' || form === 'days' || form === 'nanos' ? form : 'bcd8']
  return numbers[order][type as NumericType]
}

const numbers: Record<ByteOrder, Record<NumericType, One>> = {
  big: {
    uint8: (b, at) => b.readUInt8(at),
    int8: (b, at) => b.readInt8(at),
    uint16: (b, at) => b.readUInt16BE(at),
    int16: (b, at) => b.readInt16BE(at),
    uint32: (b, at) => b.readUInt32BE(at),
    int32: (b, at) => b.readInt32BE(at),
    uint64: (b, at) => b.readBigUInt64BE(at),
    int64: (b, at) => b.readBigInt64BE(at),
    float32: (b, at) => b.readFloatBE(at),
    float64: (b, at) => b.readDoubleBE(at),
  },
  little: {
    uint8: (b, at) => b.readUInt8(at),
    int8: (b, at) => b.readInt8(at),
    uint16: (b, at) => b.readUInt16LE(at),
    int16: (b, at) => b.readInt16LE(at),
    uint32: (b, at) => b.readUInt32LE(at),
    int32: (b, at) => b.readInt32LE(at),
    uint64: (b, at) => b.readBigUInt64LE(at),
    int64: (b, at) => b.readBigInt64LE(at),
    float32: (b, at) => b.readFloatLE(at),
    float64: (b, at) => b.readDoubleLE(at),
  },
}

/** A present length beyond the room there is comes from a controller that never set it: what there is room for is shown. */
const textDecoders: Record<'counted' | 'wide' | 'chars', (length: number) => One> = {
  counted: (length) => (b, at) => b.toString('latin1', at + 2, at + 2 + Math.min(b[at + 1]!, length)),
  wide: (length) => (b, at) => {
    const text = Buffer.from(b.subarray(at + 4, at + 4 + 2 * Math.min(b.readUInt16BE(at + 2), length)))
    return text.swap16().toString('utf16le')
  },
  chars: (length) => (b, at) => {
    const text = b.toString('latin1', at, at + length)
    const end = text.indexOf('\0')
    return (end < 0 ? text : text.slice(0, end)).trimEnd()
  },
}

const firstDay = Date.UTC(1990, 0, 1)
const dayMs = 86_400_000
const digitsIn = (byte: number) => (byte >> 4) * 10 + (byte & 0x0f)
const isDigits = (byte: number) => byte >> 4 < 10 && (byte & 0x0f) < 10

/** Controllers know no zone: what they show is taken as UTC. A date that is none is NaN, and no time. */
const timeDecoders: Record<'bcd8' | 'fields' | 'days' | 'nanos', One> = {
  bcd8: (b, at) => {
    for (let i = 0; i < 7; i++) if (!isDigits(b[at + i]!)) return NaN
    const year = digitsIn(b[at]!)
    const [month, day] = [digitsIn(b[at + 1]!), digitsIn(b[at + 2]!)]
    const ms = digitsIn(b[at + 6]!) * 10 + (b[at + 7]! >> 4)
    return momentOf(
      year < 90 ? 2000 + year : 1900 + year,
      month,
      day,
      [digitsIn(b[at + 3]!), digitsIn(b[at + 4]!), digitsIn(b[at + 5]!)],
      ms,
    )
  },
  fields: (b, at) =>
    momentOf(b.readUInt16BE(at), b[at + 2]!, b[at + 3]!, [b[at + 5]!, b[at + 6]!, b[at + 7]!], Math.floor(b.readUInt32BE(at + 8) / 1e6)),
  days: (b, at) => firstDay + b.readUInt16BE(at) * dayMs,
  nanos: (b, at) => Number(b.readBigInt64BE(at) / 1_000_000n),
}

const momentOf = (year: number, month: number, day: number, [h, min, s]: [number, number, number], ms: number): number => {
  const at = Date.UTC(year, month - 1, day, h, min, s, ms)
  const date = new Date(at)
  const isSame =
    date.getUTCFullYear() === year && date.getUTCMonth() === month - 1 && date.getUTCDate() === day && h < 24 && min < 60 && s < 60
  return isSame ? at : NaN
}

/** Three digits below a time base of 10 ms, 100 ms, 1 s or 10 s. NaN: they are no digits. */
const timerMs = (word: number): number => threeDigits(word & 0x0fff) * 10 ** (1 + ((word >> 12) & 3))

const threeDigits = (word: number): number => {
  const [hundreds, tens, ones] = [(word >> 8) & 0x0f, (word >> 4) & 0x0f, word & 0x0f]
  return hundreds > 9 || tens > 9 || ones > 9 ? NaN : hundreds * 100 + tens * 10 + ones
}

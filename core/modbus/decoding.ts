import type { ScalarValue } from '../tags/types'
import { fromBcd, toBcd, type BcdType } from './bcd'
import { registersByType, type Layout, type ModbusType, type WordOrder } from './layout'

const reversesWords = (order: WordOrder) => order === 'CDAB' || order === 'DCBA'
const swapsBytes = (order: WordOrder) => order === 'BADC' || order === 'DCBA'

export type Decoder = (bytes: Buffer, at: number) => ScalarValue

/** Builds the function that takes a value out of a reply: `at` is the byte index of its first register. */
export const decoderFor = (layout: Layout): Decoder => {
  const { type, order, bit, length } = layout
  if (type === 'bool') return decodeBit(bit ?? 0)
  if (type === 'string') return (bytes, at) => decodeString(bytes, at, length, swapsBytes(order))
  const number = numberDecoder(type, order)
  return layout.isBcd ? (bytes, at) => fromBcd(number(bytes, at) as number) : number
}

const decodeBit =
  (bit: number): Decoder =>
  (bytes, at) =>
    ((bytes.readUInt16BE(at) >>> bit) & 1) === 1

const bigEndian: Record<Exclude<ModbusType, 'bool' | 'string'>, Decoder> = {
  int16: (b, at) => b.readInt16BE(at),
  uint16: (b, at) => b.readUInt16BE(at),
  int32: (b, at) => b.readInt32BE(at),
  uint32: (b, at) => b.readUInt32BE(at),
  int64: (b, at) => b.readBigInt64BE(at),
  uint64: (b, at) => b.readBigUInt64BE(at),
  float32: (b, at) => b.readFloatBE(at),
  float64: (b, at) => b.readDoubleBE(at),
}

const littleEndian: Record<Exclude<ModbusType, 'bool' | 'string'>, Decoder> = {
  int16: (b, at) => b.readInt16LE(at),
  uint16: (b, at) => b.readUInt16LE(at),
  int32: (b, at) => b.readInt32LE(at),
  uint32: (b, at) => b.readUInt32LE(at),
  int64: (b, at) => b.readBigInt64LE(at),
  uint64: (b, at) => b.readBigUInt64LE(at),
  float32: (b, at) => b.readFloatLE(at),
  float64: (b, at) => b.readDoubleLE(at),
}

const numberDecoder = (type: Exclude<ModbusType, 'bool' | 'string'>, order: WordOrder): Decoder => {
  if (order === 'ABCD') return bigEndian[type]
  if (order === 'DCBA') return littleEndian[type]
  const registers = registersByType[type]
  const read = bigEndian[type]
  return (bytes, at) => read(straighten(bytes, at, registers, order), 0)
}

const scratch = Buffer.alloc(8)

/** Copies registers into most-significant-first order. The buffer is reused by the next call. */
const straighten = (bytes: Buffer, at: number, registers: number, order: WordOrder): Buffer => {
  const reversed = reversesWords(order)
  const swapped = swapsBytes(order) ? 1 : 0
  for (let i = 0; i < registers; i++) {
    const from = at + 2 * (reversed ? registers - 1 - i : i)
    scratch[2 * i] = bytes[from + swapped]!
    scratch[2 * i + 1] = bytes[from + 1 - swapped]!
  }
  return scratch
}

/** Text ends at the first zero byte; the spaces that devices pad with are dropped. */
const decodeString = (bytes: Buffer, at: number, length: number, swapped: boolean): string => {
  const text = Buffer.from(bytes.subarray(at, at + 2 * Math.ceil(length / 2)))
  if (swapped) text.swap16()
  const cut = text.subarray(0, length)
  const end = cut.indexOf(0)
  return cut
    .subarray(0, end < 0 ? length : end)
    .toString('utf8')
    .trimEnd()
}

/**
 * The registers that carry a value, first register first, ready for functions 6 and 16.
 * The value must already fit its type (`toRaw`). A text longer than its field, or more digits than BCD has, throws RangeError.
 */
export const encodeRegisters = (value: ScalarValue, layout: Layout): number[] => {
  const { type, order, length, isBcd } = layout
  if (type === 'string') return encodeString(String(value), length, swapsBytes(order))
  const registers = type === 'bool' ? 1 : registersByType[type]
  const straight = Buffer.alloc(2 * registers)
  writeNumber(straight, type, isBcd ? toBcd(Number(value), type as BcdType) : value)
  const inOrder = Buffer.from(straighten(straight, 0, registers, order).subarray(0, 2 * registers))
  return toWords(inOrder)
}

const writeNumber = (into: Buffer, type: Exclude<ModbusType, 'string'>, value: ScalarValue) => {
  switch (type) {
    case 'bool':
      return into.writeUInt16BE(value ? 1 : 0)
    case 'int16':
      return into.writeInt16BE(Number(value))
    case 'uint16':
      return into.writeUInt16BE(Number(value))
    case 'int32':
      return into.writeInt32BE(Number(value))
    case 'uint32':
      return into.writeUInt32BE(Number(value))
    case 'int64':
      return into.writeBigInt64BE(BigInt(value))
    case 'uint64':
      return into.writeBigUInt64BE(BigInt(value))
    case 'float32':
      return into.writeFloatBE(Number(value))
    case 'float64':
      return into.writeDoubleBE(Number(value))
  }
}

const encodeString = (text: string, length: number, swapped: boolean): number[] => {
  const bytes = Buffer.from(text, 'utf8')
  if (bytes.length > length) throw new RangeError(`“${text}” is ${bytes.length} bytes and the field holds ${length}`)
  const padded = Buffer.alloc(2 * Math.ceil(length / 2))
  bytes.copy(padded)
  if (swapped) padded.swap16()
  return toWords(padded)
}

const toWords = (bytes: Buffer): number[] => {
  const words: number[] = []
  for (let at = 0; at < bytes.length; at += 2) words.push(bytes.readUInt16BE(at))
  return words
}

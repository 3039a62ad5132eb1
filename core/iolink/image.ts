import type { DataRecord, Item, SimpleType } from './description/description'

/** A value in an image: a number, a 64-bit one, yes or no, or letters. */
export type Raw = number | bigint | boolean | string

/** Bytes that a record takes: it ends with the last bit of the last of them. */
export const bytesOf = ({ bits }: Pick<DataRecord, 'bits'>) => Math.ceil(bits / 8)

/** Builds what reads one item of an image of so many bytes. On the hot path: nothing is looked up any more when it runs. */
export const itemReader = ({ bitOffset, type }: Pick<Item, 'bitOffset' | 'type'>, bytes: number): ((image: Uint8Array) => Raw) => {
  const last = bytes - 1 - (bitOffset >> 3)
  const shift = bitOffset & 7
  const { bits } = type
  switch (type.kind) {
    case 'bool': {
      const mask = 1 << shift
      return (image) => (image[last]! & mask) !== 0
    }
    case 'uint':
      return bits + shift <= 32 ? unsignedReader(last, shift, bits) : wideReader(bitOffset, bits, bytes, false)
    case 'int': {
      if (bits + shift > 32) return wideReader(bitOffset, bits, bytes, true)
      const unsigned = unsignedReader(last, shift, bits)
      const [half, whole] = [2 ** (bits - 1), 2 ** bits]
      return (image) => {
        const value = unsigned(image)
        return value >= half ? value - whole : value
      }
    }
    case 'float':
      return floatReader(bitOffset, bytes)
    default:
      return textReader(bitOffset, type, bytes)
  }
}

const unsignedReader = (last: number, shift: number, bits: number): ((image: Uint8Array) => number) => {
  const mask = bits === 32 ? 0xffffffff : 2 ** bits - 1
  if (bits + shift <= 8) return (image) => (image[last]! >> shift) & mask
  if (bits + shift <= 16) return (image) => (((image[last - 1]! << 8) | image[last]!) >> shift) & mask
  const first = last - Math.ceil((bits + shift) / 8) + 1
  return (image) => {
    let value = 0
    for (let at = first; at <= last; at++) value = value * 256 + image[at]!
    return bits === 32 ? value >>> 0 : ((value / 2 ** shift) >>> 0) & mask
  }
}

/** More than 32 bits, or across more than four bytes. */
const wideReader =
  (bitOffset: number, bits: number, bytes: number, isSigned: boolean) =>
  (image: Uint8Array): number | bigint => {
    const value = bitsIn(image, bitOffset, bits, bytes)
    const wide = isSigned ? BigInt.asIntN(bits, value) : value
    return bits > 32 ? wide : Number(wide)
  }

const bitsIn = (image: Uint8Array, bitOffset: number, bits: number, bytes: number): bigint => {
  let value = 0n
  const last = bytes - 1 - (bitOffset >> 3)
  const first = Math.max(0, last - Math.ceil((bits + (bitOffset & 7)) / 8) + 1)
  for (let at = first; at <= last; at++) value = (value << 8n) | BigInt(image[at]!)
  return BigInt.asUintN(bits, value >> BigInt(bitOffset & 7))
}

const floatReader = (bitOffset: number, bytes: number) => {
  const view = new DataView(new ArrayBuffer(4))
  const first = bytes - 4 - (bitOffset >> 3)
  return (image: Uint8Array): number => {
    if ((bitOffset & 7) === 0) for (let i = 0; i < 4; i++) view.setUint8(i, image[first + i]!)
    else view.setUint32(0, Number(bitsIn(image, bitOffset, 32, bytes)))
    return view.getFloat32(0)
  }
}

const textReader = (bitOffset: number, { kind, bits }: SimpleType, bytes: number) => {
  const length = bits >> 3
  const first = bytes - length - (bitOffset >> 3)
  const decoder = new TextDecoder('utf-8')
  return (image: Uint8Array): string => {
    const own = image.subarray(first, first + length)
    if (kind !== 'text') return Array.from(own, (byte) => byte.toString(16).padStart(2, '0')).join('')
    const end = own.indexOf(0)
    return decoder.decode(end < 0 ? own : own.subarray(0, end))
  }
}

/** Reads a whole image; values in the order of the items. */
export const imageReader = (record: DataRecord): ((image: Uint8Array, into: Raw[]) => void) => {
  const readers = record.items.map((item) => itemReader(item, bytesOf(record)))
  return (image, into) => {
    for (let i = 0; i < readers.length; i++) into[i] = readers[i]!(image)
  }
}

/** Puts a value into an image, and leaves all other bits as they are. Throws a RangeError where the item does not hold it. */
export const putItem = ({ bitOffset, type }: Pick<Item, 'bitOffset' | 'type'>, value: Raw, image: Uint8Array) => {
  const bits = BigInt(type.bits)
  const raw = rawBits(type, value)
  const mask = (1n << bits) - 1n
  for (let i = 0n; i < bits; i++) {
    const at = bitOffset + Number(i)
    const byte = image.length - 1 - (at >> 3)
    const one = 1 << (at & 7)
    image[byte] = ((raw & mask) >> i) & 1n ? image[byte]! | one : image[byte]! & ~one
  }
}

const rawBits = ({ kind, bits }: SimpleType, value: Raw): bigint => {
  switch (kind) {
    case 'bool':
      return value === true || value === 1 ? 1n : 0n
    case 'float': {
      const view = new DataView(new ArrayBuffer(4))
      view.setFloat32(0, Number(value))
      return BigInt(view.getUint32(0))
    }
    case 'text':
    case 'octets':
    case 'time':
    case 'span':
      return textBits(kind, bits, String(value))
    default:
      return wholeBits(kind, bits, value)
  }
}

const wholeBits = (kind: 'uint' | 'int', bits: number, value: Raw): bigint => {
  const number = Number(value)
  if (typeof value !== 'bigint' && !Number.isInteger(number)) throw new RangeError('a whole number is wanted')
  const whole = typeof value === 'bigint' ? value : BigInt(number)
  const [low, high] = kind === 'int' ? [-(1n << BigInt(bits - 1)), (1n << BigInt(bits - 1)) - 1n] : [0n, (1n << BigInt(bits)) - 1n]
  if (whole < low || whole > high) throw new RangeError(`it holds ${low} to ${high}`)
  return BigInt.asUintN(bits, whole)
}

const textBits = (kind: SimpleType['kind'], bits: number, text: string): bigint => {
  const bytes = kind === 'text' ? new TextEncoder().encode(text) : hexBytes(text)
  if (bytes.length > bits >> 3) throw new RangeError(`it holds ${bits >> 3} bytes`)
  const whole = new Uint8Array(bits >> 3)
  whole.set(bytes)
  return whole.reduce((value, byte) => (value << 8n) | BigInt(byte), 0n)
}

const hexBytes = (text: string): Uint8Array => {
  if (!/^([0-9a-f]{2})*$/i.test(text)) throw new RangeError('octets are written in hex, as in 0a1f')
  return Uint8Array.from(text.match(/../g) ?? [], (pair) => parseInt(pair, 16))
}

import { z } from 'zod'
import { elementOf, isArrayType, isArrayValue, type DataType, type ScalarValue, type TagValue } from '../tags/types'

/** Values that lie in a payload as bytes, without a form that says so. */
export const layoutContract = z.object({
  at: z.int({ error: 'A place is a whole number.' }).min(0, 'The first byte is 0.').max(1_000_000).default(0),
  order: z.enum(['big', 'little']).default('big').describe('Which byte of a number comes first: the one that counts most, or least.'),
  bit: z.int().min(0, 'A bit is 0 to 7.').max(7, 'A bit is 0 to 7.').optional().describe('Of truths; left out: whether the byte is not 0.'),
  length: z.int().min(1).max(1_000_000).optional().describe('Of text, bytes; left out: to its end.'),
})
export type Layout = z.output<typeof layoutContract>

type Read = { ok: true; value: TagValue } | { ok: false; problem: string }

interface Form {
  size: number
  get(view: DataView, at: number, little: boolean): ScalarValue
  set(view: DataView, at: number, value: ScalarValue, little: boolean): void
}

const number = (
  size: number,
  get: 'getInt8' | 'getUint8' | 'getInt16' | 'getUint16' | 'getInt32' | 'getUint32' | 'getFloat32' | 'getFloat64',
): Form => ({
  size,
  get: (view, at, little) => view[get](at, little),
  set: (view, at, value, little) => view[get.replace('get', 'set') as 'setInt32'](at, Number(value), little),
})

/** OPC UA and the field agree on these; a time is milliseconds since 1970 in 64 bits. */
const forms: Partial<Record<DataType, Form>> = {
  ...{ int8: number(1, 'getInt8'), uint8: number(1, 'getUint8'), int16: number(2, 'getInt16'), uint16: number(2, 'getUint16') },
  ...{ int32: number(4, 'getInt32'), uint32: number(4, 'getUint32'), float32: number(4, 'getFloat32'), float64: number(8, 'getFloat64') },
  int64: {
    size: 8,
    get: (view, at, little) => view.getBigInt64(at, little),
    set: (view, at, value, little) => view.setBigInt64(at, BigInt(value), little),
  },
  uint64: {
    size: 8,
    get: (view, at, little) => view.getBigUint64(at, little),
    set: (view, at, value, little) => view.setBigUint64(at, BigInt(value), little),
  },
  datetime: {
    size: 8,
    get: (view, at, little) => Number(view.getBigInt64(at, little)),
    set: (view, at, value, little) => view.setBigInt64(at, BigInt(Math.trunc(Number(value))), little),
  },
  bool: { size: 1, get: (view, at) => view.getUint8(at) !== 0, set: (view, at, value) => view.setUint8(at, value ? 1 : 0) },
}

const short = (bytes: Uint8Array, needed: number): Read => ({
  ok: false,
  problem: `it has ${bytes.length} bytes, and the value lies up to byte ${needed}`,
})

/** Takes a value of this type out of bytes; of a list as many as there are. */
export const bytesReader = (type: DataType, { at, order, bit, length }: Layout): ((bytes: Uint8Array) => Read) => {
  const form = forms[elementOf(type)]
  if (!form) return (bytes) => textAt(bytes, at, length)
  const little = order === 'little'
  return (bytes) => {
    const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
    if (!isArrayType(type)) {
      if (bytes.length < at + form.size) return short(bytes, at + form.size)
      if (type === 'bool' && bit !== undefined) return { ok: true, value: ((view.getUint8(at) >> bit) & 1) === 1 }
      return { ok: true, value: form.get(view, at, little) }
    }
    const count = Math.floor((bytes.length - at) / form.size)
    if (count < 0) return short(bytes, at)
    return { ok: true, value: Array.from({ length: count }, (_, i) => form.get(view, at + i * form.size, little)) }
  }
}

const decoder = new TextDecoder('utf-8', { fatal: true })

/** Up to a NUL, with which texts of a fixed length are filled up. */
const textAt = (bytes: Uint8Array, at: number, length: number | undefined): Read => {
  const end = length === undefined ? bytes.length : at + length
  if (bytes.length < Math.max(at, end)) return short(bytes, end)
  const part = bytes.subarray(at, end)
  const nul = part.indexOf(0)
  try {
    return { ok: true, value: decoder.decode(nul < 0 ? part : part.subarray(0, nul)) }
  } catch {
    return { ok: false, problem: 'what lies there is no text in UTF-8' }
  }
}

/** A value alone as bytes, in the form in which it is read. */
export const bytesOfValue = (value: TagValue, type: DataType, { order, length }: Layout): Uint8Array => {
  const form = forms[elementOf(type)]
  if (!form) {
    const text = new TextEncoder().encode(String(value))
    if (length === undefined) return text
    const filled = new Uint8Array(length)
    filled.set(text.subarray(0, length))
    return filled
  }
  const all = isArrayValue(value) ? value : [value]
  const bytes = new Uint8Array(all.length * form.size)
  const view = new DataView(bytes.buffer)
  all.forEach((one, i) => form.set(view, i * form.size, one, order === 'little'))
  return bytes
}

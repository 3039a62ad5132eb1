import type { Reader, Writer } from './bytes'

/** Built-in types by their number on the wire (OPC 10000-6, 5.1.2). */
export const types = {
  Boolean: 1,
  Byte: 3,
  Int16: 4,
  UInt16: 5,
  Int32: 6,
  UInt32: 7,
  Int64: 8,
  Float: 10,
  Double: 11,
  String: 12,
  DateTime: 13,
  NodeId: 17,
  LocalizedText: 21,
  Structure: 22,
} as const
export type TypeName = keyof typeof types

/** A structure comes as its encoding's NodeId and its bytes. */
export interface Structure {
  encoding: string
  body: Buffer
}
export type WireValue = boolean | number | bigint | string | Structure | readonly (boolean | number | bigint | string)[]
export interface WireVariant {
  type: TypeName
  value: WireValue
}
export interface WireDataValue {
  variant: WireVariant | null
  status: number
}

type One = Exclude<WireValue, readonly unknown[]>

const writers: Record<TypeName, (writer: Writer, value: never) => unknown> = {
  Boolean: (writer, value: boolean) => writer.bool(value),
  Byte: (writer, value: number) => writer.bytes(value),
  Int16: (writer, value: number) => writer.uint16(value),
  UInt16: (writer, value: number) => writer.uint16(value),
  Int32: (writer, value: number) => writer.uint32(value),
  UInt32: (writer, value: number) => writer.uint32(value),
  Int64: (writer, value: bigint) => writer.int64(value),
  Float: (writer, value: number) => writer.float(value),
  Double: (writer, value: number) => writer.double(value),
  String: (writer, value: string) => writer.string(value),
  DateTime: (writer, value: number) => writer.time(value),
  NodeId: (writer, value: string) => writer.nodeId(value),
  LocalizedText: (writer, value: string) => writer.localizedText(value),
  Structure: (writer, { encoding, body }: Structure) => writer.nodeId(encoding).bytes(1).byteString(body),
}

const readers: Record<TypeName, (reader: Reader) => One> = {
  Boolean: (reader) => reader.bool(),
  Byte: (reader) => reader.byte(),
  Int16: (reader) => (reader.uint16() << 16) >> 16,
  UInt16: (reader) => reader.uint16(),
  Int32: (reader) => reader.int32(),
  UInt32: (reader) => reader.uint32(),
  Int64: (reader) => reader.int64(),
  Float: (reader) => reader.float(),
  Double: (reader) => reader.double(),
  String: (reader) => reader.string() ?? '',
  DateTime: (reader) => reader.time(),
  NodeId: (reader) => reader.nodeId(),
  LocalizedText: (reader) => reader.localizedText(),
  Structure: () => {
    throw new Error('structures are not written here')
  },
}

/** Bit 7 of the first byte: an array (5.2.2.16). */
const arrayBit = 0x80

const writeVariant = (writer: Writer, { type, value }: WireVariant) => {
  const put = (one: One) => writers[type](writer, one as never)
  if (!Array.isArray(value)) {
    writer.bytes(types[type])
    return put(value as One)
  }
  writer.bytes(types[type] | arrayBit).list(value as One[], put)
}

const readVariant = (reader: Reader): WireVariant | null => {
  const mask = reader.byte()
  if (mask === 0) return null
  const type = (Object.keys(types) as TypeName[]).find((name) => types[name] === (mask & 0x3f))
  if (!type) throw new Error(`a value of type ${mask & 0x3f}`)
  const one = () => readers[type](reader)
  return { type, value: mask & arrayBit ? (reader.list(one) as string[]) : one() }
}

/** Value, status and both time stamps (5.2.2.17). */
export const writeDataValue = (writer: Writer, { variant, status }: WireDataValue, at = Date.now()) => {
  writer.bytes((variant ? 1 : 0) | 2 | 4 | 8)
  if (variant) writeVariant(writer, variant)
  writer.uint32(status).time(at).time(at)
}

export const readDataValue = (reader: Reader): WireDataValue => {
  const mask = reader.byte()
  const variant = mask & 1 ? readVariant(reader) : null
  const status = mask & 2 ? reader.uint32() : 0
  if (mask & 4) reader.time()
  if (mask & 16) reader.uint16()
  if (mask & 8) reader.time()
  if (mask & 32) reader.uint16()
  return { variant, status }
}

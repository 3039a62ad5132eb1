import {
  DataType as UaType,
  DataValue,
  type ExtensionObject,
  type LocalizedText,
  type QualifiedName,
  type StatusCode,
  StatusCodes,
  Variant,
  VariantArrayType,
} from 'node-opcua'
import {
  arrayOf,
  elementOf,
  isArrayType,
  isArrayValue,
  type DataType,
  type ScalarType,
  type ScalarValue,
  type TagValue,
} from '#core/tags/types'
import type { Handle, TagTable } from '../table/tagTable'

/** Between our values and the standard's variants (OPC 10000-6, 5.1.2 and 5.2.2.16). */
const uaScalar: Record<ScalarType, UaType> = {
  bool: UaType.Boolean,
  int8: UaType.SByte,
  uint8: UaType.Byte,
  int16: UaType.Int16,
  uint16: UaType.UInt16,
  int32: UaType.Int32,
  uint32: UaType.UInt32,
  int64: UaType.Int64,
  uint64: UaType.UInt64,
  float32: UaType.Float,
  float64: UaType.Double,
  string: UaType.String,
  datetime: UaType.DateTime,
}

export const uaTypeOf = (type: DataType): UaType => uaScalar[elementOf(type)]

/** What a value of each built-in type becomes here. What is neither number nor time comes as text. */
const scalarByUa = new Map<UaType, ScalarType>((Object.keys(uaScalar) as ScalarType[]).map((type) => [uaScalar[type], type]))

/** The tag type that carries a built-in type; `rank` as the ValueRank attribute has it (OPC 10000-3, 5.6.2). */
export const typeFromUa = (type: UaType, rank: number): DataType => {
  const scalar = type === UaType.StatusCode ? 'uint32' : (scalarByUa.get(type) ?? 'string')
  return rank >= 1 ? arrayOf(scalar) : scalar
}

/** The codec takes 64-bit integers as two halves, high word first. */
const halves = (value: bigint): [number, number] => {
  const bits = BigInt.asUintN(64, value)
  return [Number(bits >> 32n), Number(bits & 0xffff_ffffn)]
}

const wide = (value: unknown, signed: boolean): bigint | null => {
  if (typeof value === 'bigint') return value
  if (!Array.isArray(value) && !(value instanceof Uint32Array)) return null
  const bits = (BigInt(value[0] as number) << 32n) | BigInt(value[1] as number)
  return signed ? BigInt.asIntN(64, bits) : bits
}

const outward = (value: ScalarValue, type: ScalarType): unknown => {
  if (typeof value === 'bigint') return halves(value)
  return type === 'datetime' ? new Date(Number(value)) : value
}

/** Enums and classes of the package come through getters, which the hot path would call at each value. */
const { Scalar: scalar, Array: array } = VariantArrayType
const UaVariant = Variant
const UaDataValue = DataValue

/**
 * Fields are set one by one: the constructor would check and copy what the tag table already holds
 * in its type.
 */
export const variantOf = (value: TagValue | undefined, type: DataType): Variant => {
  const variant = new UaVariant(null as never)
  if (value === undefined) return variant
  const element = elementOf(type)
  variant.dataType = uaScalar[element]
  if (isArrayValue(value)) {
    variant.arrayType = array
    variant.value = value.map((one) => outward(one, element))
  } else variant.value = outward(value, element)
  return variant
}

/** A variant as our value; null where it carries none. Numbers need no look at the type. */
export const valueOf = ({ value, dataType, arrayType }: Variant): TagValue | null => {
  if (arrayType === scalar) return typeof value === 'number' ? value : inward(value, dataType)
  if (value === null || value === undefined) return null
  const elements: ScalarValue[] = []
  for (const element of value as Iterable<unknown>) elements.push(inward(element, dataType) ?? '')
  return elements
}

/** What a client wrote, as a value for a tag of this type; null for what it cannot take. */
export const valueForType = (variant: Variant, type: DataType): TagValue | null => {
  if (variant.arrayType !== (isArrayType(type) ? array : scalar)) return null
  return valueOf(variant)
}

const inward = (value: unknown, type: UaType): ScalarValue | null => {
  switch (type) {
    case UaType.Int64:
      return wide(value, true)
    case UaType.UInt64:
      return wide(value, false)
    case UaType.DateTime:
      return value instanceof Date ? value.getTime() : null
    case UaType.LocalizedText:
      return (value as LocalizedText | null)?.text ?? ''
    case UaType.QualifiedName:
      return (value as QualifiedName | null)?.name ?? ''
    case UaType.StatusCode:
      return (value as StatusCode).value
    case UaType.ByteString:
      return value ? (value as Buffer).toString('hex') : ''
    case UaType.ExtensionObject:
      return structureText(value as ExtensionObject | null)
    default:
      return plain(value)
  }
}

const plain = (value: unknown): ScalarValue | null => {
  if (typeof value === 'number' || typeof value === 'boolean' || typeof value === 'string') return value
  return value === null || value === undefined ? null : String(value as { toString(): string })
}

/** A structure whole, as JSON text; its members can be tags of their own. */
const structureText = (value: ExtensionObject | null): string =>
  JSON.stringify(value, (key, member: unknown) => (key === 'schema' || typeof member === 'function' ? undefined : member)) ?? ''

const codes = new Map<number, StatusCode>()

/** Status codes are shared objects; the standard's own where it has one. */
export const statusCodeOf = (code: number): StatusCode => {
  const known = codes.get(code)
  if (known) return known
  const found = (Object.values(StatusCodes) as StatusCode[]).find((candidate) => candidate.value === code) ?? StatusCodes.BadInternalError
  codes.set(code, found)
  return found
}

/**
 * A tag's present sample. Source time is when value or quality last changed, server time when
 * the value was last known to be accurate (OPC 10000-4, 7.11.3 and 7.11.4).
 */
export const dataValueOf = (table: TagTable, handle: Handle, type: DataType): DataValue => {
  const dataValue = new UaDataValue(null as never)
  dataValue.value = variantOf(table.values[handle], type)
  dataValue.statusCode = statusCodeOf(table.quality[handle]!)
  dataValue.sourceTimestamp = new Date(table.sourceTime[handle] || Date.now())
  dataValue.sourcePicoseconds = 0
  dataValue.serverTimestamp = new Date(Math.max(table.seenAt[handle]!, table.sourceTime[handle]!) || Date.now())
  dataValue.serverPicoseconds = 0
  return dataValue
}

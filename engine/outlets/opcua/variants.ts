import { DataType as UaType, DataValue, type StatusCode, StatusCodes, Variant, VariantArrayType } from 'node-opcua'
import type { DataType, TagValue } from '#core/tags/types'
import type { Handle, TagTable } from '../../table/tagTable'

/** Our types in the standard's (OPC 10000-6, 5.1.2). */
export const uaTypeOf: Record<DataType, UaType> = {
  bool: UaType.Boolean,
  int16: UaType.Int16,
  uint16: UaType.UInt16,
  int32: UaType.Int32,
  uint32: UaType.UInt32,
  int64: UaType.Int64,
  uint64: UaType.UInt64,
  float32: UaType.Float,
  float64: UaType.Double,
  string: UaType.String,
}

/** The codec takes 64-bit integers as two halves, high word first. */
const halves = (value: bigint): [number, number] => {
  const bits = BigInt.asUintN(64, value)
  return [Number(bits >> 32n), Number(bits & 0xffff_ffffn)]
}

const variantOf = (value: TagValue | undefined, type: DataType): Variant => {
  if (value === undefined) return new Variant({ dataType: UaType.Null })
  return new Variant({
    dataType: uaTypeOf[type],
    arrayType: VariantArrayType.Scalar,
    value: typeof value === 'bigint' ? halves(value) : value,
  })
}

/** What a client wrote, as our value; null for what no tag can take. */
export const valueOf = (variant: Variant, type: DataType): TagValue | null => {
  const value: unknown = variant.value
  if (variant.arrayType !== VariantArrayType.Scalar) return null
  if (type === 'int64' || type === 'uint64') return wide(value, type)
  return typeof value === 'number' || typeof value === 'boolean' || typeof value === 'string' ? value : null
}

const wide = (value: unknown, type: DataType): bigint | null => {
  if (typeof value === 'bigint') return value
  if (!Array.isArray(value) && !(value instanceof Uint32Array)) return null
  const bits = (BigInt(value[0] as number) << 32n) | BigInt(value[1] as number)
  return type === 'int64' ? BigInt.asIntN(64, bits) : bits
}

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
  const dataValue = new DataValue(null as never)
  dataValue.value = variantOf(table.values[handle], type)
  dataValue.statusCode = statusCodeOf(table.quality[handle]!)
  dataValue.sourceTimestamp = new Date(table.sourceTime[handle] || Date.now())
  dataValue.sourcePicoseconds = 0
  dataValue.serverTimestamp = new Date(Math.max(table.seenAt[handle]!, table.sourceTime[handle]!) || Date.now())
  dataValue.serverPicoseconds = 0
  return dataValue
}

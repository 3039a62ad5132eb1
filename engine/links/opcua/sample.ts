import { DataType as UaType, VariantArrayType, type DataValue, type Variant } from 'node-opcua'
import { follow } from '#core/opcua/member'
import { isGood, quality } from '#core/tags/quality'
import { toRaw } from '#core/tags/scaling'
import type { DataType, TagValue } from '#core/tags/types'
import { typeFromUa, valueOf } from '../../opcua/variants'
import { deliver } from '../../table/deliver'
import type { SampleSink } from '../../table/intake'
import type { Item, Target } from './items'

/** Writes what came for an item into the tag table: the hot path of every OPC UA link. */
export const take = (item: Item, dataValue: DataValue, seenAt: number, table: SampleSink) => {
  item.last = dataValue
  const code = dataValue.statusCode.value
  const sourceTime = timeOf(dataValue, seenAt)
  for (const target of item.targets) takeFor(target, dataValue.value, code, sourceTime, seenAt, table)
}

const timeOf = (dataValue: DataValue, seenAt: number) => (dataValue.sourceTimestamp ?? dataValue.serverTimestamp)?.getTime() ?? seenAt

/** The same for one tag. */
export const takeFor = (target: Target, variant: Variant, code: number, sourceTime: number, seenAt: number, table: SampleSink) => {
  const { point } = target
  const { handle } = point
  if (!isGood(code) && isEmpty(variant)) return table.degrade(handle, code, sourceTime)
  const raw = rawOf(target, variant)
  if (raw === null) return table.degrade(handle, target.steps.length > 0 ? quality.BadIndexRangeNoData : quality.BadNoData, sourceTime)
  const fitting = raw.fits ? raw.value : converted(raw.value, point.type)
  if (fitting === null) return table.degrade(handle, quality.BadTypeMismatch, sourceTime)
  deliver(table, point, target.odd, fitting, code, seenAt, sourceTime)
}

/** Enums of the package come through getters, which the hot path would call at each value. */
const { Scalar: scalar } = VariantArrayType
const { Null: nothing } = UaType

export const isEmpty = (variant: Variant | null | undefined) =>
  !variant || variant.dataType === nothing || variant.value === null || variant.value === undefined

interface Raw {
  value: TagValue
  /** Whether it is of the tag's type already. */
  fits: boolean
}

const rawOf = (target: Target, variant: Variant): Raw | null => {
  if (isEmpty(variant)) return null
  if (target.steps.length > 0) return memberOf(target, variant)
  const value = valueOf(variant)
  return value === null ? null : { value, fits: typeOf(variant) === target.point.type }
}

/** The tag type of a variant's own type, looked up rather than built: it is asked for at each change. */
const typeOf = (variant: Variant) => (variant.arrayType === scalar ? scalarNames : arrayNames)[variant.dataType]

const known = Object.values(UaType).filter((type): type is UaType => typeof type === 'number')
const scalarNames: Record<number, string> = Object.fromEntries(known.map((type) => [type, typeFromUa(type, -1)]))
const arrayNames: Record<number, string> = Object.fromEntries(known.map((type) => [type, typeFromUa(type, 1)]))

/** A member carries no type of its own on this side; the tag's type decides how it is read. */
const memberOf = ({ steps, point }: Target, variant: Variant): Raw | null => {
  const inside = follow(variant.value, steps)
  if (inside === undefined || inside === null) return null
  const value = plainMember(inside, point.type)
  return value === null ? null : { value, fits: false }
}

const plainMember = (inside: unknown, type: string): TagValue | null => {
  if (typeof inside === 'boolean' || typeof inside === 'number' || typeof inside === 'string' || typeof inside === 'bigint') return inside
  if (inside instanceof Date) return inside.getTime()
  const isWide = type.startsWith('int64') || type.startsWith('uint64')
  if (isWide && isPair(inside))
    return valueOf({
      dataType: type.startsWith('u') ? UaType.UInt64 : UaType.Int64,
      arrayType: scalar,
      value: inside,
    } as unknown as Variant)
  if (Array.isArray(inside) || ArrayBuffer.isView(inside)) return Array.from(inside as ArrayLike<number>)
  const text = (inside as { text?: unknown }).text
  return typeof text === 'string' ? text : JSON.stringify(inside)
}

const isPair = (value: unknown): value is [number, number] =>
  (Array.isArray(value) || value instanceof Uint32Array) && value.length === 2 && typeof value[0] === 'number'

/** What the tag would get of a value that has another type than its own; null where it cannot hold it. */
export const fittingIn = (target: Target, variant: Variant): TagValue | null => {
  const raw = rawOf(target, variant)
  if (raw === null) return null
  return raw.fits ? raw.value : converted(raw.value, target.point.type)
}

/** A value of another type than the tag's, where nothing is lost by it; else null. */
const converted = (value: TagValue, type: DataType): TagValue | null => {
  if (type === 'string' || type === 'string[]') return type === 'string' && Array.isArray(value) ? null : textOf(value)
  const outcome = toRaw(value, type, null)
  return outcome.ok && isExact(value, outcome.raw) ? outcome.raw : null
}

/** Binary fractions are near enough to each other; a 64-bit counter that loses its last digits is not. */
const isExact = (value: TagValue, raw: TagValue) => typeof value !== 'bigint' || typeof raw !== 'number' || BigInt(raw) === value

const textOf = (value: TagValue): TagValue =>
  Array.isArray(value) ? value.map(String) : String(value as string | number | bigint | boolean)

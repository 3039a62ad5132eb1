import type { PointDefinition } from '../links/protocol'
import type { DataType } from '../tags/types'
import { parseAddress, type SensorAddress } from './address'
import type { SimpleType } from './description/description'
import { itemReader, type Raw } from './image'
import type { IoLinkPointOptions } from './settings'

/** A point, with how its value lies. */
export interface SensorPoint {
  address: SensorAddress
  type: SimpleType
}

/** Null where the address cannot be read, or the type does not fit its bits. */
export const pointOf = ({ address: text, type, options }: PointDefinition): SensorPoint | null => {
  const parsed = parseAddress(text)
  if (!parsed.ok) return null
  const { address } = parsed
  if (address.of === 'state' || address.of === 'events') return type === 'string' ? { address, type: simple('text', 0) } : null
  const bits = address.bits
  const kind = type === 'string' && (options as IoLinkPointOptions).form === 'hex' ? 'octets' : kindOf(type)
  return kind && fits(type, kind, bits) ? { address, type: simple(kind, bits) } : null
}

const simple = (kind: SimpleType['kind'], bits: number): SimpleType => ({ kind, bits, names: [], range: null })

/** How a value of this type lies in its bits. */
export const kindOf = (type: DataType): SimpleType['kind'] | null => {
  if (type === 'bool') return 'bool'
  if (type === 'float32') return 'float'
  if (type === 'string') return 'text'
  if (type.endsWith('[]') || type === 'datetime' || type === 'float64') return null
  return type.startsWith('u') ? 'uint' : 'int'
}

const widths: Partial<Record<DataType, number>> = { int8: 8, uint8: 8, int16: 16, uint16: 16, int32: 32, uint32: 32, int64: 64, uint64: 64 }

/** Whole numbers hold as many bits as they have, or fewer. 0 bits: a parameter as long as it comes. */
const fits = (type: DataType, kind: SimpleType['kind'], bits: number) => {
  if (kind === 'bool') return bits <= 1
  if (kind === 'float') return bits === 32 || bits === 0
  if (kind === 'text' || kind === 'octets') return bits % 8 === 0
  return bits <= widths[type]!
}

/** The narrowest type that holds what a description says. */
export const typeFor = ({ kind, bits }: SimpleType): DataType => {
  if (kind === 'bool') return 'bool'
  if (kind === 'float') return 'float32'
  if (kind !== 'uint' && kind !== 'int') return 'string'
  const width = bits <= 8 ? 8 : bits <= 16 ? 16 : bits <= 32 ? 32 : 64
  return `${kind === 'uint' ? 'u' : ''}int${width}` as DataType
}

/** Reads a point out of an image. Undefined: the image is shorter than it has to be. */
export const valueIn = ({ address, type }: SensorPoint, image: Uint8Array): Raw | undefined => {
  if (address.of === 'state' || address.of === 'events') return undefined
  const bits = address.bits === 0 ? 8 * image.length : address.bits
  const bitOffset = address.bits === 0 ? 0 : address.bitOffset
  if (bitOffset + bits > 8 * image.length || bits === 0) return undefined
  return itemReader({ bitOffset, type: { ...type, bits } }, image.length)(image)
}

import { elementOf, integerRanges, isArrayType, type DataType } from '../tags/types'
import type { FieldType } from './fit'

/** What a tag of this type takes. */
export const fieldTypeOfTag = (type: DataType): FieldType => {
  const made = known.get(type) ?? madeFor(type)
  known.set(type, made)
  return made
}

const known = new Map<DataType, FieldType>()

const madeFor = (type: DataType): FieldType => {
  const shared = { name: type, nullable: false }
  if (isArrayType(type)) return { ...shared, holds: 'anything' }
  const range = integerRanges[elementOf(type)]
  if (range) return { ...shared, holds: 'whole', ...range }
  if (type === 'bool') return { ...shared, holds: 'truth' }
  if (type === 'float32' || type === 'float64') return { ...shared, holds: type }
  return type === 'datetime' ? { ...shared, holds: 'time' } : { ...shared, holds: 'text' }
}

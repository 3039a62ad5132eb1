import type { DataType, TagValue } from '../tags/types'
import type { Carried } from '../messages/carried'

/** What a tag has, as bridges carry it: moments become times. */
export const carriedOf = (value: TagValue | undefined, type: DataType): Carried => {
  if (value === undefined) return null
  if (type === 'datetime' && typeof value === 'number') return new Date(value)
  if (type === 'datetime[]' && Array.isArray(value)) return value.map((moment) => new Date(Number(moment)))
  return value as Carried
}

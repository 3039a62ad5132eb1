import { isArrayValue, type DataType, type TagValue } from '../tags/types'

/** A value as a payload: numbers and truths as JSON has them, text as it is, times in ISO 8601, lists as JSON. */
export const payloadOf = (value: TagValue, type: DataType): string => {
  if (isArrayValue(value)) return `[${value.map((one) => (typeof one === 'string' ? JSON.stringify(one) : String(one))).join(',')}]`
  return type === 'datetime' ? new Date(Number(value)).toISOString() : String(value)
}

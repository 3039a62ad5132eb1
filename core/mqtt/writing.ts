import { bytesOfValue } from '../messages/layout'
import type { MqttPointOptions } from './settings'
import { isArrayValue, type DataType, type TagValue } from '../tags/types'

/** A value as the payload that a point sends. @param now Unix milliseconds */
export const writtenPayload = (value: TagValue, type: DataType, { bytes, send }: MqttPointOptions, now: number): string | Uint8Array => {
  if (bytes) return bytesOfValue(value, type, bytes)
  if (send !== 'json') return payloadOf(value, type)
  const isText = type === 'string' || type === 'datetime'
  const written = isText ? JSON.stringify(payloadOf(value, type)) : payloadOf(value, type)
  return `{"value":${written},"time":${JSON.stringify(new Date(now).toISOString())},"quality":0}`
}

/** A value as a payload: numbers and truths as JSON has them, text as it is, times in ISO 8601, lists as JSON. */
export const payloadOf = (value: TagValue, type: DataType): string => {
  if (isArrayValue(value)) return `[${value.map((one) => (typeof one === 'string' ? JSON.stringify(one) : String(one))).join(',')}]`
  return type === 'datetime' ? new Date(Number(value)).toISOString() : String(value)
}

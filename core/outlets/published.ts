import { jsonOf, textOf } from '../messages/carried'
import { carriedOf } from '../bridges/tagValue'
import { isGood, qualityName } from '../tags/quality'
import { Payload, readerFor, type Told } from '../messages/payload'
import type { DataType, TagValue } from '../tags/types'
import { valueName, type ValueName } from '../tags/valueNames'

/** What a tag has, on its way to a topic. */
export interface PublishedSample {
  value: TagValue | undefined
  quality: number
  /** Unix milliseconds; 0: never. */
  sourceTime: number
  type: DataType
  unit: string
  names: readonly ValueName[]
}

/**
 * A value with its time (ISO 8601), its quality by the name of its status code (OPC 10000-4, 7.38),
 * its unit and, where the value has one, its name.
 *
 * @example
 * sampleJson(sample) // {"value":71.3,"time":"2026-11-25T14:06:45.120Z","quality":"Good","unit":"kW"}
 */
export const sampleJson = ({ value, quality, sourceTime, type, unit, names }: PublishedSample): string => {
  const time = sourceTime > 0 ? `"${new Date(sourceTime).toISOString()}"` : 'null'
  const ofUnit = unit === '' ? '' : `,"unit":${JSON.stringify(unit)}`
  const name = valueName(value, names)
  const named = name === null ? '' : `,"name":${JSON.stringify(name)}`
  return `{"value":${jsonOf(carriedOf(value, type))},"time":${time},"quality":"${qualityName(quality)}"${ofUnit}${named}}`
}

/** Many tags in one message, by their paths. */
export const gatheredJson = (samples: Iterable<[path: string, sample: PublishedSample]>): string =>
  `{${[...samples].map(([path, sample]) => `${JSON.stringify(path)}:${sampleJson(sample)}`).join(',')}}`

/** The value alone, which cannot tell its quality: null unless it is good. */
export const plainText = ({ value, quality, type }: PublishedSample): string | null =>
  isGood(quality) && value !== undefined ? textOf(carriedOf(value, type)) : null

/** A value that a client sends to set a tag: alone, or as `value` of a JSON object. */
export const readSetting = (bytes: Uint8Array, type: DataType): Told => {
  const payload = new Payload(bytes)
  const isObject = payload.text.ok && payload.text.value.trimStart().startsWith('{') && payload.json.ok && hasValue(payload.json.value)
  return readerFor({ type, path: isObject ? '$.value' : '', time: '' })(payload)
}

const hasValue = (json: unknown) => typeof json === 'object' && json !== null && Object.hasOwn(json, 'value')

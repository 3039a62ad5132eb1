import { isPlainObject, type Carried } from '../messages/carried'

/** What one run has for one destination, before it is brought into the destination's own types. */
export interface Shaped {
  /** Where it goes: paths of tags, one for each field; the topic; the name of the file; nothing for a table. */
  to: readonly string[]
  /** One for each field of the destination. */
  values: readonly Carried[]
  /** When it was made, Unix milliseconds. */
  at: number
  /** The run it is of. */
  run: number
}

/** Records that are kept together, with the names that their values had then. */
export interface Parcel {
  fields: readonly string[]
  records: readonly Shaped[]
}

/** As text for the disk: JSON, in which what JSON has no form for is an object with one letter. */
export const parcelText = ({ fields, records }: Parcel): string =>
  JSON.stringify([fields, records.map(({ to, values, at, run }) => [to, values.map(coded), at, run])])

type Json = null | boolean | number | string | Json[] | { [name: string]: Json }

const coded = (value: Carried): Json => {
  if (value === null || value === undefined) return null
  if (typeof value === 'bigint') return { b: value.toString() }
  if (typeof value === 'number') return Number.isFinite(value) ? value : { n: String(value) }
  if (typeof value !== 'object') return value
  if (value instanceof Date) return { t: value.getTime() }
  if (value instanceof Uint8Array) return { y: Array.from(value) }
  if (Array.isArray(value)) return value.map(coded)
  return isPlainObject(value) ? { o: Object.fromEntries(Object.entries(value).map(([name, part]) => [name, coded(part)])) } : null
}

/** Reads what `parcelText` wrote; null: it is something else. */
export const readParcel = (text: string): Parcel | null => {
  try {
    const whole: unknown = JSON.parse(text)
    if (!Array.isArray(whole) || !isTexts(whole[0]) || !Array.isArray(whole[1])) return null
    const records = whole[1].map(recordOf)
    return records.every((record) => record !== null) ? { fields: whole[0], records } : null
  } catch {
    return null
  }
}

const isTexts = (value: unknown): value is string[] => Array.isArray(value) && value.every((part) => typeof part === 'string')

const recordOf = (row: unknown): Shaped | null => {
  if (!Array.isArray(row)) return null
  const [to, values, at, run] = row as unknown[]
  if (!isTexts(to) || !Array.isArray(values) || typeof at !== 'number' || typeof run !== 'number') return null
  return { to, values: values.map((value) => decoded(value as Json)), at, run }
}

const decoded = (value: Json): Carried => {
  if (value === null || typeof value !== 'object') return value
  if (Array.isArray(value)) return value.map(decoded)
  const [letter, inner] = Object.entries(value)[0] ?? []
  return letter !== undefined && inner !== undefined ? (decoders[letter]?.(inner) ?? null) : null
}

const decoders: Record<string, (inner: Json) => Carried> = {
  b: (inner) => BigInt(String(inner)),
  n: (inner) => Number(inner),
  t: (inner) => new Date(Number(inner)),
  y: (inner) => new Uint8Array(inner as number[]),
  o: (inner) => Object.fromEntries(Object.entries(inner as { [name: string]: Json }).map(([name, part]) => [name, decoded(part)])),
}

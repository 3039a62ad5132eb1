import { elementOf, isArrayType, isArrayValue, type DataType, type ScalarType, type ScalarValue, type TagValue } from '#core/tags/types'

const longestText = 10_000

/** A value as the table of samples has it: a number, and a text where a number does not say all. */
export const recordedValue = (value: TagValue | undefined): { number: number; text: string | null } => {
  if (typeof value === 'number') return { number: value, text: null }
  if (typeof value === 'boolean') return { number: Number(value), text: null }
  if (value === undefined) return { number: NaN, text: null }
  if (typeof value === 'bigint') {
    const number = Number(value)
    return { number, text: Number.isSafeInteger(number) ? null : String(value) }
  }
  if (isArrayValue(value))
    return { number: NaN, text: brief(JSON.stringify(value.map((one) => (typeof one === 'bigint' ? String(one) : one)))) }
  return { number: NaN, text: brief(value) }
}

/** PostgreSQL holds no NUL in text. */
const brief = (text: string) => (text.length > longestText ? `${text.slice(0, longestText)} …` : text).replaceAll('\0', '⟨U+0000⟩')

/** A value as it was before it was recorded; undefined where there was none, or where it was too long to be kept whole. */
export const valueRecorded = (number: number, text: string | null, type: DataType): TagValue | undefined => {
  if (!isArrayType(type)) return scalarRecorded(number, text, type)
  const parsed = text === null ? null : partsOf(text)
  return parsed?.map((part) => (wide.has(elementOf(type)) ? BigInt(part as string) : part))
}

const wide = new Set<ScalarType>(['int64', 'uint64'])

const scalarRecorded = (number: number, text: string | null, type: ScalarType): ScalarValue | undefined => {
  if (type === 'string') return text ?? undefined
  if (wide.has(type)) return text !== null ? BigInt(text) : Number.isNaN(number) ? undefined : BigInt(number)
  if (Number.isNaN(number)) return undefined
  return type === 'bool' ? number !== 0 : number
}

const partsOf = (text: string): ScalarValue[] | undefined => {
  try {
    return JSON.parse(text) as ScalarValue[]
  } catch {
    return undefined
  }
}

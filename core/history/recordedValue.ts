import { elementOf, isArrayType, isArrayValue, type DataType, type ScalarType, type ScalarValue, type TagValue } from '../tags/types'
import { isGood, quality } from '../tags/quality'

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

/** A sample as it was before it was recorded. What is none of the type that its tag has by now has no value, and is not good. */
export const sampleRecorded = (
  { number, text, quality: code }: { number: number; text: string | null; quality: number },
  type: DataType,
): { value: TagValue | undefined; quality: number } => {
  const value = isArrayType(type) ? arrayRecorded(text, elementOf(type)) : scalarRecorded(number, text, type)
  return { value, quality: value === undefined && isGood(code) ? quality.BadNoData : code }
}

const wide = new Set<ScalarType>(['int64', 'uint64'])

const scalarRecorded = (number: number, text: string | null, type: ScalarType): ScalarValue | undefined => {
  if (type === 'string') return text ?? undefined
  if (wide.has(type)) return wideFrom(text ?? number)
  if (Number.isNaN(number)) return undefined
  return type === 'bool' ? number !== 0 : number
}

/** Undefined: it is no whole number, or was too long to be kept whole. */
const wideFrom = (given: unknown): bigint | undefined => {
  if (typeof given === 'number') return Number.isInteger(given) ? BigInt(given) : undefined
  return typeof given === 'string' && /^-?\d+$/.test(given) ? BigInt(given) : undefined
}

const elementKinds: Partial<Record<ScalarType, string>> = { bool: 'boolean', string: 'string' }

const arrayRecorded = (text: string | null, element: ScalarType): ScalarValue[] | undefined => {
  const parsed = text === null ? undefined : readJson(text)
  if (!Array.isArray(parsed)) return undefined
  const kind = elementKinds[element] ?? 'number'
  const all = parsed.map((part: unknown) => (wide.has(element) ? wideFrom(part) : typeof part === kind ? (part as ScalarValue) : undefined))
  return all.every((part) => part !== undefined) ? all : undefined
}

const readJson = (text: string): unknown => {
  try {
    return JSON.parse(text)
  } catch {
    return undefined
  }
}

import { isArrayValue, type TagValue } from '#core/tags/types'

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

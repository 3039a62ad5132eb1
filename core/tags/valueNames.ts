import { valueText } from '../text/number'
import { seen } from '../text/visible'
import { isNumeric, type DataType, type TagValue } from './types'

/** What a value is called; of a truth value, 0 is false and 1 is true. */
export interface ValueName {
  value: number
  name: string
}

export const mostNames = 200
export const longestName = 80

/** Texts, times and lists have none. */
export const canBeNamed = (type: DataType): boolean => type === 'bool' || isNumeric(type)

/** What a value is called; null: it has no name. Whole numbers of 64 bits may come as text. */
export const valueName = (value: TagValue | null | undefined, names: readonly ValueName[]): string | null => {
  if (names.length === 0 || value === null || value === undefined || typeof value === 'object') return null
  const number = Number(value)
  return names.find((one) => isSame(one.value, number))?.name ?? null
}

/** Fractions come out of scaling with the dust of theirs. */
const isSame = (named: number, value: number) =>
  named === value || (!Number.isInteger(named) && Math.abs(named - value) <= 1e-12 * Math.abs(named))

/** A value with its name, where it has one: `2 = warms up`. */
export const namedText = (value: TagValue | null | undefined, names: readonly ValueName[], type?: DataType): string => {
  const name = valueName(value, names)
  const text = valueText(value, type)
  return name === null ? text : `${text} = ${name}`
}

interface Named {
  names: readonly ValueName[]
  unit: string
}

/** What stands behind a value: its name, else its unit. */
export const behindValue = (value: TagValue | null | undefined, { names, unit }: Named): string => valueName(value, names) ?? unit

/** As people write them: `0 = off; 1 = on`. */
export const namesText = (names: readonly ValueName[]): string => names.map(({ value, name }) => `${value} = ${name}`).join('; ')

type ReadNames = { ok: true; value: ValueName[] } | { ok: false; problem: string }

/** Reads what {@link namesText} writes; `false` and `true` are 0 and 1, and lines divide as semicolons do. */
export const readNames = (text: string): ReadNames => {
  const names: ValueName[] = []
  for (const part of text.split(/[;\n]/)) {
    const written = part.trim()
    if (written === '') continue
    const [, figure = '', name = ''] = /^([^=:]*?)\s*[=:]\s*(.*)$/.exec(written) ?? []
    const value = numberOf(figure)
    if (value === null || name === '') return { ok: false, problem: `“${shortened(written)}” names no value: as in 0 = off; 1 = on.` }
    names.push({ value, name })
  }
  return { ok: true, value: names }
}

const numberOf = (figure: string): number | null => {
  const word = figure.toLowerCase()
  if (word === 'true' || word === 'false') return word === 'true' ? 1 : 0
  const value = Number(figure.replace('−', '-'))
  return figure === '' || !Number.isFinite(value) ? null : value
}

const shortened = (text: string) => (text.length > 40 ? `${text.slice(0, 40)}…` : text)

/** What others tell, as a tag may have it: one name a value, none that is empty or does not show. */
export const namesFrom = (told: readonly ValueName[]): ValueName[] => {
  const byValue = new Map<number, string>()
  for (const { value, name } of told) {
    const clean = shortTo(longestName, seen(name.replaceAll(';', ' ')).replace(/\s+/g, ' ').trim())
    if (clean !== '' && Number.isFinite(value) && !byValue.has(value)) byValue.set(value, clean)
  }
  return [...byValue].slice(0, mostNames).map(([value, name]) => ({ value, name }))
}

/** A character of two halves is not cut in two. */
const shortTo = (most: number, text: string) =>
  text
    .slice(0, most)
    .replace(/[\uD800-\uDBFF]$/, '')
    .trim()

/** Those of the names that a tag of this type can have. */
export const namesFor = (type: DataType, names: readonly ValueName[] = []): ValueName[] =>
  canBeNamed(type) ? names.filter(({ value }) => type !== 'bool' || value === 0 || value === 1) : []

/**
 * The value that is meant by what somebody typed: `3 = Night`, or a name that only one value has. A number is a number, even
 * where a value is called so. Null: no name is meant.
 */
export const valueMeant = (words: string, names: readonly ValueName[]): number | null => {
  const whole = names.find((one) => namesText([one]) === words)
  if (whole) return whole.value
  if (numberOf(words.replace(',', '.')) !== null) return null
  const called = names.filter(({ name }) => name.toLowerCase() === words.toLowerCase())
  return called.length === 1 ? called[0]!.value : null
}

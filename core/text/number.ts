import { elementOf, isArrayValue, type DataType, type ScalarValue, type TagValue } from '../tags/types'

const thinSpace = '\u202f'

/** Digits of a type that mean something: a float32 carries about seven, a double fifteen. */
const significantDigits: Partial<Record<DataType, number>> = { float32: 7 }

/**
 * A value as a person reads it: digits grouped by a narrow space, no binary dust, exponents only
 * where a plain number would not fit a column.
 */
export const valueText = (value: TagValue | null | undefined, type?: DataType): string => {
  if (value === null || value === undefined) return '—'
  if (isArrayValue(value)) return arrayText(value, type && elementOf(type))
  if (type === 'datetime' && typeof value === 'number') return new Date(value).toISOString()
  if (typeof value === 'bigint') return grouped(value.toString())
  if (typeof value !== 'number') return String(value)
  if (!Number.isFinite(value)) return String(value)
  const digits = (type && significantDigits[type]) || 10
  const size = Math.abs(value)
  if (size !== 0 && (size >= 1e12 || size < 1e-4)) return value.toExponential(Math.min(4, digits - 1)).replace(/\.?0+e/, 'e')
  return grouped(String(Number(value.toPrecision(digits))))
}

/** A number with so many decimals. */
export const fixedText = (value: number, decimals: number): string =>
  Number.isFinite(value) && Math.abs(value) < 1e15 ? grouped(value.toFixed(decimals)) : valueText(value)

const mostShown = 12

const arrayText = (values: readonly ScalarValue[], type?: DataType) => {
  const shown = values.slice(0, mostShown).map((value) => valueText(value, type))
  return `[${shown.join(', ')}${values.length > mostShown ? `, … ${values.length} in all` : ''}]`
}

/** Four digits stay together, as in 1482; more are grouped by three from the point. */
const grouped = (text: string): string => {
  const [whole = '', fraction] = text.split('.')
  const body = whole.replace('-', '')
  const spaced = body.length > 4 ? body.replace(/\B(?=(\d{3})+$)/g, thinSpace) : body
  return `${whole.startsWith('-') ? '−' : ''}${spaced}${fraction === undefined ? '' : `.${fraction}`}`
}

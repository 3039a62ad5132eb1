import { toRaw } from '../tags/scaling'
import { elementOf, integerRanges, type DataType, type TagValue } from '../tags/types'
import { FormulaProblem, type FormulaValue } from './value'

/** What came of a formula as a value of the tag's type: a whole number is rounded to; a result that is no number is none. */
export const resultAs = (result: FormulaValue, type: DataType): TagValue => {
  if (typeof result === 'number' && !Number.isFinite(result)) throw new FormulaProblem(`what comes of it is no number (${result})`)
  if (type === 'float64' && typeof result === 'number') return result
  const isWhole = integerRanges[elementOf(type)] !== undefined
  const given = typeof result === 'boolean' && type !== 'bool' && type !== 'string' ? Number(result) : result
  const fits = toRaw(isWhole && typeof given === 'number' ? Math.round(given) : given, type, null)
  if (!fits.ok) throw new FormulaProblem(fits.detail)
  return fits.raw
}

/** What a tag holds as formulas see it; null: nothing that they could work with. */
export const asInput = (value: TagValue | undefined): FormulaValue | null => {
  if (typeof value === 'bigint') return Number(value)
  return typeof value === 'number' || typeof value === 'boolean' || typeof value === 'string' ? value : null
}

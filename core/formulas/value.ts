/** What formulas work with. 64-bit integers come in as numbers; times as Unix milliseconds. */
export type FormulaValue = number | boolean | string

/** Why a formula gives no value, in words that go after “because”. */
export class FormulaProblem extends Error {}

/** A truth counts as 1 or 0; text is no number. */
export const asNumber = (value: FormulaValue): number => {
  if (typeof value === 'number') return value
  if (typeof value === 'boolean') return value ? 1 : 0
  throw new FormulaProblem(`“${value.slice(0, 40)}” is text, where a number is needed`)
}

/** A number is true where it is not 0. */
export const asTruth = (value: FormulaValue): boolean => {
  if (typeof value === 'boolean') return value
  if (typeof value === 'number') return value !== 0 && !Number.isNaN(value)
  throw new FormulaProblem(`“${value.slice(0, 40)}” is text, where true or false is needed`)
}

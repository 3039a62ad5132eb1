import type { FormulaValue } from './value'

/** What a formula is worked out with: one entry for each of its inputs. */
export interface Frame {
  values: FormulaValue[]
  /** What each had before it changed last; before its first change, what it has. */
  previous: FormulaValue[]
  /** When each changed last at its source, Unix milliseconds. */
  changedAt: number[]
  /** Whether each is good. */
  good: boolean[]
  /** What came of the formula the last time; undefined: nothing yet. */
  own: FormulaValue | undefined
}

export const frameOf = (inputs: number): Frame => ({
  values: Array.from({ length: inputs }, () => 0),
  previous: Array.from({ length: inputs }, () => 0),
  changedAt: Array.from({ length: inputs }, () => 0),
  good: Array.from({ length: inputs }, () => false),
  own: undefined,
})

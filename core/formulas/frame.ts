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

/**
 * Brings in what an input has; where the formula looks back, what it had before stays with it.
 * @param value null: nothing that a formula works with @param at when it changed, Unix milliseconds
 */
export const bringInput = (frame: Frame, i: number, value: FormulaValue | null, isGood: boolean, at: number, looksBack: boolean) => {
  frame.good[i] = value !== null && isGood
  if (value === null) {
    frame.values[i] = NaN
    return
  }
  const isFirst = frame.changedAt[i] === 0
  if (looksBack && (isFirst || value !== frame.values[i])) {
    frame.previous[i] = isFirst ? value : frame.values[i]!
    frame.changedAt[i] = at
  }
  frame.values[i] = value
}

export const frameOf = (inputs: number): Frame => ({
  values: Array.from({ length: inputs }, () => 0),
  previous: Array.from({ length: inputs }, () => 0),
  changedAt: Array.from({ length: inputs }, () => 0),
  good: Array.from({ length: inputs }, () => false),
  own: undefined,
})

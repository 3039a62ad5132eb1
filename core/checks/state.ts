import type { Difference } from '../text/differences'

export const outcomes = ['good', 'bad', 'open'] as const
export type Outcome = (typeof outcomes)[number]

/** How the far side got to the value: written from here, set over there, simulated or fed by a calibrator there, or only looked at. */
export const ways = ['written', 'set', 'calibrator', 'looked'] as const
export type CheckWay = (typeof ways)[number]

export const wayText: Record<CheckWay, string> = {
  written: 'written from here',
  set: 'set over there',
  calibrator: 'fed by a calibrator',
  looked: 'looked at on both sides',
}

/** How a point of a sheet is. `again`: it was good, and is another thing since. `gone`: there is no such tag any more. */
export const pointStates = ['unchecked', 'good', 'bad', 'open', 'again', 'gone'] as const
export type PointState = (typeof pointStates)[number]

export const stateText: Record<PointState, string> = {
  unchecked: 'not checked',
  good: 'good',
  bad: 'not good',
  open: 'open',
  again: 'to be checked again',
  gone: 'no such tag any more',
}

/** @param last the outcome of the last check; null: there was none @param changed what is another thing since; null: the tag is gone */
export const stateOf = (last: Outcome | null, changed: readonly Difference[] | null): PointState => {
  if (changed === null) return 'gone'
  if (last === null) return 'unchecked'
  return last === 'good' && changed.length > 0 ? 'again' : last
}

/** Whether what was seen is what was expected: as numbers within a share of the larger one, else as texts. Null: one of them is missing. */
export const agrees = (expected: string, seen: string, share = 0.005): boolean | null => {
  const [a, b] = [expected.trim(), seen.trim()]
  if (a === '' || b === '') return null
  const [x, y] = [numberOf(a), numberOf(b)]
  if (x === null || y === null) return a.toLowerCase() === b.toLowerCase()
  return Math.abs(x - y) <= share * Math.max(Math.abs(x), Math.abs(y))
}

/** The number at the beginning of a text, with what may follow it as a unit. */
const numberOf = (text: string): number | null => {
  const match = /^([+-]?(?:\d+\.?\d*|\.\d+)(?:e[+-]?\d+)?)(?:\s*[^\d\s.,].*)?$/i.exec(text.replace(',', '.'))
  return match ? Number(match[1]) : null
}

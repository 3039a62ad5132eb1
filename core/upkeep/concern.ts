import type { Fault } from '../faults/catalogue'

/** Something that a person has to see to so that the site goes on for years. */
export interface Concern {
  /** What tells it from others, as long as it lasts. */
  key: string
  /** now: something is lost or stops already. soon: it will, unless somebody sees to it. */
  urgency: 'now' | 'soon'
  /** What it is of, in a word or two. */
  about: string
  fault: Fault
  /** By when, Unix ms; null: nobody knows. */
  by: number | null
  /** The page where something can be done about it. */
  place: string
}

/** What is urgent first, then what comes first. */
export const inOrder = (all: readonly Concern[]): Concern[] =>
  [...all].sort((a, b) => rank(a) - rank(b) || (a.by ?? Infinity) - (b.by ?? Infinity) || a.key.localeCompare(b.key))

const rank = ({ urgency }: Concern) => (urgency === 'now' ? 0 : 1)

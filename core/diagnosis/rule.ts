import type { FaultCode, Side } from '../faults/catalogue'
import type { Facts } from './facts'

/**
 * One cause that a stop on a path may have: what it is called, whose side it is on, at which machine something is to be done,
 * and what speaks for and against it. Rules are data: what was measured is given to them, and nothing is measured by them.
 */
export interface Rule {
  id: string
  side: Side | ((facts: Facts) => Side)
  /** Whether a stop like this one can come of it at all. */
  explains(facts: Facts): boolean
  title(facts: Facts): string
  /** At which machine something is to be done, as in “On 10.8.0.4”. */
  where(facts: Facts): string
  /** What to do there, in order. */
  next(facts: Facts): string[]
  signs: readonly Sign[]
  /** What would tell, and was not measured: how a person finds out. */
  unmeasured?(facts: Facts): string | null
}

/** Something that speaks for a cause (above 0) or against it (below 0). */
export interface Sign {
  weight: Weight
  /** What it says in words; null: this was not seen. */
  says(facts: Facts): string | null
}

/** How much a sign says. Only their order matters to people: which of the causes is looked at first. */
export const weights = { proof: 20, strong: 6, clear: 3, hint: 1 } as const
type Positive = (typeof weights)[keyof typeof weights]
export type Weight = Positive | `against-${keyof typeof weights}`

export const weightOf = (weight: Weight): number =>
  typeof weight === 'number' ? weight : -weights[weight.slice('against-'.length) as keyof typeof weights]

/** Speaks for it. */
export const forIt = (how: keyof typeof weights, says: Sign['says']): Sign => ({ weight: weights[how], says })

/** Speaks against it. */
export const against = (how: keyof typeof weights, says: Sign['says']): Sign => ({ weight: `against-${how}`, says })

/** A stop with one of these faults. */
export const stoppedBy =
  (...codes: FaultCode[]) =>
  ({ fault }: Facts) =>
    codes.includes(fault.code)

import type { Side } from '../faults/catalogue'
import type { Facts } from './facts'
import { weightOf, weights, type Rule } from './rule'
import { rules } from './rules/all'

/** A cause that is possible, with what speaks for and against it. */
export interface Cause {
  id: string
  title: string
  side: Side
  /** At which machine something is to be done. */
  where: string
  next: string[]
  for: string[]
  against: string[]
  /** What was measured leaves no room for it. */
  isRuledOut: boolean
  /** What would tell, and how a person finds out; null: nothing that is known here. */
  unmeasured: string | null
}

/**
 * The causes that a stop may have, the likeliest first; what is ruled out comes last. There is always one: what the failed
 * step itself says, where no rule knows better.
 */
export const causesOf = (facts: Facts, among: readonly Rule[] = rules): Cause[] => {
  const weighed = among.filter((rule) => rule.explains(facts)).map((rule) => weigh(rule, facts))
  const sorted = weighed.sort((a, b) => b.weight - a.weight)
  const causes = sorted.map(({ cause }) => cause)
  // nothing but what speaks against it is less than what the step itself says
  return (sorted[0]?.weight ?? -1) >= 0 ? causes : [asTold(facts), ...causes]
}

const weigh = (rule: Rule, facts: Facts): { weight: number; cause: Cause } => {
  const seen = rule.signs.flatMap((sign) => {
    const text = sign.says(facts)
    return text === null ? [] : [{ text, weight: weightOf(sign.weight) }]
  })
  const weight = seen.reduce((sum, sign) => sum + sign.weight, 0)
  const of = (sign: number) => seen.filter((one) => Math.sign(one.weight) === sign).map(({ text }) => text)
  const cause: Cause = {
    id: rule.id,
    title: rule.title(facts),
    side: typeof rule.side === 'function' ? rule.side(facts) : rule.side,
    where: rule.where(facts),
    next: rule.next(facts),
    for: of(1),
    against: of(-1),
    isRuledOut: weight <= -weights.proof / 2,
    unmeasured: rule.unmeasured?.(facts) ?? null,
  }
  return { weight, cause }
}

/** What the failed step says by itself. */
const asTold = ({ fault, step }: Facts): Cause => ({
  id: `told:${fault.code}`,
  title: fault.what,
  side: fault.side,
  where: whereOfSide[fault.side],
  next: [fault.next],
  for: [`the step “${step}” ended with it${fault.evidence ? `: ${fault.evidence}` : ''}`],
  against: [],
  isRuledOut: false,
  unmeasured: null,
})

export const whereOfSide: Record<Side, string> = {
  entry: 'In these settings',
  here: 'On this machine',
  network: 'Between here and there',
  device: 'On the far side',
  consumer: 'At the consumer',
}

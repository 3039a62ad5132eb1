import type { Fault } from '#core/faults/catalogue'
import type { CheckStep } from '#shared/status'

/** Makes the steps of a check; `titles` lists them in the order in which they are walked. */
export const checkSteps = <S extends string>(titles: Record<S, string>) => {
  const order = Object.keys(titles) as S[]
  const step = (name: S, rest: Pick<CheckStep, 'flow' | 'evidence'> & Partial<CheckStep>): CheckStep => ({
    step: name,
    title: titles[name],
    ms: null,
    fault: null,
    ...rest,
  })
  return {
    waiting: (name: S) => step(name, { flow: 'waiting', evidence: '' }),
    sound: (name: S, evidence: string, ms: number | null, more: Partial<CheckStep> = {}) =>
      step(name, { flow: 'flowing', evidence, ms, ...more }),
    failed: (name: S, why: Fault, ms: number | null, more: Partial<CheckStep> = {}) =>
      step(name, { flow: 'broken', evidence: why.evidence || why.what, ms, fault: why, ...more }),
    /** Neither sound nor failed: what cannot be known from here, or does not apply. */
    open: (name: S, flow: 'waiting' | 'off', evidence: string) => step(name, { flow, evidence }),
    notReached: (after: S): CheckStep[] =>
      order.slice(order.indexOf(after) + 1).map((name) => step(name, { flow: 'off', evidence: 'not reached' })),
  }
}

import { fault } from '#core/faults/catalogue'
import type { CheckStep } from '#shared/status'
import type { OutletRunner } from '../outlets/outletRunner'

/** So many entries an outlet has at the most. */
const mostEntries = 64

/** All entries of an outlet, one after the other; where there are several, each step says which it is of. */
export async function* outletSteps(outlet: OutletRunner): AsyncGenerator<CheckStep> {
  if (!outlet.isOpen) return yield notOpen(outlet)
  const isOne = outlet.check(1) === null
  for (let entry = 0; entry < mostEntries; entry++) {
    const steps = outlet.check(entry)
    if (!steps) return entry === 0 ? yield howItIs(outlet) : undefined
    for await (const step of steps)
      yield isOne ? step : { ...step, step: `${entry}-${step.step}`, group: step.group ?? `Door ${entry + 1}` }
  }
}

/** It has no entry yet. */
const howItIs = (outlet: OutletRunner): CheckStep => {
  const { flow, sentence, fault: why } = outlet.status()
  return { step: 'open', title: 'Here', flow: flow === 'late' ? 'waiting' : flow, evidence: sentence, ms: null, fault: why }
}

const notOpen = (outlet: OutletRunner): CheckStep => {
  const { sentence, fault: why } = outlet.status()
  return { step: 'open', title: 'Here', flow: 'broken', evidence: sentence, ms: null, fault: why ?? fault('outlet.off', {}) }
}

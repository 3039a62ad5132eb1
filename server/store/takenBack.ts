import { fault } from '#core/faults/catalogue'
import type { Outcome } from '#db/takeBack'
import { Refusal } from '../answers/refusal'

/** The new revision, or the refusal that says why there is none. */
export const revisionOr = (which: string, outcome: Outcome): { revision: number } => {
  if ('problem' in outcome) throw new Refusal(fault('entry.cannot-take-back', { which, reason: outcome.problem }))
  return outcome
}

import { getRouterParam } from 'h3'
import { z } from 'zod'
import { numberText } from '#shared/fields'
import { takeBack } from '#db/takeBack'
import { whoIs } from '../../../store/configuration'
import { database } from '../../../store/database'
import { checked, defineRoute, Refusal } from '../../../answers/refusal'
import { fault } from '#core/faults/catalogue'

/** Undoes a revision by a new one, unless something has changed again since. */
export default defineRoute('configure', async (event) => {
  const { number } = checked({ number: getRouterParam(event, 'number') }, z.object({ number: numberText(1) }))
  const outcome = await takeBack(database(), whoIs(event), number)
  if ('problem' in outcome) throw new Refusal(fault('entry.cannot-take-back', { number, reason: outcome.problem }))
  return outcome
})

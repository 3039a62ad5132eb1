import { idOf } from '../../../store/configuration'
import { engineClient } from '../../../runtime/engineClient'
import { defineRoute, valueOf } from '../../../answers/refusal'

/** Messages of a link that nobody claims: by topic, with form, rate and the last value. */
export default defineRoute('look', async (event) => {
  const id = idOf(event)
  return valueOf(await engineClient.call((engine) => engine.unclaimed(id)))
})

import { place } from '#shared/browse'
import { idOf } from '../../../store/configuration'
import { engineClient } from '../../../runtime/engineClient'
import { bodyOf, defineRoute, valueOf } from '../../../answers/refusal'

/** What lies inside a place on the far side; an empty address is where browsing starts. */
export default defineRoute('look', async (event) => {
  const where = await bodyOf(event, place)
  const id = idOf(event)
  return valueOf(await engineClient.call((engine) => engine.browse(id, where)))
})

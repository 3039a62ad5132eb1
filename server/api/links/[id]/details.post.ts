import { z } from 'zod'
import { place } from '#shared/browse'
import { idOf } from '../../../store/configuration'
import { engineClient } from '../../../runtime/engineClient'
import { bodyOf, defineRoute, manyBytes, valueOf } from '../../../answers/refusal'

const body = z.object({ places: z.array(place).max(500, 'At most 500 places at once.') })

/** Type, access, unit and present value of places on the far side. */
export default defineRoute('look', async (event) => {
  const { places } = await bodyOf(event, body, manyBytes)
  const id = idOf(event)
  return valueOf(await engineClient.call((engine) => engine.details(id, places)))
})

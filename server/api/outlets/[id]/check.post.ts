import { z } from 'zod'
import { idOf } from '../../../store/configuration'
import { bodyOf, defineRoute } from '../../../answers/refusal'
import { streamed } from '../../../answers/streamed'

/** Comes to an entry of an outlet as a consumer does, one JSON line per step as it happens. */
export default defineRoute('operate', async (event) => {
  const { entry } = await bodyOf(event, z.object({ entry: z.int().min(0) }))
  const id = idOf(event)
  return streamed(event, (engine, part) => engine.checkOutlet(part, id, entry))
})

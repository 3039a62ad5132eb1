import { z } from 'zod'
import { idOf } from '../../../lib/configuration'
import { bodyOf, defineRoute } from '../../../lib/refusal'
import { streamed } from '../../../lib/streamed'

/** Comes to a door as a client does, one JSON line per step as it happens. */
export default defineRoute('operate', async (event) => {
  const { door } = await bodyOf(event, z.object({ door: z.int().min(0) }))
  const id = idOf(event)
  return streamed(event, (engine, part) => engine.checkDoor(part, id, door))
})

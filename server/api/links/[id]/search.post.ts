import { z } from 'zod'
import { idOf } from '../../../store/configuration'
import { bodyOf, defineRoute } from '../../../answers/refusal'
import { streamed } from '../../../answers/streamed'

const body = z.object({ text: z.string().trim().min(1, 'Type a part of a name, or of a path with “/”.').max(240) })

/** Looks for names on the far side, or for paths where the text has a “/”; one JSON line per part found. */
export default defineRoute('look', async (event) => {
  const { text } = await bodyOf(event, body)
  const linkId = idOf(event)
  return streamed(event, (engine, id) => engine.search(id, linkId, text))
})

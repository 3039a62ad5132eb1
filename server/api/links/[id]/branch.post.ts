import { place } from '#shared/browse'
import { idOf } from '../../../store/configuration'
import { bodyOf, defineRoute } from '../../../answers/refusal'
import { streamed } from '../../../answers/streamed'

/** Every point below a place that can become a tag; one JSON line per part. */
export default defineRoute('look', async (event) => {
  const from = await bodyOf(event, place)
  const linkId = idOf(event)
  return streamed(event, (engine, id) => engine.branch(id, linkId, from))
})

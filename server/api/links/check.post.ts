import { linkTrial } from '#shared/links/link'
import { completeDraft } from '../../links/links'
import { bodyOf, defineRoute } from '../../answers/refusal'
import { streamed } from '../../answers/streamed'

/** Walks the path of a draft, one JSON line per step as it happens. */
export default defineRoute('configure', async (event) => {
  const { link, linkId } = await bodyOf(event, linkTrial)
  const draft = await completeDraft(link, linkId)
  return streamed(event, (engine, id) => engine.check(id, draft, linkId))
})

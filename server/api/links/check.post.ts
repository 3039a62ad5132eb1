import { linkTrial } from '#shared/links/link'
import { completeDraft } from '../../lib/links'
import { bodyOf, defineRoute } from '../../lib/refusal'
import { streamed } from '../../lib/streamed'

/** Walks the path of a draft, one JSON line per step as it happens. */
export default defineRoute('configure', async (event) => {
  const { link, linkId } = await bodyOf(event, linkTrial)
  const draft = await completeDraft(link, linkId)
  return streamed(event, (engine, id) => engine.check(id, draft, linkId))
})

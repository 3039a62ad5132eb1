import { checkLink } from '#shared/api/links'
import { defineRoute } from '../../answers/route'
import { streamed } from '../../answers/streamed'
import { completeDraft } from '../../links/links'

export default defineRoute(checkLink, async ({ event, body: { link, linkId } }) => {
  const draft = await completeDraft(link, linkId)
  return streamed(event, (engine, id) => engine.check(id, draft, linkId))
})

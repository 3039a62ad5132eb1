import { readApiDescription } from '#shared/api/links'
import { defineRoute } from '../../answers/route'
import { apiDescriptionOf } from '../../links/description'
import { completeDraft } from '../../links/links'

export default defineRoute(readApiDescription, async ({ body: { link, linkId, address, text } }) =>
  apiDescriptionOf(await completeDraft(link, linkId), address, text),
)

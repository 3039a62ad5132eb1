import { callOperation } from '#shared/api/links'
import { valueOf } from '../../answers/refusal'
import { defineRoute } from '../../answers/route'
import { completeDraft } from '../../links/links'
import { engineClient } from '../../runtime/engineClient'

export default defineRoute(callOperation, async ({ body: { link, linkId, operation, given } }) => {
  const draft = await completeDraft(link, linkId)
  return valueOf(await engineClient.call((engine) => engine.callOnce(draft, operation, given)))
})

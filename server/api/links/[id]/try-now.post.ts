import { tryLinkNow } from '#shared/api/links'
import { valueOf } from '../../../answers/refusal'
import { defineRoute } from '../../../answers/route'
import { engineClient } from '../../../runtime/engineClient'

export default defineRoute(tryLinkNow, async ({ params, body }) => {
  valueOf(await engineClient.call((engine) => engine.tryLinkNow(params.id, body.unit)))
  return { tried: true as const }
})

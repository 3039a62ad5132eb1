import { linkTraffic } from '#shared/api/links'
import { valueOf } from '../../../answers/refusal'
import { defineRoute } from '../../../answers/route'
import { engineClient } from '../../../runtime/engineClient'

export default defineRoute(linkTraffic, async ({ params, query: { after, limit } }) =>
  valueOf(await engineClient.call((engine) => engine.traffic('link', params.id, after ?? null, limit))),
)

import { outletTraffic } from '#shared/api/outlets'
import { valueOf } from '../../../answers/refusal'
import { defineRoute } from '../../../answers/route'
import { engineClient } from '../../../runtime/engineClient'

export default defineRoute(outletTraffic, async ({ params, query: { after, limit } }) =>
  valueOf(await engineClient.call((engine) => engine.traffic('outlet', params.id, after ?? null, limit))),
)

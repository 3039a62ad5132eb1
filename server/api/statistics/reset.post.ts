import { resetStatistics } from '#shared/api/statistics'
import { valueOf } from '../../answers/refusal'
import { defineRoute } from '../../answers/route'
import { engineClient } from '../../runtime/engineClient'

export default defineRoute(resetStatistics, async ({ body }) => {
  valueOf(await engineClient.call((engine) => engine.resetStatistics(body.only)))
  return { since: new Date().toISOString() }
})

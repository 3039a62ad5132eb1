import { resetCallTotals } from '#shared/api/calls'
import { valueOf } from '../../../../answers/refusal'
import { defineRoute } from '../../../../answers/route'
import { engineClient } from '../../../../runtime/engineClient'

export default defineRoute(resetCallTotals, async ({ params: { id } }) => {
  valueOf(await engineClient.call((engine) => engine.resetStatistics({ of: 'outlet', id })))
  return { since: new Date().toISOString() }
})

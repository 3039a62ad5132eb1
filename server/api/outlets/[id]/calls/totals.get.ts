import { showCallTotals } from '#shared/api/calls'
import { valueOf } from '../../../../answers/refusal'
import { defineRoute } from '../../../../answers/route'
import { engineClient } from '../../../../runtime/engineClient'

export default defineRoute(showCallTotals, async ({ params }) => valueOf(await engineClient.call((engine) => engine.callTotals(params.id))))

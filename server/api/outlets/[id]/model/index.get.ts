import { showModelPlan } from '#shared/api/outlets'
import { valueOf } from '../../../../answers/refusal'
import { defineRoute } from '../../../../answers/route'
import { engineClient } from '../../../../runtime/engineClient'

export default defineRoute(showModelPlan, async ({ params }) =>
  valueOf(await engineClient.call((engine) => engine.modelPlan(params.id, false))),
)

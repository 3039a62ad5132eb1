import { listCalls } from '#shared/api/calls'
import { valueOf } from '../../../../answers/refusal'
import { defineRoute } from '../../../../answers/route'
import { engineClient } from '../../../../runtime/engineClient'

export default defineRoute(listCalls, async ({ params, query: { limit, ...filter } }) =>
  valueOf(await engineClient.call((engine) => engine.calls(params.id, filter, limit))),
)

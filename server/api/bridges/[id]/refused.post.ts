import { settleRefused } from '#shared/api/bridges'
import { valueOf } from '../../../answers/refusal'
import { defineRoute } from '../../../answers/route'
import { engineClient } from '../../../runtime/engineClient'

export default defineRoute(settleRefused, async ({ params, body: { keys, then } }) =>
  valueOf(await engineClient.call((engine) => engine.settleRefused(params.id, keys, then))),
)

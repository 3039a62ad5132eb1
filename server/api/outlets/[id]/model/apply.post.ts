import { applyModel } from '#shared/api/outlets'
import { valueOf } from '../../../../answers/refusal'
import { defineRoute } from '../../../../answers/route'
import { engineClient } from '../../../../runtime/engineClient'

/** A large site is made in many requests. */
const longestMs = 300_000

export default defineRoute(applyModel, async ({ params, body: { digest, removing } }) =>
  valueOf(await engineClient.call((engine) => engine.applyModel(params.id, digest, removing), longestMs)),
)

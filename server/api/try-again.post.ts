import { tryAgain } from '#shared/api/site'
import { defineRoute } from '../answers/route'
import { engineClient } from '../runtime/engineClient'

export default defineRoute(tryAgain, () => engineClient.call(async (engine) => ({ notInForce: await engine.tryAgain() }), 30_000))

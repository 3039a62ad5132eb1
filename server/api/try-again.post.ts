import { engineClient } from '../runtime/engineClient'
import { defineRoute } from '../answers/refusal'

/** Has the engine try everything again that is not as configured; answers with what still is not. */
export default defineRoute('configure', () => engineClient.call(async (engine) => ({ notInForce: await engine.tryAgain() }), 30_000))

import { engineClient } from '../../lib/engineClient'
import { defineRoute } from '../../lib/refusal'

/** Makes a new certificate and key for this application. */
export default defineRoute(() => engineClient.call((engine) => engine.renewOwn()))

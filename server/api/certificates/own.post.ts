import { engineClient } from '../../lib/engineClient'
import { defineRoute } from '../../lib/refusal'

/** Makes a new certificate and key for this application. */
export default defineRoute('administer', () => engineClient.call((engine) => engine.renewOwn()))

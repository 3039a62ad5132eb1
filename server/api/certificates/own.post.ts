import { engineClient } from '../../runtime/engineClient'
import { defineRoute } from '../../answers/refusal'

/** Makes a new certificate and key for this application. */
export default defineRoute('administer', () => engineClient.call((engine) => engine.renewOwn()))

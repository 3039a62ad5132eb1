import { engineClient } from '../../runtime/engineClient'
import { defineRoute } from '../../answers/refusal'

/** The application's own certificate, without its key. */
export default defineRoute('look', () => engineClient.call((engine) => engine.own()))

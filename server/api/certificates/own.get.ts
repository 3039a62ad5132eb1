import { engineClient } from '../../lib/engineClient'
import { defineRoute } from '../../lib/refusal'

/** The application's own certificate, without its key. */
export default defineRoute('look', () => engineClient.call((engine) => engine.own()))

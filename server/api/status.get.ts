import { engineClient } from '../lib/engineClient'
import { defineRoute } from '../lib/refusal'

/** Links, outlets and rates, as the engine sees them now. */
export default defineRoute('look', () => engineClient.call((engine) => engine.status(), 1500))

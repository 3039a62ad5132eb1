import { engineClient } from '../runtime/engineClient'
import { defineRoute } from '../answers/refusal'

/** Links, outlets and rates, as the engine sees them now. */
export default defineRoute('look', () => engineClient.call((engine) => engine.status(), 1500))

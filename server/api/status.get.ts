import { showStatus } from '#shared/api/site'
import { defineRoute } from '../answers/route'
import { engineClient } from '../runtime/engineClient'

export default defineRoute(showStatus, () => engineClient.call((engine) => engine.status(), 1500))

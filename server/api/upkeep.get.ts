import { showUpkeep } from '#shared/api/site'
import { defineRoute } from '../answers/route'
import { engineClient } from '../runtime/engineClient'

export default defineRoute(showUpkeep, () => engineClient.call((engine) => engine.upkeep(), 20_000))

import { listStatistics } from '#shared/api/statistics'
import { defineRoute } from '../../answers/route'
import { engineClient } from '../../runtime/engineClient'

export default defineRoute(listStatistics, () => engineClient.call((engine) => engine.statistics()))

import { listStatistics } from '#shared/api/statistics'
import { defineRoute } from '../../answers/route'
import { engineClient } from '../../runtime/engineClient'

export default defineRoute(listStatistics, async () => ({ links: await engineClient.call((engine) => engine.linkStatistics()) }))

import { tagTrends } from '#shared/api/watch'
import { defineRoute } from '../../answers/route'
import { engineClient } from '../../runtime/engineClient'

export default defineRoute(tagTrends, ({ body: { ids, after } }) => engineClient.call((engine) => engine.trends(ids, after)))

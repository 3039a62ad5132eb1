import { listUnclaimed } from '#shared/api/links'
import { valueOf } from '../../../answers/refusal'
import { defineRoute } from '../../../answers/route'
import { pageOfUnclaimed } from '../../../answers/unclaimed'
import { engineClient } from '../../../runtime/engineClient'

export default defineRoute(listUnclaimed, async ({ params, query }) =>
  pageOfUnclaimed(valueOf(await engineClient.call((engine) => engine.unclaimed('link', params.id))), query),
)

import { listUnclaimedAtOutlet } from '#shared/api/outlets'
import { valueOf } from '../../../answers/refusal'
import { defineRoute } from '../../../answers/route'
import { pageOfUnclaimed } from '../../../answers/unclaimed'
import { engineClient } from '../../../runtime/engineClient'

export default defineRoute(listUnclaimedAtOutlet, async ({ params, query }) =>
  pageOfUnclaimed(valueOf(await engineClient.call((engine) => engine.unclaimed('outlet', params.id))), query),
)

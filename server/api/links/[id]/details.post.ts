import { placesInDetail } from '#shared/api/links'
import { valueOf } from '../../../answers/refusal'
import { defineRoute } from '../../../answers/route'
import { engineClient } from '../../../runtime/engineClient'

export default defineRoute(placesInDetail, async ({ params, body: { places } }) =>
  valueOf(await engineClient.call((engine) => engine.details(params.id, places))),
)

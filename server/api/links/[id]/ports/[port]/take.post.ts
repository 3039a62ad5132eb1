import { takeSensor } from '#shared/api/links'
import { valueOf } from '../../../../../answers/refusal'
import { defineRoute } from '../../../../../answers/route'
import { engineClient } from '../../../../../runtime/engineClient'
import { takeOffered } from '../../../../../sensors/take'
import { whoIs } from '../../../../../store/configuration'

export default defineRoute(takeSensor, async ({ event, params, body: { folder } }) => {
  const offer = valueOf(await engineClient.call((engine) => engine.sensorOffer(params.id, params.port)))
  return takeOffered(params.id, offer, folder, whoIs(event))
})

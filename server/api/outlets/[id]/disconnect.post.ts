import { disconnectClient } from '#shared/api/outlets'
import { defineRoute } from '../../../answers/route'
import { engineClient } from '../../../runtime/engineClient'

export default defineRoute(disconnectClient, async ({ params, body: { client } }) => ({
  disconnected: await engineClient.call((engine) => engine.disconnectClient(params.id, client)),
}))

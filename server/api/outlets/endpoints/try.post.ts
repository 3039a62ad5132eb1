import { tryEndpoint } from '#shared/api/outlets'
import { defineRoute } from '../../../answers/route'
import { engineClient } from '../../../runtime/engineClient'

export default defineRoute(tryEndpoint, ({ body: { endpoint, ...tried } }) =>
  engineClient.call((engine) => engine.tryEndpoint(endpoint, tried)),
)

import { mendRefused } from '#shared/api/bridges'
import { valueOf } from '../../../answers/refusal'
import { defineRoute } from '../../../answers/route'
import { engineClient } from '../../../runtime/engineClient'

export default defineRoute(mendRefused, async ({ params, body: { key, values } }) => {
  valueOf(await engineClient.call((engine) => engine.mendRefused(params.id, key, values)))
  return { sent: true as const }
})

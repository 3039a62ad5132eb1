import { tryForwarding } from '#shared/api/journal'
import { Refusal } from '../../../answers/refusal'
import { defineRoute } from '../../../answers/route'
import { engineClient } from '../../../runtime/engineClient'

export default defineRoute(tryForwarding, async ({ body }) => {
  const tried = await engineClient.call((engine) => engine.tryForwarding(body))
  if (!tried.ok) throw new Refusal(tried.fault)
  return { sent: true as const }
})

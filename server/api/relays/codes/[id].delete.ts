import { withdrawPairingCode } from '#shared/api/relays'
import { valueOf } from '../../../answers/refusal'
import { defineRoute } from '../../../answers/route'
import { engineClient } from '../../../runtime/engineClient'

export default defineRoute(withdrawPairingCode, async ({ params: { id } }) => {
  valueOf(await engineClient.call((engine) => engine.withdrawPairingCode(id)))
  return { withdrawn: id }
})

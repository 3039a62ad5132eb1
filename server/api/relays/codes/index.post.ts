import { makePairingCode } from '#shared/api/relays'
import { valueOf } from '../../../answers/refusal'
import { defineRoute } from '../../../answers/route'
import { engineClient } from '../../../runtime/engineClient'
import { whoIs } from '../../../store/configuration'

export default defineRoute(makePairingCode, async ({ event, body }) => {
  const who = whoIs(event)
  return valueOf(await engineClient.call((engine) => engine.makePairingCode(body, who)))
})

import { listPairingCodes } from '#shared/api/relays'
import { defineRoute } from '../../../answers/route'
import { engineClient } from '../../../runtime/engineClient'

export default defineRoute(listPairingCodes, () => engineClient.call((engine) => engine.pairingCodes()))

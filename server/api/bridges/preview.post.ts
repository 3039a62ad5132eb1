import { previewBridge } from '#shared/api/bridges'
import { defineRoute } from '../../answers/route'
import { requireWho } from '../../access/access'
import { requireMayAsk, requireSound } from '../../bridges/bridges'
import { engineClient } from '../../runtime/engineClient'
import { database } from '../../store/database'

export default defineRoute(previewBridge, async ({ event, body: { bridge, bridgeId, message } }) => {
  await requireSound(database(), bridge)
  await requireMayAsk(database(), requireWho(event).role, bridge, bridgeId)
  return engineClient.call((engine) => engine.previewBridge(bridge, bridgeId, message))
})

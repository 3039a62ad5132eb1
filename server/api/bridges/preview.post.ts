import { previewBridge } from '#shared/api/bridges'
import { defineRoute } from '../../answers/route'
import { requireSound } from '../../bridges/bridges'
import { engineClient } from '../../runtime/engineClient'
import { database } from '../../store/database'

export default defineRoute(previewBridge, async ({ body: { bridge, bridgeId, message } }) => {
  await requireSound(database(), bridge)
  return engineClient.call((engine) => engine.previewBridge(bridge, bridgeId, message))
})

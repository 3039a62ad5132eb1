import { runBridge } from '#shared/api/bridges'
import { valueOf } from '../../../answers/refusal'
import { defineRoute } from '../../../answers/route'
import { engineClient } from '../../../runtime/engineClient'
import { onceInForce } from '../../../runtime/onceInForce'

export default defineRoute(runBridge, async ({ params: { id } }) => ({
  run: valueOf(await onceInForce('bridge', id, () => engineClient.call((engine) => engine.runBridge(id)))),
}))

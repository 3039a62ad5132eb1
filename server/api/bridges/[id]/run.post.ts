import { runBridge } from '#shared/api/bridges'
import { valueOf } from '../../../answers/refusal'
import { defineRoute } from '../../../answers/route'
import { engineClient } from '../../../runtime/engineClient'

export default defineRoute(runBridge, async ({ params }) => ({
  run: valueOf(await engineClient.call((engine) => engine.runBridge(params.id))),
}))

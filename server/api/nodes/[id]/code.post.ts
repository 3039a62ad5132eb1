import { makeNodeCode } from '#shared/api/nodes'
import { valueOf } from '../../../answers/refusal'
import { defineRoute } from '../../../answers/route'
import { engineClient } from '../../../runtime/engineClient'
import { onceInForce } from '../../../runtime/onceInForce'
import { whoIs } from '../../../store/configuration'

export default defineRoute(makeNodeCode, async ({ event, params: { id }, body: { minutes } }) => {
  const who = whoIs(event)
  return valueOf(await onceInForce('node', id, () => engineClient.call((engine) => engine.makeNodeCode(id, minutes, who))))
})

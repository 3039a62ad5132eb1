import { leadNode } from '#shared/api/nodes'
import { valueOf } from '../../../answers/refusal'
import { defineRoute } from '../../../answers/route'
import { engineClient } from '../../../runtime/engineClient'
import { whoIs } from '../../../store/configuration'

export default defineRoute(leadNode, async ({ event, params: { id } }) => {
  const who = whoIs(event)
  valueOf(await engineClient.call((engine) => engine.handOver(id, who)))
  return { asked: id }
})

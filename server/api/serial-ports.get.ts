import { listSerialPorts } from '#shared/api/links'
import { valueOf } from '../answers/refusal'
import { defineRoute } from '../answers/route'
import { engineClient } from '../runtime/engineClient'

export default defineRoute(listSerialPorts, async ({ query: { node = null } }) => {
  const found = await engineClient.call((engine) => engine.serialPorts(node))
  if (Array.isArray(found)) return found
  return valueOf(found)
})

import { listNodeCodes } from '#shared/api/nodes'
import { defineRoute } from '../../answers/route'
import { engineClient } from '../../runtime/engineClient'

export default defineRoute(listNodeCodes, () => engineClient.call((engine) => engine.nodeCodes()))

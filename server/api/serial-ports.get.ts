import { listSerialPorts } from '#shared/api/links'
import { defineRoute } from '../answers/route'
import { engineClient } from '../runtime/engineClient'

export default defineRoute(listSerialPorts, () => engineClient.call((engine) => engine.serialPorts()))

import { listSensorPorts } from '#shared/api/links'
import { valueOf } from '../../../../answers/refusal'
import { defineRoute } from '../../../../answers/route'
import { engineClient } from '../../../../runtime/engineClient'

export default defineRoute(listSensorPorts, async ({ params }) =>
  valueOf(await engineClient.call((engine) => engine.sensorPorts(params.id))),
)

import { listAlarms } from '#shared/api/alarms'
import { defineRoute } from '../../answers/route'
import { engineClient } from '../../runtime/engineClient'

export default defineRoute(listAlarms, ({ query }) => engineClient.call((engine) => engine.alarms(query)))

import { acknowledgeAlarms } from '#shared/api/alarms'
import { writerOf } from '../../access/writer'
import { defineRoute } from '../../answers/route'
import { engineClient } from '../../runtime/engineClient'

export default defineRoute(acknowledgeAlarms, ({ event, body: { keys, matching, comment } }) => {
  const { who } = writerOf(event)
  return engineClient.call((engine) => engine.acknowledgeAlarms(matching ?? [...new Set(keys)], who, comment))
})

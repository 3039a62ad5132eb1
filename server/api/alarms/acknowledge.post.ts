import { acknowledgeAlarms } from '#shared/api/alarms'
import { writerOf } from '../../access/writer'
import { defineRoute } from '../../answers/route'
import { engineClient } from '../../runtime/engineClient'

export default defineRoute(acknowledgeAlarms, async ({ event, body: { keys, comment } }) => {
  const wanted = [...new Set(keys)]
  const { who } = writerOf(event)
  const left = await engineClient.call((engine) => engine.acknowledgeAlarms(wanted, who, comment))
  return { acknowledged: wanted.length - left.length, left }
})

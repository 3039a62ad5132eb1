import { commentAlarm } from '#shared/api/alarms'
import { writerOf } from '../../access/writer'
import { defineRoute } from '../../answers/route'
import { engineClient } from '../../runtime/engineClient'

export default defineRoute(commentAlarm, async ({ event, body: { key, comment } }) => {
  const { who } = writerOf(event)
  return { commented: await engineClient.call((engine) => engine.commentAlarm(key, who, comment)) }
})

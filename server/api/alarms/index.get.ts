import { listAlarms } from '#shared/api/alarms'
import { pageOfArray } from '../../answers/page'
import { defineRoute } from '../../answers/route'
import { engineClient } from '../../runtime/engineClient'

export default defineRoute(listAlarms, async ({ query }) => {
  const alarms = (await engineClient.call((engine) => engine.alarms())).map((alarm, rank) => ({ rank, alarm }))
  const page = pageOfArray(alarms, query, {
    text: ({ alarm: { path, text } }) => `${path} ${text}`,
    by: { rank: ({ rank }) => rank, path: ({ alarm }) => alarm.path, since: ({ alarm }) => alarm.since },
  })
  return { ...page, items: page.items.map(({ alarm }) => alarm) }
})

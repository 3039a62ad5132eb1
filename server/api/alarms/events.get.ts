import { listAlarmEvents } from '#shared/api/alarms'
import { holding, pageOfLog } from '../../answers/page'
import { defineRoute } from '../../answers/route'
import { database } from '../../store/database'

export default defineRoute(listAlarmEvents, async ({ query }) => {
  const { before, tag, find } = query
  const matching = database()
    .selectFrom('alarm_event')
    .$if(before !== undefined, (q) => q.where('id', '<', before!))
    .$if(tag !== undefined, (q) => q.where('tag_id', '=', tag!))
    .where(holding(find, ['path', 'text', 'who', 'comment']))
    .selectAll()
  const page = await pageOfLog(matching, query, { by: { id: 'id', path: 'path', who: 'who' }, last: 'id' })
  return {
    ...page,
    items: page.items.map(({ tag_id, at, id, ...row }) => ({ ...row, id: Number(id), at: at.toISOString(), tagId: tag_id })),
  }
})

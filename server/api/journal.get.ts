import { listJournal } from '#shared/api/site'
import { holding, pageOfLog } from '../answers/page'
import { defineRoute } from '../answers/route'
import { database } from '../store/database'

export default defineRoute(listJournal, async ({ query }) => {
  const { before, severity, find } = query
  const matching = database()
    .selectFrom('journal')
    .$if(before !== undefined, (q) => q.where('id', '<', before!))
    .$if(severity !== undefined, (q) => q.where('severity', '=', severity!))
    .where(holding(find, ['text', 'source']))
    .selectAll()
  const page = await pageOfLog(matching, query, { by: { id: 'id', source: 'source' }, last: 'id' })
  return { ...page, items: page.items.map((entry) => ({ ...entry, at: entry.at.toISOString() })) }
})

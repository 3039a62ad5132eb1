import { listDeeds } from '#shared/api/journal'
import { holding, pageOfLog } from '../answers/page'
import { defineRoute } from '../answers/route'
import { database } from '../store/database'

export default defineRoute(listDeeds, async ({ query }) => {
  const { before, kind, find } = query
  const matching = database()
    .selectFrom('deed')
    .$if(before !== undefined, (q) => q.where('id', '<', before!))
    .$if(kind !== undefined, (q) => q.where('kind', '=', kind!))
    .where(holding(find, ['who', 'what', 'place']))
    .selectAll()
  const page = await pageOfLog(matching, query, { by: { id: 'id', who: 'who' }, last: 'id' })
  return { ...page, items: page.items.map(({ at, ...deed }) => ({ ...deed, at: at.toISOString() })) }
})

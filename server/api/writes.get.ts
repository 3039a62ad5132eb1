import { listWrites } from '#shared/api/site'
import { holding, pageOfLog } from '../answers/page'
import { defineRoute } from '../answers/route'
import { database } from '../store/database'

export default defineRoute(listWrites, async ({ query }) => {
  const { before, tag, failed, find } = query
  const matching = database()
    .selectFrom('written')
    .$if(before !== undefined, (q) => q.where('id', '<', before!))
    .$if(tag !== undefined, (q) => q.where('tag_id', '=', tag!))
    .$if(failed === 'only', (q) => q.where('ok', '=', false))
    .where(holding(find, ['path', 'who']))
    .selectAll()
  const page = await pageOfLog(matching, query, { by: { id: 'id', path: 'path', who: 'who' }, last: 'id' })
  return { ...page, items: page.items.map(({ tag_id, at, key: _key, ...row }) => ({ ...row, at: at.toISOString(), tagId: tag_id })) }
})

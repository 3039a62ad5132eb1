import { sql } from 'kysely'
import { listRevisions } from '#shared/api/site'
import { holding, pageOfLog } from '../../answers/page'
import { defineRoute } from '../../answers/route'
import { database } from '../../store/database'

export default defineRoute(listRevisions, async ({ query }) => {
  const { before, find } = query
  const matching = database()
    .selectFrom('revision')
    .$if(before !== undefined, (q) => q.where('number', '<', before!))
    .where(holding(find, ['what', 'who', 'comment']))
    .select([
      'number',
      'at',
      'who',
      'what',
      'comment',
      sql<number>`(select count(*)::int from change where change.revision = revision.number)`.as('things'),
    ])
  const page = await pageOfLog(matching, query, { by: { number: 'number', who: 'who' }, last: 'number' })
  return { ...page, items: page.items.map((revision) => ({ ...revision, at: revision.at.toISOString() })) }
})

import { benchNow } from '#shared/api/bench'
import { requirePerson } from '../../access/ownThings'
import { defineRoute } from '../../answers/route'
import { readableEntries } from '../../bench/bench'
import { engineClient } from '../../runtime/engineClient'
import { database } from '../../store/database'

export default defineRoute(benchNow, async ({ event, body: { ids, open } }) => {
  const rows = await database()
    .selectFrom('bench')
    .selectAll()
    .where('person_id', '=', requirePerson(event))
    .where('id', 'in', ids)
    .execute()
  return engineClient.call((engine) => engine.benchNow(readableEntries(rows), open))
})

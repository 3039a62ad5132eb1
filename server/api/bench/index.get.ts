import { listBench } from '#shared/api/bench'
import { requirePerson } from '../../access/ownThings'
import { pageOfArray } from '#core/lists/paged'
import { defineRoute } from '../../answers/route'
import { readableEntries } from '../../bench/bench'
import { database } from '../../store/database'

export default defineRoute(listBench, async ({ event, query }) => {
  const rows = await database().selectFrom('bench').selectAll().where('person_id', '=', requirePerson(event)).execute()
  return pageOfArray(readableEntries(rows), query, {
    text: ({ address, type }) => `${address} ${type}`,
    by: { id: ({ id }) => id, address: ({ address }) => address },
  })
})

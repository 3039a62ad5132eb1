import { removeFromBench } from '#shared/api/bench'
import { requirePerson } from '../../access/ownThings'
import { defineRoute } from '../../answers/route'
import { database } from '../../store/database'

export default defineRoute(removeFromBench, async ({ event, body: { ids } }) => {
  const { numDeletedRows } = await database()
    .deleteFrom('bench')
    .where('person_id', '=', requirePerson(event))
    .where('id', 'in', ids)
    .executeTakeFirst()
  return { removed: Number(numDeletedRows) }
})

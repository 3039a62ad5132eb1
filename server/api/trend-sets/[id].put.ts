import { changeTrendSet } from '#shared/api/trendSets'
import { requirePerson } from '../../access/ownThings'
import { defineRoute } from '../../answers/route'
import { namesTaken } from '../../store/configuration'
import { inTurn } from '../../store/ownRows'
import { ownSet, setFor } from '../../trends/trendSets'

export default defineRoute(changeTrendSet, ({ event, params: { id }, body: { name, shared, content } }) => {
  const me = requirePerson(event)
  const changed = inTurn(me, async (db) => {
    await ownSet(me, id, db)
    await db
      .updateTable('trend_set')
      .set({ name, shared, content: JSON.stringify(content) })
      .where('id', '=', id)
      .execute()
    return setFor(me, id, db)
  })
  return namesTaken('set of trends', name, 'name', changed)
})

import { removeTrendSet } from '#shared/api/trendSets'
import { requirePerson } from '../../access/ownThings'
import { defineRoute } from '../../answers/route'
import { inTurn } from '../../store/ownRows'
import { ownSet } from '../../trends/trendSets'

export default defineRoute(removeTrendSet, ({ event, params: { id } }) => {
  const me = requirePerson(event)
  return inTurn(me, async (db) => {
    await ownSet(me, id, db)
    await db.deleteFrom('trend_set').where('id', '=', id).execute()
    return { removed: id }
  })
})

import { removeWatchList } from '#shared/api/watch'
import { requirePerson } from '../../access/ownThings'
import { defineRoute } from '../../answers/route'
import { inTurn } from '../../store/ownRows'
import { ownList } from '../../watch/watchLists'

export default defineRoute(removeWatchList, ({ event, params: { id } }) => {
  const me = requirePerson(event)
  return inTurn(me, async (db) => {
    await ownList(me, id, db)
    await db.deleteFrom('watch_list').where('id', '=', id).execute()
    return { removed: id }
  })
})

import { changeWatchList } from '#shared/api/watch'
import { requirePerson } from '../../access/ownThings'
import { defineRoute } from '../../answers/route'
import { namesTaken } from '../../store/configuration'
import { inTurn } from '../../store/ownRows'
import { listFor, ownList, presentTags } from '../../watch/watchLists'

export default defineRoute(changeWatchList, ({ event, params: { id }, body: { name, shared, tags } }) => {
  const me = requirePerson(event)
  const changed = inTurn(me, async (db) => {
    await ownList(me, id, db)
    await db
      .updateTable('watch_list')
      .set({ name, shared, tags: await presentTags(tags, db) })
      .where('id', '=', id)
      .execute()
    return listFor(me, id, db)
  })
  return namesTaken('watch list', name, 'name', changed)
})

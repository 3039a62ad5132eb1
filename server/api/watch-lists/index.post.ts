import { fault } from '#core/faults/catalogue'
import { makeWatchList } from '#shared/api/watch'
import { mostWatchLists } from '#shared/watch'
import { requirePerson } from '../../access/ownThings'
import { Refusal } from '../../answers/refusal'
import { defineRoute } from '../../answers/route'
import { namesTaken } from '../../store/configuration'
import { inTurn } from '../../store/ownRows'
import { listFor, listsFor, presentTags } from '../../watch/watchLists'

export default defineRoute(makeWatchList, ({ event, body: { name, shared, tags } }) => {
  const me = requirePerson(event)
  const made = inTurn(me, async (db) => {
    const mine = (await listsFor(me, db).execute()).filter(({ person_id }) => person_id === me)
    if (mine.length >= mostWatchLists) throw new Refusal(fault('watch.full', { most: mostWatchLists, what: 'watch lists for each person' }))
    const { id } = await db
      .insertInto('watch_list')
      .values({ person_id: me, name, shared, tags: await presentTags(tags, db) })
      .returning('id')
      .executeTakeFirstOrThrow()
    return listFor(me, id, db)
  })
  return namesTaken('watch list', name, 'name', made)
})

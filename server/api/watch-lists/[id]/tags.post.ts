import { fault } from '#core/faults/catalogue'
import { changeWatched } from '#shared/api/watch'
import { mostWatched } from '#shared/watch'
import { requirePerson } from '../../../access/ownThings'
import { Refusal } from '../../../answers/refusal'
import { defineRoute } from '../../../answers/route'
import { inTurn } from '../../../store/ownRows'
import { listFor, ownList, presentTags } from '../../../watch/watchLists'

export default defineRoute(changeWatched, ({ event, params: { id }, body: { add, remove } }) => {
  const me = requirePerson(event)
  return inTurn(me, async (db) => {
    const { tags } = await ownList(me, id, db)
    const kept = tags.filter((tag) => !remove.includes(tag))
    const next = [...new Set([...kept, ...(await presentTags(add, db))])]
    if (next.length > mostWatched) throw new Refusal(fault('watch.full', { most: mostWatched, what: 'tags in a watch list' }))
    await db.updateTable('watch_list').set({ tags: next }).where('id', '=', id).execute()
    return listFor(me, id, db)
  })
})

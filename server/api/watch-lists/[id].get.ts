import { sql } from 'kysely'
import { thingsOf } from '#db/rows'
import { showWatchList } from '#shared/api/watch'
import { requirePerson } from '../../access/ownThings'
import { defineRoute } from '../../answers/route'
import { database } from '../../store/database'
import { listFor } from '../../watch/watchLists'

export default defineRoute(showWatchList, async ({ event, params: { id } }) => {
  const list = await listFor(requirePerson(event), id)
  const rows = await database()
    .selectFrom('tag')
    .selectAll()
    .where(sql<boolean>`id = any(${list.tags})`)
    .execute()
  const byId = new Map(thingsOf('tag', rows).map((tag) => [tag.id, tag]))
  return { ...list, watched: list.tags.flatMap((tag) => byId.get(tag) ?? []) }
})

import { listWatchLists } from '#shared/api/watch'
import { requirePerson } from '../../access/ownThings'
import { pageOfArray } from '#core/lists/paged'
import { defineRoute } from '../../answers/route'
import { listsFor, shownList } from '../../watch/watchLists'

export default defineRoute(listWatchLists, async ({ event, query }) => {
  const me = requirePerson(event)
  const rows = await listsFor(me).execute()
  return pageOfArray(
    rows.map((row) => shownList(row, me)),
    query,
    {
      text: ({ name, owner }) => `${name} ${owner}`,
      by: { name: ({ name }) => name, owner: ({ owner }) => owner, id: ({ id }) => id },
    },
  )
})

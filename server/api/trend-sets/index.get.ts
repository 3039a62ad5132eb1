import { listTrendSets } from '#shared/api/trendSets'
import { requirePerson } from '../../access/ownThings'
import { pageOfArray } from '#core/lists/paged'
import { defineRoute } from '../../answers/route'
import { setsFor, shownSet } from '../../trends/trendSets'

export default defineRoute(listTrendSets, async ({ event, query }) => {
  const me = requirePerson(event)
  const rows = await setsFor(me).execute()
  return pageOfArray(
    rows.map((row) => shownSet(row, me)),
    query,
    {
      text: ({ name, owner }) => `${name} ${owner}`,
      by: { name: ({ name }) => name, owner: ({ owner }) => owner, id: ({ id }) => id },
    },
  )
})

import { listWallLinks } from '#shared/api/displays'
import { pageOfArray } from '#core/lists/paged'
import { defineRoute } from '../../answers/route'
import { shownWallLink } from '../../displays/walls'
import { database } from '../../store/database'

export default defineRoute(listWallLinks, async ({ query }) => {
  const rows = await database().selectFrom('wall_link').selectAll().execute()
  return pageOfArray(rows.map(shownWallLink), query, {
    text: ({ name, equipment, madeBy }) => `${name} ${equipment} ${madeBy}`,
    by: { name: ({ name }) => name, id: ({ id }) => id, displayId: ({ displayId }) => displayId, expiresAt: (one) => one.expiresAt },
  })
})

import { listBridges } from '#shared/api/bridges'
import { pageOfArray } from '#core/lists/paged'
import { defineRoute } from '../../answers/route'
import { shownBridges } from '../../bridges/bridges'
import { database } from '../../store/database'

export default defineRoute(listBridges, async ({ query }) =>
  pageOfArray(shownBridges(await database().selectFrom('bridge').selectAll().execute()), query, {
    text: ({ name }) => name,
    by: { name: ({ name }) => name, id: ({ id }) => id, revision: ({ revision }) => revision },
  }),
)

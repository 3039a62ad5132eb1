import { listRecordSets } from '#shared/api/recordSets'
import { pageOfArray } from '#core/lists/paged'
import { defineRoute } from '../../answers/route'
import { shownSets } from '../../records/recordSets'
import { database } from '../../store/database'

export default defineRoute(listRecordSets, async ({ query }) =>
  pageOfArray(shownSets(await database().selectFrom('recordSet').selectAll().execute()), query, {
    text: ({ name }) => name,
    by: { name: ({ name }) => name, id: ({ id }) => id, revision: ({ revision }) => revision },
  }),
)

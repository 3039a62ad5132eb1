import { listRecordings } from '#shared/api/history'
import { pageOfArray } from '#core/lists/paged'
import { defineRoute } from '../../answers/route'
import { allRecordings } from '../../history/recordings'

export default defineRoute(listRecordings, async ({ query }) =>
  pageOfArray(await allRecordings(), query, {
    text: ({ pattern }) => pattern,
    by: { pattern: ({ pattern }) => pattern, id: ({ id }) => id, revision: ({ revision }) => revision },
  }),
)

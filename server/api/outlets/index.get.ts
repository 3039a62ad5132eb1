import { listOutlets } from '#shared/api/outlets'
import { pageOfArray } from '#core/lists/paged'
import { defineRoute } from '../../answers/route'
import { shownOutlets } from '../../outlets/outlets'
import { database } from '../../store/database'

export default defineRoute(listOutlets, async ({ query }) =>
  pageOfArray(shownOutlets(await database().selectFrom('outlet').selectAll().execute()), query, {
    text: ({ name, kind }) => `${name} ${kind}`,
    by: { name: ({ name }) => name, kind: ({ kind }) => kind, id: ({ id }) => id, revision: ({ revision }) => revision },
  }),
)

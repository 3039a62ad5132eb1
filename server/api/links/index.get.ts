import { listLinks } from '#shared/api/links'
import { placeOf } from '#shared/links/link'
import { pageOfArray } from '#core/lists/paged'
import { defineRoute } from '../../answers/route'
import { shownLinks } from '../../links/links'
import { database } from '../../store/database'

export default defineRoute(listLinks, async ({ query }) =>
  pageOfArray(shownLinks(await database().selectFrom('link').selectAll().execute()), query, {
    text: (link) => `${link.name} ${link.kind} ${placeOf(link)}`,
    by: { name: ({ name }) => name, kind: ({ kind }) => kind, id: ({ id }) => id, revision: ({ revision }) => revision },
  }),
)

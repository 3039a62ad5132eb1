import { listDisplays } from '#shared/api/displays'
import { pageOfArray } from '#core/lists/paged'
import { defineRoute } from '../../answers/route'
import { allDisplays } from '../../displays/displays'

export default defineRoute(listDisplays, async ({ query }) =>
  pageOfArray(await allDisplays(), query, {
    text: ({ name, class: of, description }) => `${name} ${of} ${description}`,
    by: { name: ({ name }) => name, class: (one) => one.class, id: ({ id }) => id, revision: ({ revision }) => revision },
  }),
)

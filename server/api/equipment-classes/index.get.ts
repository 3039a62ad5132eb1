import { listClasses } from '#shared/api/equipment'
import { pageOfArray } from '#core/lists/paged'
import { defineRoute } from '../../answers/route'
import { allClasses } from '../../equipment/model'
import { database } from '../../store/database'

export default defineRoute(listClasses, async ({ query }) =>
  pageOfArray(await allClasses(database()), query, {
    text: ({ name, description }) => `${name} ${description}`,
    by: { name: ({ name }) => name, id: ({ id }) => id, revision: ({ revision }) => revision },
  }),
)

import { listEquipment } from '#shared/api/equipment'
import { pageOfArray } from '#core/lists/paged'
import { defineRoute } from '../../answers/route'
import { allEquipment } from '../../equipment/model'
import { database } from '../../store/database'

export default defineRoute(listEquipment, async ({ query }) =>
  pageOfArray(await allEquipment(database()), query, {
    text: ({ path, class: name }) => `${path} ${name}`,
    by: { path: ({ path }) => path, id: ({ id }) => id, revision: ({ revision }) => revision },
  }),
)

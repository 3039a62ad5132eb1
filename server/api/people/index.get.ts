import { roles } from '#core/access/roles'
import { listPeople } from '#shared/api/people'
import { shownPerson } from '../../access/people'
import { pageOfArray } from '#core/lists/paged'
import { defineRoute } from '../../answers/route'
import { database } from '../../store/database'

export default defineRoute(listPeople, async ({ query }) => {
  const rows = await database().selectFrom('person').selectAll().execute()
  return pageOfArray(rows.map(shownPerson), query, {
    text: ({ name, role }) => `${name} ${role}`,
    by: {
      name: ({ name }) => name,
      role: ({ role }) => roles.indexOf(role),
      seenAt: (one) => one.seenAt,
      madeAt: (one) => one.madeAt,
      id: (one) => one.id,
    },
  })
})

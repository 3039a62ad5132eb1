import { roles } from '#core/access/roles'
import { listTokens } from '#shared/api/people'
import { shownToken } from '../../access/people'
import { pageOfArray } from '#core/lists/paged'
import { defineRoute } from '../../answers/route'
import { database } from '../../store/database'

export default defineRoute(listTokens, async ({ query }) => {
  const rows = await database().selectFrom('api_token').selectAll().execute()
  return pageOfArray(rows.map(shownToken), query, {
    text: ({ name, role, madeBy }) => `${name} ${role} ${madeBy}`,
    by: {
      name: ({ name }) => name,
      role: ({ role }) => roles.indexOf(role),
      expiresAt: (one) => one.expiresAt,
      usedAt: (one) => one.usedAt,
      madeAt: (one) => one.madeAt,
      id: (one) => one.id,
    },
  })
})

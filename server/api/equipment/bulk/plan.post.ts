import { planBulk } from '#shared/api/equipment'
import { defineRoute } from '../../../answers/route'
import { bulkNow, shownPlan } from '../../../equipment/bulk'
import { database } from '../../../store/database'

export default defineRoute(planBulk, async ({ body: { from } }) => {
  const db = database()
  return shownPlan(db, await bulkNow(db, from))
})

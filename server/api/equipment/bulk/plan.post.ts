import { planBulk } from '#shared/api/equipment'
import { defineRoute } from '../../../answers/route'
import { bulkNow, shownPlan } from '../../../equipment/bulk'
import { database } from '../../../store/database'

export default defineRoute(planBulk, async ({ body: { from } }) => shownPlan(await bulkNow(database(), from)))

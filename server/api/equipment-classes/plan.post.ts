import { planClass } from '#shared/api/equipment'
import { defineRoute } from '../../answers/route'
import { planOfClass } from '../../equipment/plan'

export default defineRoute(planClass, ({ body: { class: draft, id } }) => planOfClass(draft, id))

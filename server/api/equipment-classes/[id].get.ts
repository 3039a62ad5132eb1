import { showClass } from '#shared/api/equipment'
import { defineRoute } from '../../answers/route'
import { shownClass } from '../../equipment/model'
import { rowOf } from '../../store/configuration'

export default defineRoute(showClass, async ({ params }) => shownClass(await rowOf('equipmentClass', params.id)))

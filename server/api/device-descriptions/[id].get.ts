import { thingOf } from '#db/rows'
import { showDescription } from '#shared/api/deviceDescriptions'
import { defineRoute } from '../../answers/route'
import { rowOf } from '../../store/configuration'

export default defineRoute(showDescription, async ({ params }) => thingOf('deviceDescription', await rowOf('deviceDescription', params.id)))

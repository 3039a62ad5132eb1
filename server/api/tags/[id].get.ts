import { thingOf } from '#db/rows'
import { showTag } from '#shared/api/tags'
import { defineRoute } from '../../answers/route'
import { rowOf } from '../../store/configuration'

export default defineRoute(showTag, async ({ params }) => thingOf('tag', await rowOf('tag', params.id)))

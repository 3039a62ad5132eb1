import { asLink } from '#db/rows'
import { idOf, rowOf } from '../../lib/configuration'
import { defineRoute } from '../../lib/refusal'

export default defineRoute(async (event) => asLink(await rowOf('link', idOf(event))))

import { showOutlet } from '#shared/api/outlets'
import { defineRoute } from '../../answers/route'
import { shownOutlet } from '../../outlets/outlets'
import { rowOf } from '../../store/configuration'

export default defineRoute(showOutlet, async ({ params }) => shownOutlet(await rowOf('outlet', params.id)))

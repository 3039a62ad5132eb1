import { showDisplay } from '#shared/api/displays'
import { defineRoute } from '../../answers/route'
import { shownDisplay } from '../../displays/displays'
import { rowOf } from '../../store/configuration'

export default defineRoute(showDisplay, async ({ params }) => shownDisplay(await rowOf('display', params.id)))

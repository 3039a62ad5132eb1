import { showLink } from '#shared/api/links'
import { defineRoute } from '../../answers/route'
import { shownLink } from '../../links/links'
import { rowOf } from '../../store/configuration'

export default defineRoute(showLink, async ({ params }) => shownLink(await rowOf('link', params.id)))

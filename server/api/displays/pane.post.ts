import { fillPane } from '#shared/api/displays'
import { defineRoute } from '../../answers/route'
import { contentOf } from '../../displays/content'

export default defineRoute(fillPane, ({ body: { shows, in: equipment, columns } }) => contentOf(shows, equipment, columns))

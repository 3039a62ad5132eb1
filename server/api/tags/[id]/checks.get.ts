import { tagChecks } from '#shared/api/tags'
import { defineRoute } from '../../../answers/route'
import { recordsFor } from '../../../diagnosis/records'

export default defineRoute(tagChecks, ({ event, params }) => recordsFor(event, 'tag', params.id))

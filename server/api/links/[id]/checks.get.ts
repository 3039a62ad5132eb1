import { linkChecks } from '#shared/api/links'
import { defineRoute } from '../../../answers/route'
import { recordsFor } from '../../../diagnosis/records'

export default defineRoute(linkChecks, ({ event, params }) => recordsFor(event, 'link', params.id))

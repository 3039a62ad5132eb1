import { outletChecks } from '#shared/api/outlets'
import { defineRoute } from '../../../answers/route'
import { recordsFor } from '../../../diagnosis/records'

export default defineRoute(outletChecks, ({ event, params }) => recordsFor(event, 'outlet', params.id))

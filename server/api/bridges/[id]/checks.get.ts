import { bridgeChecks } from '#shared/api/bridges'
import { defineRoute } from '../../../answers/route'
import { recordsFor } from '../../../diagnosis/records'

export default defineRoute(bridgeChecks, ({ event, params }) => recordsFor(event, 'bridge', params.id))

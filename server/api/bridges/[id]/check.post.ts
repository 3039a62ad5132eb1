import { walkBridge } from '#shared/api/bridges'
import { walkFor } from '../../../diagnosis/walk'
import { defineRoute } from '../../../answers/route'

export default defineRoute(walkBridge, ({ event, params }) => walkFor(event, 'bridge', params.id))

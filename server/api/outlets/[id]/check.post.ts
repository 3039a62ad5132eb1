import { checkOutlet } from '#shared/api/outlets'
import { walkFor } from '../../../diagnosis/walk'
import { defineRoute } from '../../../answers/route'

export default defineRoute(checkOutlet, ({ event, params, body: { entry } }) => walkFor(event, 'outlet', params.id, entry))

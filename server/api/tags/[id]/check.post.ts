import { walkTag } from '#shared/api/tags'
import { walkFor } from '../../../diagnosis/walk'
import { defineRoute } from '../../../answers/route'

export default defineRoute(walkTag, ({ event, params }) => walkFor(event, 'tag', params.id))

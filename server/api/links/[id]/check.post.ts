import { walkLink } from '#shared/api/links'
import { walkFor } from '../../../diagnosis/walk'
import { defineRoute } from '../../../answers/route'

export default defineRoute(walkLink, ({ event, params }) => walkFor(event, 'link', params.id))

import { walkLink } from '#shared/api/links'
import { defineRoute } from '../../../answers/route'
import { streamed } from '../../../answers/streamed'

export default defineRoute(walkLink, ({ event, params }) => streamed(event, (engine, part) => engine.walkLink(part, params.id)))

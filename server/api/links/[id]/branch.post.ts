import { branch } from '#shared/api/links'
import { defineRoute } from '../../../answers/route'
import { streamed } from '../../../answers/streamed'

export default defineRoute(branch, ({ event, params, body }) => streamed(event, (engine, id) => engine.branch(id, params.id, body)))

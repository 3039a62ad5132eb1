import { search } from '#shared/api/links'
import { defineRoute } from '../../../answers/route'
import { streamed } from '../../../answers/streamed'

export default defineRoute(search, ({ event, params, body: { text } }) =>
  streamed(event, (engine, id) => engine.search(id, params.id, text)),
)

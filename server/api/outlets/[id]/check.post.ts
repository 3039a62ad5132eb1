import { checkOutlet } from '#shared/api/outlets'
import { defineRoute } from '../../../answers/route'
import { streamed } from '../../../answers/streamed'

export default defineRoute(checkOutlet, ({ event, params, body: { entry } }) =>
  streamed(event, (engine, part) => engine.checkOutlet(part, params.id, entry)),
)

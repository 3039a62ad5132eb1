import { pairByCode } from '#shared/api/relays'
import { defineRoute } from '../../answers/route'
import { streamed } from '../../answers/streamed'
import { whoIs } from '../../store/configuration'

export default defineRoute(pairByCode, ({ event, body }) => {
  const who = whoIs(event)
  return streamed(event, (engine, id) => engine.pair(id, body, who))
})

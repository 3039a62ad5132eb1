import { pairByCode } from '#shared/api/relays'
import { defineRoute } from '../../answers/route'
import { Refusal } from '../../answers/refusal'
import { streamed } from '../../answers/streamed'
import { engineClient } from '../../runtime/engineClient'
import { whoIs } from '../../store/configuration'

export default defineRoute(pairByCode, async ({ event, body }) => {
  const problem = await engineClient.call((engine) => engine.pairingCodeProblem(body.code))
  if (problem) throw new Refusal(problem, [{ path: 'code', message: problem.what }])
  const who = whoIs(event)
  return streamed(event, (engine, id) => engine.pair(id, body, who))
})

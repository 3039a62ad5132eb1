import { releaseTag } from '#shared/api/tags'
import { longestWriteMs, writerOf } from '../../../access/writer'
import { Refusal } from '../../../answers/refusal'
import { defineRoute } from '../../../answers/route'
import { engineClient } from '../../../runtime/engineClient'

export default defineRoute(releaseTag, async ({ event, params }) => {
  const result = await engineClient.call((engine) => engine.release(params.id, writerOf(event)), longestWriteMs)
  if (!result.ok) throw new Refusal(result.fault)
  return { readBack: result.readBack }
})

import { writeValue } from '#shared/api/tags'
import { longestWriteMs, writerOf } from '../../../access/writer'
import { Refusal } from '../../../answers/refusal'
import { defineRoute } from '../../../answers/route'
import { engineClient } from '../../../runtime/engineClient'

export default defineRoute(writeValue, async ({ event, params, body: { value } }) => {
  const by = writerOf(event)
  const result = await engineClient.call((engine) => engine.write(params.id, value, by), longestWriteMs)
  if (!result.ok) throw new Refusal(result.fault, [{ path: 'value', message: result.fault.what }])
  return { readBack: result.readBack }
})

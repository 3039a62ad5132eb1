import { writeValue } from '#shared/api/tags'
import { longestWriteMs, writerOf } from '../../../access/writer'
import { Refusal } from '../../../answers/refusal'
import { defineRoute } from '../../../answers/route'
import { engineClient } from '../../../runtime/engineClient'
import { onceInForce } from '../../../runtime/onceInForce'

export default defineRoute(writeValue, async ({ event, params: { id }, body: { value } }) => {
  const by = writerOf(event)
  const write = () => engineClient.call((engine) => engine.write(id, value, by), longestWriteMs)
  const result = await onceInForce('tag', id, write)
  if (!result.ok) throw new Refusal(result.fault, [{ path: 'value', message: result.fault.what }])
  return { readBack: result.readBack }
})

import { writeOnBench } from '#shared/api/bench'
import { requirePerson } from '../../../access/ownThings'
import { longestWriteMs, writerOf } from '../../../access/writer'
import { Refusal } from '../../../answers/refusal'
import { defineRoute } from '../../../answers/route'
import { entryOf, noteResult } from '../../../bench/bench'
import { engineClient } from '../../../runtime/engineClient'

export default defineRoute(writeOnBench, async ({ event, params: { id }, body: { value } }) => {
  const { id: _, madeAt: _made, last: _last, ...point } = await entryOf(requirePerson(event), id)
  const by = writerOf(event)
  const result = await engineClient.call((engine) => engine.benchWrite(point, value, by), longestWriteMs)
  const text = result.ok ? String(value) : result.fault.what
  const entry = await noteResult(id, { did: 'written', at: Date.now(), ok: result.ok, text, came: '' })
  if (!result.ok) throw new Refusal(result.fault, [{ path: 'value', message: result.fault.what }])
  return { entry, readBack: result.readBack }
})

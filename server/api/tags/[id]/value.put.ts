import { writeValue } from '#shared/api/tags'
import type { Writer } from '#shared/writes'
import { longestWriteMs, writerOf } from '../../../access/writer'
import { Refusal } from '../../../answers/refusal'
import { defineRoute } from '../../../answers/route'
import { engineClient } from '../../../runtime/engineClient'
import { rowOf } from '../../../store/configuration'

export default defineRoute(writeValue, async ({ event, params, body: { value } }) => {
  const result = await writeTo(params.id, value, writerOf(event))
  if (!result.ok) throw new Refusal(result.fault, [{ path: 'value', message: result.fault.what }])
  return { readBack: result.readBack }
})

const inForceMs = 5000

/** A tag that was saved a moment ago may not be in force yet: that is waited for. */
const writeTo = async (id: number, value: boolean | number | string, by: Writer) => {
  const write = () => engineClient.call((engine) => engine.write(id, value, by), longestWriteMs)
  const result = await write()
  if (result.ok || result.fault.code !== 'entry.gone') return result
  const { revision } = await rowOf('tag', id)
  await engineClient.call((engine) => engine.effect(revision, inForceMs))
  return write()
}

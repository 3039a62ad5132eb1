import { z } from 'zod'
import { idOf } from '../../../lib/configuration'
import { engineClient } from '../../../lib/engineClient'
import { bodyOf, defineRoute, Refusal } from '../../../lib/refusal'

const body = z.object({ value: z.union([z.boolean(), z.number(), z.string().max(4096)]) })

/** Writes a value to the device and answers with what was read back. 64-bit integers travel as text. */
export default defineRoute('operate', async (event) => {
  const { value } = await bodyOf(event, body)
  const id = idOf(event)
  const result = await engineClient.call((engine) => engine.write(id, value))
  if (!result.ok) throw new Refusal(result.fault, [{ path: 'value', message: result.fault.what }])
  return { readBack: result.readBack }
})

import { getRequestIP } from 'h3'
import { z } from 'zod'
import type { Writer } from '#shared/writes'
import { requireWho } from '../../../access/access'
import { idOf } from '../../../store/configuration'
import { engineClient } from '../../../runtime/engineClient'
import { bodyOf, defineRoute, Refusal } from '../../../answers/refusal'

const body = z.object({ value: z.union([z.boolean(), z.number(), z.string().max(4096)]) })

/** The link's own limits end a write before this: how long it may wait, and how long for its answer. */
const longestMs = 150_000

/** Writes a value to the device and answers with what was read back. 64-bit integers travel as text. */
export default defineRoute('operate', async (event) => {
  const { value } = await bodyOf(event, body)
  const id = idOf(event)
  const { name, personId } = requireWho(event)
  const by: Writer = { who: name, via: personId === null ? 'token' : 'page', place: getRequestIP(event) ?? '' }
  const result = await engineClient.call((engine) => engine.write(id, value, by), longestMs)
  if (!result.ok) throw new Refusal(result.fault, [{ path: 'value', message: result.fault.what }])
  return { readBack: result.readBack }
})

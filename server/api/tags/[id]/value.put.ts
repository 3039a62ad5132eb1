import { getRequestIP } from 'h3'
import { writeValue } from '#shared/api/tags'
import type { Writer } from '#shared/writes'
import { requireWho } from '../../../access/access'
import { Refusal } from '../../../answers/refusal'
import { defineRoute } from '../../../answers/route'
import { engineClient } from '../../../runtime/engineClient'

/** The link's own limits end a write before this: how long it may wait, and how long for its answer. */
const longestMs = 150_000

export default defineRoute(writeValue, async ({ event, params, body: { value } }) => {
  const { name, personId } = requireWho(event)
  const by: Writer = { who: name, via: personId === null ? 'token' : 'page', place: getRequestIP(event) ?? '' }
  const result = await engineClient.call((engine) => engine.write(params.id, value, by), longestMs)
  if (!result.ok) throw new Refusal(result.fault, [{ path: 'value', message: result.fault.what }])
  return { readBack: result.readBack }
})

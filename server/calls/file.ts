import type { CallFilter, CallPage } from '#core/calls/callBook'
import { callsHead, callsPart, type CallForm } from '#core/calls/written'
import { valueOf } from '../answers/refusal'
import { engineClient } from '../runtime/engineClient'

const callsAtOnce = 500

const pageBefore = async (outletId: number, filter: CallFilter): Promise<CallPage> =>
  valueOf(await engineClient.call((engine) => engine.calls(outletId, filter, callsAtOnce)))

/** All calls of an outlet that are held and match, the newest first, as a file that is made while it is taken. Rejects where there are none to be had. */
export const callsFile = async (outletId: number, form: CallForm, filter: CallFilter): Promise<ReadableStream<Uint8Array>> => {
  const encoder = new TextEncoder()
  let page: CallPage | null = await pageBefore(outletId, filter)
  return new ReadableStream({
    start: (stream) => {
      const head = callsHead(form)
      if (head) stream.enqueue(encoder.encode(head))
    },
    pull: async (stream) => {
      const { calls } = page ?? (await pageBefore(outletId, filter))
      page = null
      if (calls.length > 0) stream.enqueue(encoder.encode(callsPart(form, calls)))
      if (calls.length < callsAtOnce) return stream.close()
      filter = { ...filter, before: calls.at(-1)!.n }
    },
  })
}

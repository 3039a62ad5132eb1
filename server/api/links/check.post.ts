import { randomUUID } from 'node:crypto'
import { setResponseHeader } from 'h3'
import { fault } from '#core/faults/catalogue'
import { linkContract } from '#shared/links/link'
import { engineClient } from '../../lib/engineClient'
import { bodyOf, defineRoute, Refusal } from '../../lib/refusal'

/** Walks the path of a draft, one JSON line per step as it happens. Ends when the caller hangs up. */
export default defineRoute(async (event) => {
  const draft = await bodyOf(event, linkContract)
  if (!engineClient.connected) throw new Refusal(fault('engine.away', {}))
  const id = randomUUID()
  setResponseHeader(event, 'content-type', 'application/x-ndjson')
  setResponseHeader(event, 'cache-control', 'no-store')
  const encoder = new TextEncoder()
  return new ReadableStream({
    async start(stream) {
      await engineClient.check(id, draft, (step) => stream.enqueue(encoder.encode(`${JSON.stringify(step)}\n`))).catch(() => {})
      try {
        stream.close()
      } catch {
        // the caller hung up already
      }
    },
    cancel() {
      if (engineClient.connected) engineClient.engine.stopCheck.asEvent(id)
    },
  })
})

import { randomUUID } from 'node:crypto'
import type { H3Event } from 'h3'
import { setResponseHeader } from 'h3'
import type { BirpcReturn } from 'birpc'
import { fault, type Fault } from '#core/faults/catalogue'
import type { EngineApi, WebApi } from '#shared/rpc'
import { engineClient } from '../runtime/engineClient'
import { asRefusal, Refusal } from './refusal'

type Start = (engine: BirpcReturn<EngineApi, WebApi>, id: string) => Promise<unknown>

/**
 * Long work of the engine as a stream of JSON lines, one per part as it happens. A refusal that
 * comes after the first line is the last line: `{"fault": …}`. Ends when the caller hangs up.
 * @param shown what of a part this caller is to see
 */
export const streamed = (event: H3Event, start: Start, shown: (part: unknown) => unknown = (part) => part) => {
  if (!engineClient.connected) throw new Refusal(fault('engine.away', {}))
  const id = randomUUID()
  setResponseHeader(event, 'content-type', 'application/x-ndjson')
  setResponseHeader(event, 'cache-control', 'no-store')
  const encoder = new TextEncoder()
  return new ReadableStream({
    async start(stream) {
      const send = (part: unknown) => stream.enqueue(encoder.encode(`${JSON.stringify(part)}\n`))
      try {
        const outcome = await engineClient.follow(
          id,
          (engine) => start(engine, id),
          (part) => send(shown(part)),
        )
        const why = faultIn(outcome)
        if (why) send({ fault: why })
        stream.close()
      } catch (error) {
        tryToEnd(stream, () => send({ fault: asRefusal(error).why }))
      }
    },
    cancel() {
      if (engineClient.connected) engineClient.engine.stop.asEvent(id)
    },
  })
}

const faultIn = (outcome: unknown): Fault | null => (outcome as { fault?: Fault } | null | undefined)?.fault ?? null

/** The caller may have hung up already. */
const tryToEnd = (stream: ReadableStreamDefaultController, tell: () => void) => {
  try {
    tell()
    stream.close()
  } catch {
    // nobody is there to be told
  }
}

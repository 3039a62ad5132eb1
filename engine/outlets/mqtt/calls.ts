import type { CallBook } from '#core/calls/callBook'
import { payloadText, type Caller } from '#core/calls/call'

interface Called {
  service: string
  /** A topic, a filter, a name. */
  what: string
  payload?: string | Uint8Array
  /** Null: it was done as asked. */
  refused?: string | null
  /** Such as QoS 1, kept. */
  status?: string
  ms?: number | null
  isTold?: boolean
}

/** Of one message so much is kept. */
const mostKept = 1200

/** Notes what a client of a broker asked, or was sent. */
export const noteCall = (
  book: CallBook,
  caller: Caller,
  { service, what, payload = '', refused = null, status = '', ms = null, isTold = false }: Called,
) => {
  if (refused !== null) book.inVain(caller, what, refused)
  const kept = keptOf(payload)
  const value = payload.length === 0 ? null : () => payloadText(kept)
  book.note(
    caller,
    {
      ...{ service, outcome: refused === null ? 'well' : 'refused', status: refused ?? (status || 'done'), ms, isTold },
      ...{ count: 1, bytes: 300 + what.length + kept.length },
      tell: () => [{ what, value: value?.() ?? null, status, refused: refused !== null }],
    },
    'not allowed',
  )
}

/** What lies in the buffer of a socket, or is long, is not held by a piece of it. */
const keptOf = (payload: string | Uint8Array): string | Uint8Array =>
  typeof payload === 'string'
    ? payload.slice(0, mostKept)
    : payload.length > mostKept
      ? payload.slice(0, mostKept)
      : Uint8Array.from(payload)

export const qualityOfService = ({ qos, retain }: { qos: number; retain: boolean }) => `QoS ${qos}${retain ? ', kept' : ''}`

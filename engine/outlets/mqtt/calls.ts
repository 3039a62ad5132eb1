import type { CallBook, CallSource } from '#core/calls/callBook'
import { payloadText, type CountedCall } from '#core/calls/call'

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
  source: CallSource,
  { service, what, payload = '', refused = null, status = '', ms = null, isTold = false }: Called,
) => {
  if (refused !== null) book.inVain(source, what, refused)
  const counted: CountedCall = { outcome: refused === null ? 'well' : 'refused', ms, isTold, code: 'not allowed' }
  if (!book.counts(source, counted)) return
  const kept = keptOf(payload)
  book.hold(source, counted, {
    ...{ service, status: refused ?? (status || 'done'), count: 1, bytes: 300 + what.length + kept.length },
    tell: () => [{ what, value: kept.length === 0 ? null : payloadText(kept), status, refused: refused !== null }],
  })
}

/** What lies in the buffer of a socket, or is long, is not held by a piece of it. */
const keptOf = (payload: string | Uint8Array): string | Uint8Array =>
  typeof payload === 'string' ? payload.slice(0, mostKept) : new Uint8Array(payload.subarray(0, mostKept))

export const qualityOfService = ({ qos, retain }: { qos: number; retain: boolean }) => `QoS ${qos}${retain ? ', kept' : ''}`

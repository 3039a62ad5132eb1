import type { IncomingMessage } from 'node:http'
import type { CallBook, CallSource } from '#core/calls/callBook'
import { callValue, payloadText, type CallItem, type CountedCall, type HeldCall } from '#core/calls/call'
import { bodyRead } from './body'
import type { Answered } from './asked'

/** Larger bodies are not looked into, and only their beginning is kept. */
const mostLookedInto = 64 * 1024
const mostKept = 1000

interface Noted {
  source: CallSource
  request: IncomingMessage
  /** The path of the route that answered; null: there was none. */
  route: string | null
  answered: Answered
  ms: number
}

/** Notes one request and what it came to. @param refusal why it was refused; null: it was not */
export const noteCall = (book: CallBook, call: Noted, refusal: string | null) => {
  const counted = countedOf(call, refusal)
  const isHeld = book.counts(call.source, counted)
  if (!isHeld && counted.outcome === 'well') return
  const asked = `${call.request.method} ${(call.request.url ?? '/').slice(0, 500)}`
  const status = call.answered ? String(call.answered.status) : 'follows'
  if (refusal !== null) book.inVain(call.source, asked, `${status}: ${refusal}`)
  for (const { what, why } of call.answered?.refused ?? []) book.inVain(call.source, what, why)
  if (isHeld) book.hold(call.source, counted, heldOf(call, { asked, status, refusal }))
}

const countedOf = ({ answered, ms }: Noted, refusal: string | null): CountedCall => ({
  outcome: refusal !== null ? 'refused' : answered?.refused ? 'partly' : 'well',
  ...{ ms: answered ? ms : null, isTold: false },
  code: refusal === null ? 'serve.no-tag' : `HTTP ${answered?.status ?? 0}`,
})

interface Words {
  asked: string
  status: string
  refusal: string | null
}

const heldOf = ({ request, route, answered }: Noted, { asked, status, refusal }: Words): HeldCall => {
  const sent = bodyRead(request)
  const [sentKept, body] = [sent && kept(sent), answered ? kept(answered.body) : '']
  return {
    ...{ service: `${request.method} ${route ?? '(no such path)'}`, status, count: 1 },
    bytes: 400 + asked.length + (sentKept?.length ?? 0) + body.length,
    tell: (most) => [
      { what: asked, value: sentKept && `sent ${payloadText(sentKept)}`, status: '', refused: refusal !== null },
      ...answerItems(body, status, refusal).slice(0, most - 1),
    ],
  }
}

/** A piece of a larger buffer would hold all of that. */
const kept = (body: string | Buffer): string | Buffer => {
  if (body.length <= mostLookedInto) return typeof body === 'string' ? body : Buffer.from(body)
  return typeof body === 'string' ? body.slice(0, mostKept) : Buffer.from(body.subarray(0, mostKept))
}

const answerItems = (body: string | Buffer, status: string, refusal: string | null): CallItem[] => {
  const tags = refusal === null ? tagsIn(body) : null
  if (tags) return tags
  return body.length === 0 ? [] : [{ what: 'answer', value: payloadText(body), status, refused: refusal !== null }]
}

/** Tags as this outlet gives them, one or some; null: it is something else. */
const tagsIn = (body: string | Buffer): CallItem[] | null => {
  try {
    const value = JSON.parse(String(body)) as { items?: unknown[] } | null
    const items = Array.isArray(value?.items) ? value.items : [value]
    return items.every(isTag) ? items.map(itemOf) : null
  } catch {
    return null
  }
}

interface ShownTag {
  path: string
  value?: unknown
  quality?: unknown
  problem?: unknown
  written?: unknown
}
const isTag = (item: unknown): item is ShownTag =>
  typeof item === 'object' &&
  item !== null &&
  'path' in item &&
  typeof item.path === 'string' &&
  ['quality', 'problem', 'written'].some((name) => name in item)

const itemOf = ({ path, value, quality, problem, written }: ShownTag): CallItem => ({
  ...{ what: path, value: callValue(value as never), refused: problem !== undefined },
  status: problem !== undefined ? textOf(problem) : written === true ? 'written' : String(quality),
})
const textOf = (problem: unknown) => (typeof problem === 'string' ? problem : ((problem as { detail?: string } | null)?.detail ?? ''))

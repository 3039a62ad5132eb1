import type { IncomingMessage } from 'node:http'
import type { CallBook } from '#core/calls/callBook'
import { callValue, payloadText, type CallItem, type Caller } from '#core/calls/call'
import { bodyRead } from './body'
import type { Answered } from './asked'

/** Larger bodies are not looked into, and only their beginning is kept. */
const mostLookedInto = 64 * 1024
const mostKept = 1000

interface Noted {
  caller: Caller
  request: IncomingMessage
  /** The path of the route that answered; null: there was none. */
  route: string | null
  answered: Answered
  ms: number
}

/** Notes one request and what it came to. @param refusal why it was refused; null: it was not */
export const noteCall = (book: CallBook, { caller, request, route, answered, ms }: Noted, refusal: string | null) => {
  const asked = `${request.method} ${(request.url ?? '/').slice(0, 500)}`
  const service = `${request.method} ${route ?? '(no such path)'}`
  const status = answered ? String(answered.status) : 'follows'
  const refused = answered?.refused ?? []
  if (refusal !== null) book.inVain(caller, asked, `${status}: ${refusal}`)
  for (const { what, why } of refused) book.inVain(caller, what, why)
  const sent = bodyRead(request)
  const [sentKept, body] = [sent && kept(sent), answered ? kept(answered.body) : '']
  book.note(
    caller,
    {
      ...{
        service,
        outcome: refusal !== null ? 'refused' : refused.length > 0 ? 'partly' : 'well',
        status,
        ms: answered ? ms : null,
        isTold: false,
      },
      ...{ count: 1, bytes: 400 + asked.length + (sentKept?.length ?? 0) + body.length },
      tell: (most) => [
        { what: asked, value: sentKept && `sent ${payloadText(sentKept)}`, status: '', refused: refusal !== null },
        ...answerItems(body, status, refusal).slice(0, most - 1),
      ],
    },
    refusal === null ? 'serve.no-tag' : `HTTP ${status}`,
  )
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

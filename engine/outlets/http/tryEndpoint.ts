import { requestFor } from '#core/endpoints/trial'
import type { Endpoint } from '#core/endpoints/settings'
import { fault } from '#core/faults/catalogue'
import { statusText } from '#core/http/status'
import { shownAnswer } from '#core/messages/shown'
import { FolderRules } from '#core/outlets/rules'
import type { EndpointOutcome } from '#shared/outlets/endpointTrial'
import type { Arrival } from '../../arrivals/arrival'
import { answerer, type EndpointAround, type Wanted } from './endpointHandler'
import { jsonBody } from './body'
import { problem, type Reply } from './reply'

/** Who may read everything, as the person who makes the endpoint does. */
const trier = { name: 'trial', rules: new FolderRules([{ folder: '', may: 'read' }]), mark: '' }

/** Answers an endpoint once as it is drawn, to whoever draws it: really asked for, but no bridge gets a message. */
export const tryEndpoint = async (
  endpoint: Endpoint,
  { given, body }: { given: Readonly<Record<string, string>>; body: string },
  around: Omit<EndpointAround, 'hand' | 'mostBody'>,
): Promise<EndpointOutcome> => {
  const { target, path, raw } = requestFor(endpoint, given)
  const handed: Arrival[] = []
  /** As though it had gone well at once. */
  const hand = (arrival: Arrival) => {
    handed.push(arrival)
    arrival.waits?.push(Promise.resolve(undefined))
    arrival.outcomes?.push(Promise.resolve({ state: 'delivered', why: null }))
  }
  const asked: Wanted = { path, query: raw.query, guest: trier }
  const begun = performance.now()
  const reply = await replyOf(endpoint, { ...around, hand, mostBody: () => 0 }, (answer) => {
    const sent = Buffer.from(body || JSON.stringify(raw.body) || '')
    const read = jsonBody(sent, 'application/json')
    return read.ok ? answer(asked, { ...raw, body: read.value }, sent) : Promise.resolve(problem(read.why))
  })
  const bytes = Buffer.from(reply.body)
  return {
    ...{ request: `${endpoint.method} ${target}`, status: reply.status, words: statusText(reply.status) },
    ...{ ms: performance.now() - begun, headers: [{ name: 'content-type', value: reply.type }] },
    ...{ ...shownAnswer(bytes), bytes: bytes.length, fault: null },
    handed: handed.map(({ topic, payload }) => ({ topic, payload: new TextDecoder().decode(payload) }))[0] ?? null,
  }
}

/** One that cannot be made says so as it would in use. */
const replyOf = async (
  endpoint: Endpoint,
  around: EndpointAround,
  ask: (answer: ReturnType<typeof answerer>) => Promise<Reply>,
): Promise<Reply> => {
  try {
    return await ask(answerer(endpoint, around))
  } catch (error) {
    return problem(fault('serve.answer', { endpoint: `${endpoint.method} ${endpoint.path}`, problem: (error as Error).message }))
  }
}

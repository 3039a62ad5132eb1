import { fault, type Fault } from '#core/faults/catalogue'
import type { Call } from '#core/http/call'
import { requestOf } from '#core/http/operation'
import type { HttpSettings } from '#core/http/settings'
import { shownAnswer } from '#core/messages/shown'
import { statusText } from '#core/http/status'
import type { CallOutcome } from '#shared/links/webCall'
import type { CheckContext } from '../driver'
import { Caller, CallFailure } from './caller'
import { accessOf } from './access'

/** Makes one call, over a connection of its own, and tells all that came back. */
export const callOnce = async (
  settings: HttpSettings,
  { operation: name, given }: Call,
  { security, wire }: Pick<CheckContext, 'security' | 'wire'>,
): Promise<CallOutcome> => {
  const operation = settings.operations.find((one) => one.name === name)
  if (!operation) return nothing(name, fault('http.call', { call: name, problem: 'there is no such operation' }))
  let asked = `${operation.method} ${settings.base}${operation.path}`
  const caller = new Caller({ ...settings, atOnce: 1 }, accessOf(settings, security, wire), wire)
  try {
    const request = requestOf(operation, given)
    asked = `${request.method} ${settings.base.replace(/\/+$/, '')}${request.target}`
    const answer = await caller.ask(request)
    const { status, ms, headers, body } = answer
    return {
      ...{ request: asked, status, words: statusText(status), ms, headers: shownHeaders(headers) },
      ...{ ...shownAnswer(body), bytes: body.length },
      fault: caller.refusalOf(answer)?.why ?? null,
    }
  } catch (error) {
    return nothing(asked, error instanceof CallFailure ? error.why : fault('http.call', { call: name, problem: (error as Error).message }))
  } finally {
    await caller.close()
  }
}

const nothing = (request: string, why: Fault): CallOutcome => ({
  ...{ request, status: null, words: 'no answer', ms: null, headers: [], body: '', shortened: 'no', bytes: 0 },
  fault: why,
})

const shownHeaders = (headers: Record<string, string | string[] | undefined>) =>
  Object.entries(headers).flatMap(([name, value]) => [value ?? []].flat().map((one) => ({ name, value: one })))

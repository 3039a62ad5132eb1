import { fault } from '#core/faults/catalogue'
import { CallProblem, requestOf, type OperationText, type Request } from '#core/http/operation'
import type { HttpSettings } from '#core/http/settings'
import type { CallTaker, WebAnswer, WebCall } from '../receiving'
import { type Answer, failureOf } from './caller'

/** How bridges make calls over a link. @param make makes one; rejects with a `CallFailure` */
export const callTaker = (operations: () => HttpSettings['operations'], make: (request: Request) => Promise<Answer>): CallTaker => {
  const named = (name: string): OperationText | null => operations().find((one) => one.name === name) ?? null
  return {
    takes: 'call',
    operation: named,
    call: async (call): Promise<WebAnswer> => {
      const request = requestFor(call, named(call.operation))
      if ('why' in request) return { ok: false, status: null, why: request.why }
      try {
        const { body } = await make(request)
        return { ok: true, body }
      } catch (error) {
        const { status, why } = failureOf(error)
        if (status !== null && isOfTheCall(status)) return { ok: false, status, why }
        throw why as unknown as Error
      }
    },
  }
}

const requestFor = ({ operation: name, given, headers }: WebCall, operation: OperationText | null): Request | { why: WebAnswerFault } => {
  if (!operation) return { why: fault('http.call', { call: name, problem: 'there is no such operation' }) }
  try {
    const request = requestOf(operation, given)
    return { ...request, headers: { ...request.headers, ...headers } }
  } catch (error) {
    if (!(error instanceof CallProblem)) throw error
    return { why: fault('http.call', { call: name, problem: error.message }) }
  }
}
type WebAnswerFault = Extract<WebAnswer, { ok: false }>['why']

/** Whether the far side refuses what is asked of it, and would again; else its state or our sign-in stands in the way. */
const isOfTheCall = (status: number): boolean => status >= 400 && status < 500 && ![401, 403, 407, 408, 425, 429].includes(status)

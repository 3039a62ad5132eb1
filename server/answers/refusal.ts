import type { H3Event } from 'h3'
import { setResponseStatus } from 'h3'
import { fault } from '#core/faults/catalogue'
import type { RefusalBody } from '#shared/faults'
import type { Answer } from '#shared/rpc'
import { UnreadableRow } from '#db/rows'
import { SlowHistory } from '#db/history/reader'
import { TooManyWaiting } from '#db/turnstile'
import { CaseIsFixed } from '#db/configuration'
import { Refusal } from './refusalError'
import { statusOf } from './statuses'

export { Refusal }

/** Does what was asked, or answers with the refusal; refusals have one form, whatever went wrong. */
export const answerOrRefuse = async <T>(event: H3Event, work: () => Promise<T> | T): Promise<T | RefusalBody> => {
  try {
    return await work()
  } catch (error) {
    const refusal = asRefusal(error)
    setResponseStatus(event, statusOf(refusal.why.code))
    return { fault: refusal.why, fields: refusal.fields, ...refusal.more }
  }
}

const connectionLost = new Set(['ECONNREFUSED', 'ECONNRESET', '57P01', '57P02', '57P03', '08006', '08003'])

/** Whatever went wrong, as people are told. */
export const asRefusal = (error: unknown): Refusal => {
  if (error instanceof Refusal) return error
  if (error instanceof UnreadableRow)
    return new Refusal(fault('force.unreadable', { thing: error.thing, name: error.named || `number ${error.id}`, problem: error.problem }))
  if (error instanceof CaseIsFixed) return new Refusal(fault('case.fixed', {}))
  if (error instanceof TooManyWaiting) return new Refusal(fault('entry.busy', {}, error.message))
  if (error instanceof SlowHistory) return new Refusal(fault('history.slow', { ms: error.ms }))
  return databaseRefusal(error) ?? unexpected(error)
}

const databaseRefusal = (error: unknown): Refusal | null => {
  const { code, message } = error as { code?: string; message?: string }
  if (
    (code && connectionLost.has(code)) ||
    message?.includes('Connection terminated') ||
    message?.includes('timeout exceeded when trying to connect')
  )
    return new Refusal(fault('database.away', {}, message))
  // class 22, data exceptions: what was sent is nothing that a column can hold; the SQL itself is nobody's business
  if (code && /^22/.test(code)) return new Refusal(fault('entry.unstorable', {}, code))
  return null
}

const unexpected = (error: unknown): Refusal => {
  console.error(error)
  const { name, code } = error as { name?: string; code?: string }
  return new Refusal(fault('ours.unexpected', { problem: 'its log has the details.' }, code ?? name ?? ''))
}

/** What the engine answered, or its refusal as ours. */
export const valueOf = <T>(answer: Answer<T>): T => {
  if (answer.ok) return answer.value
  throw new Refusal(answer.fault)
}

import type { EventHandlerRequest, H3Event } from 'h3'
import { defineEventHandler, getQuery, setResponseStatus } from 'h3'
import type { z } from 'zod'
import type { Role } from '#core/access/roles'
import { fault, type Fault, type FaultCode } from '#core/faults/catalogue'
import type { Answer } from '#shared/rpc'
import type { FieldMessage } from '#shared/sources/source'
import { UnreadableRow } from '#db/rows'
import { TooManyWaiting } from '#db/turnstile'
import { requireRole } from '../access/access'
import { readJson } from './body'
import { Refusal } from './refusalError'

export { Refusal }

/** What a route answers when it does not do what was asked: the fault, and messages beside fields. */
export interface RefusalBody {
  fault: Fault
  fields: FieldMessage[]
}

const statusOf: Partial<Record<FaultCode, number>> = {
  'entry.gone': 404,
  'entry.taken': 409,
  'entry.edited': 409,
  'entry.in-use': 409,
  'entry.cannot-take-back': 409,
  'entry.cross-site': 403,
  'entry.too-large': 413,
  'entry.too-slow': 408,
  'entry.no-route': 404,
  'entry.no-method': 405,
  'entry.busy': 503,
  'access.sign-in': 401,
  'access.wrong': 401,
  'access.wait': 429,
  'access.refused': 403,
  'access.change-password': 403,
  'access.last-administrator': 409,
  'engine.away': 503,
  'database.away': 503,
  'ours.unexpected': 500,
}

/** A route for those who have the role, or for anyone; it answers refusals in one form, whatever went wrong. */
export const defineRoute = <T>(needed: Role | 'anyone', handle: (event: H3Event<EventHandlerRequest>) => Promise<T> | T) =>
  defineEventHandler(async (event) => {
    try {
      if (needed !== 'anyone') await requireRole(event, needed)
      return await handle(event)
    } catch (error) {
      const refusal = asRefusal(error)
      setResponseStatus(event, statusOf[refusal.why.code] ?? 422)
      return { fault: refusal.why, fields: refusal.fields, ...refusal.more }
    }
  })

const connectionLost = new Set(['ECONNREFUSED', 'ECONNRESET', '57P01', '57P02', '57P03', '08006', '08003'])

const asRefusal = (error: unknown): Refusal => {
  if (error instanceof Refusal) return error
  if (error instanceof UnreadableRow)
    return new Refusal(fault('force.unreadable', { thing: error.thing, name: error.named || `number ${error.id}`, problem: error.problem }))
  if (error instanceof TooManyWaiting) return new Refusal(fault('entry.busy', {}, error.message))
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

/** What a body may be: before sign-in and for most routes it is small. */
const usualBytes = 256 * 1024
/** Before anybody is known. */
export const smallBytes = 4096
/** Where lists of thousands come in. */
export const manyBytes = 16 * 1024 * 1024

/** Reads and checks a body. Everything wrong with it is told at once. */
export const bodyOf = async <S extends z.ZodType>(event: H3Event, contract: S, mostBytes = usualBytes): Promise<z.output<S>> =>
  checked(await readJson(event, mostBytes), contract)

/** Reads and checks the parameters behind the “?”; one that means nothing here is refused, for it may be a misspelt one. */
export const queryOf = <S extends z.ZodObject>(event: H3Event, contract: S): z.output<S> =>
  checked(getQuery(event), contract.strict() as never)

export const checked = <S extends z.ZodType>(value: unknown, contract: S): z.output<S> => {
  const result = contract.safeParse(value)
  if (result.success) return result.data
  throw invalid(result.error.issues.map((issue) => ({ path: issue.path.join('.'), message: issue.message })))
}

export const invalid = (fields: FieldMessage[]) => new Refusal(fault('entry.invalid', { count: fields.length }, fields[0]?.message), fields)

import type { Fault } from '#core/faults/catalogue'
import { fault } from '#core/faults/catalogue'
import { addressOf, isFile, type AnswerOf, type Given, type Operation } from '#shared/api/operation'
import type { FieldMessage } from '#shared/faults'

/** What the server answers when it does not do what was asked. */
export class Refused extends Error {
  constructor(
    readonly why: Fault,
    readonly fields: FieldMessage[],
    readonly more: Record<string, unknown> = {},
  ) {
    super(why.what)
  }
}

const usualTimeoutMs = 30_000

/** Calls the HTTP API. Everything that can go wrong comes out as `Refused`, in the catalogue's words. */
export const callApi = async <O extends Operation>(operation: O, ...asked: Asked<O>): Promise<AnswerOf<O>> => {
  const [given, { timeoutMs = usualTimeoutMs } = {}] = asked
  const response = await send(operation, given ?? ({} as Given<O>), AbortSignal.timeout(timeoutMs)).catch((error) => {
    throw error instanceof Refused ? error : new Refused(webAway(), [])
  })
  return (await response.json()) as AnswerOf<O>
}

/** What an operation that needs nothing need not be given. */
type Asked<O extends Operation> = object extends Given<O> ? [given?: Given<O>, options?: Options] : [given: Given<O>, options?: Options]

interface Options {
  timeoutMs?: number
}

/** Sends what was given to an operation; throws what it refuses. */
export const send = async <O extends Operation>(operation: O, given: Given<O>, signal: AbortSignal): Promise<Response> => {
  const { body } = given
  const response = await fetch(`/api${addressOf(operation, given)}`, {
    method: operation.method,
    ...(body === undefined ? {} : sent(operation, body)),
    signal,
  })
  if (response.ok) return response
  const refused = await refusalOf(response)
  if (refused.why.code === 'access.sign-in') useSession().noteLost()
  throw refused
}

const sent = ({ body: contract }: Operation, body: unknown) =>
  isFile(contract)
    ? { body: body as Blob, headers: { 'content-type': 'text/csv' } }
    : { body: JSON.stringify(body), headers: { 'content-type': 'application/json' } }

export const refusalOf = async (response: Response): Promise<Refused> => {
  const body = (await response.json().catch(() => null)) as { fault?: Fault; fields?: FieldMessage[] } | null
  if (!body?.fault) return new Refused(webAway(`${response.status} ${response.statusText}`), [])
  const { fault: why, fields = [], ...more } = body
  return new Refused(why, fields, more)
}

const webAway = (evidence = 'no answer') => fault('web.away', {}, evidence)

export const asRefused = (error: unknown): Refused =>
  error instanceof Refused ? error : new Refused(fault('ours.unexpected', { problem: String(error) }), [])

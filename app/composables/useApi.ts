import type { Fault } from '#core/faults/catalogue'
import { fault } from '#core/faults/catalogue'
import type { FieldMessage } from '#shared/sources/source'

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
export const callApi = async <T>(path: string, options: { method?: string; body?: unknown; timeoutMs?: number } = {}): Promise<T> => {
  const response = await fetch(`/api${path}`, {
    method: options.method ?? 'GET',
    ...(options.body === undefined ? {} : { body: JSON.stringify(options.body), headers: { 'content-type': 'application/json' } }),
    signal: AbortSignal.timeout(options.timeoutMs ?? usualTimeoutMs),
  }).catch(() => {
    throw new Refused(webAway(), [])
  })
  if (response.ok) return (await response.json()) as T
  const refused = await refusalOf(response)
  if (refused.why.code === 'access.sign-in') useSession().noteLost()
  throw refused
}

export const refusalOf = async (response: Response): Promise<Refused> => {
  const body = (await response.json().catch(() => null)) as { fault?: Fault; fields?: FieldMessage[] } | null
  if (!body?.fault) return new Refused(webAway(`${response.status} ${response.statusText}`), [])
  const { fault: why, fields = [], ...more } = body
  return new Refused(why, fields, more)
}

const webAway = (evidence = 'no answer') => fault('web.away', {}, evidence)

export const asRefused = (error: unknown): Refused =>
  error instanceof Refused ? error : new Refused(fault('ours.unexpected', { problem: String(error) }), [])

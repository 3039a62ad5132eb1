import type { Fault, FaultCode } from '#core/faults/catalogue'

/** What is answered. */
export interface Reply {
  status: number
  body: string | Buffer
  type: string
  headers?: Record<string, string>
  /** What of it could not be had, where the rest could. */
  refused?: RefusedItem[]
}

export interface RefusedItem {
  what: string
  why: string
}

export const json = (body: string, refused: RefusedItem[] = []): Reply => ({
  ...{ status: 200, body, type: 'application/json' },
  ...(refused.length > 0 ? { refused } : {}),
})

/** The status of an answer to what could not be done (RFC 9110, 15). */
const statuses: Partial<Record<FaultCode, number>> = {
  'serve.unknown-path': 404,
  'serve.method': 405,
  'serve.sign-in': 401,
  'serve.not-allowed': 403,
  'serve.no-tag': 404,
  'serve.parameters': 400,
  'serve.body': 400,
  'serve.too-large': 413,
  'serve.too-often': 429,
  'serve.busy': 503,
  'serve.nothing-found': 404,
  'serve.answer': 500,
  'serve.nobody': 503,
  'serve.late': 504,
  'serve.no-history': 503,
  'serve.dropped': 503,
  'write.not-writable': 409,
  'ours.unexpected': 500,
}

/** What failed at whoever is behind us is no fault of who asks. */
const statusOf = ({ code, side }: Fault): number => statuses[code] ?? (side === 'entry' || side === 'consumer' ? 422 : 502)

/** What could not be done, as RFC 9457 has it; what to do stands in a member of its own. */
export const problem = (why: Fault, more: { status?: number; headers?: Record<string, string>; fields?: object } = {}): Reply => {
  const status = more.status ?? statusOf(why)
  const { code, what, side, next, evidence } = why
  const body = {
    ...{ type: `urn:keen-conduit:fault:${code}`, title: titles[status] ?? 'It could not be done', status, detail: what, next, side },
    ...(evidence === '' ? {} : { evidence }),
    ...(more.fields ?? {}),
  }
  return { status, body: JSON.stringify(body), type: 'application/problem+json', ...(more.headers ? { headers: more.headers } : {}) }
}

const titles: Record<number, string> = {
  400: 'The request is wrong',
  401: 'Nobody is let in this way',
  403: 'This is not allowed',
  404: 'There is nothing',
  405: 'Not this way',
  409: 'It stands in the way of something',
  413: 'Too large',
  422: 'It is not right',
  429: 'Too often',
  500: 'An error of ours',
  502: 'What is behind us did not do it',
  503: 'Not now',
  504: 'Too slow',
}

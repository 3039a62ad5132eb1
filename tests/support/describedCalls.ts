import { expect } from 'vitest'
import { askedAgain } from './askedAgain'
import { Described, type ApiDocument } from './described'
import type { Site } from './site'

export interface Answer {
  status: number
  body: Record<string, unknown> & {
    fault?: { code: string; what: string; next: string; side: string }
    fields?: { path: string; message: string }[]
  }
}

/** Calls to a site's API as a program makes them; every answer is held against what the API says of itself. */
export const describedCalls = async (site: Site) => {
  const described = new Described((await site.api('/openapi.json')) as ApiDocument)
  const call = async (method: string, path: string, body?: unknown, headers: Record<string, string> = {}): Promise<Answer> => {
    const ask = () =>
      fetch(`${site.base}/api${path}`, {
        method,
        headers: { cookie: site.cookie, ...(body === undefined ? {} : { 'content-type': 'application/json' }), ...headers },
        ...(body === undefined ? {} : { body: typeof body === 'string' || body instanceof Blob ? body : JSON.stringify(body) }),
      })
    const response = await (method === 'GET' ? askedAgain(ask) : ask())
    const text = await response.text()
    const type = response.headers.get('content-type') ?? ''
    const parts: unknown[] = type.includes('json')
      ? text
          .split('\n')
          .filter(Boolean)
          .map((line) => JSON.parse(line) as unknown)
      : [text]
    expect(described.problems(method, path, response.status, parts)).toBe('')
    return { status: response.status, body: (type.includes('x-ndjson') ? parts : parts[0]) as Answer['body'] }
  }
  return { described, call }
}

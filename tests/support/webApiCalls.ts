import { expect } from 'vitest'
import type { Answer } from './describedCalls'

type Call = (method: string, path: string, body?: unknown) => Promise<Answer>

/** Every operation about web APIs, once; the web API that is asked is our own. */
export const callWebApis = async (call: Call, base: string) => {
  const web = { name: 'Ourselves', kind: 'http', settings: { base, operations: [{ name: 'health', path: '/api/{what}' }] } }
  const { body: said } = await call('POST', '/links/call', { link: web, operation: 'health', given: { what: 'health' } })
  expect(said).toMatchObject({ status: 200, fault: null, body: expect.stringContaining('"engine":true') as string })
  const shut = { fault: { code: 'http.refused', side: 'device' } }
  expect((await call('POST', '/links/describe', { link: web, address: `${base}/api/openapi.json` })).body).toMatchObject(shut)
  const endpoint = { method: 'POST', path: '/visits', does: { kind: 'message', topic: 'visits' }, answer: '{"taken": "{outcome}"}' }
  expect((await call('POST', '/outlets/endpoints/try', { endpoint, body: '{"ship":"Aurora"}' })).body).toMatchObject({
    ...{ status: 202, body: '{"taken":"kept"}', handed: { topic: 'visits', payload: '{"ship":"Aurora"}' } },
  })
  const text = JSON.stringify((await call('GET', '/openapi.json')).body)
  const { body: ofOurs } = await call('POST', '/links/describe', { link: web, text })
  const found = ofOurs.operations as { operation: { name: string } }[]
  expect(found.length).toBeGreaterThan(100)
  const problem = { fault: { code: 'http.description', what: expect.stringContaining('versions 3.0 and 3.1 are read') as string } }
  expect((await call('POST', '/links/describe', { link: web, text: 'swagger: "2.0"' })).body).toMatchObject(problem)
}

import { describe, expect, it } from 'vitest'
import { formDifferences } from '#core/http/form'
import { parametersOf, requestOf, requiredOf } from '#core/http/operation'
import { readDescription, type Description } from '#core/http/described/description'
import { describedBy, pasted, type Documents } from '../../server/worker/apiDescription'
import { tariffDocument } from '../../standins/http/tariffDocument'

/** What is made of the description of a web API. */

const read = (document: object, address: string | null = null): Description => {
  const found = readDescription({ openapi: '3.1.0', ...document }, address)
  if (!found.ok) throw new Error(found.problem)
  return found.description
}
const parsed = async (documents: Documents) => {
  const found = await describedBy(documents)
  if (!found.ok) throw new Error(JSON.stringify(found))
  return found.description
}
const one = (operation: object, path = '/a', method = 'get') => read({ paths: { [path]: { [method]: operation } } })
const json = (schema: object) => ({ content: { 'application/json': { schema } } })
const body = (schema: object) =>
  JSON.parse(one({ requestBody: json(schema) }, '/a', 'post').operations[0]!.operation.body) as Record<string, unknown>

describe('a description', () => {
  it('of the tariff service gives its operations, with parameters, examples, base and sign-in', async () => {
    const text = JSON.stringify(tariffDocument('http://tariffs'))
    const found = await parsed([{ address: 'http://tariffs/openapi.json', text }])
    expect(found).toMatchObject({
      ...{ title: 'Harrow Sound tariffs and grid 1.4.0', base: 'http://tariffs/v1', left: [] },
      signIn: { kind: 'key', in: 'header', name: 'X-API-Key' },
    })
    expect(found.operations.map(({ operation: { name, method, path } }) => `${name} ${method} ${path}`)).toEqual([
      'tariff GET /tariffs/{zone}',
      'grid GET /grid',
      'calls GET /calls',
      'addCall POST /calls',
    ])
    const [tariff, , , addCall] = found.operations.map(({ operation }) => operation)
    expect([parametersOf(tariff!), requiredOf(tariff!)]).toEqual([['zone', 'day'], ['zone']])
    expect(requestOf(tariff!, { zone: 'north' }).target).toBe('/tariffs/north')
    expect(requestOf(tariff!, { zone: 'north', day: '2026-11-27' }).target).toBe('/tariffs/north?day=2026-11-27')
    expect(JSON.parse(tariff!.example)).toMatchObject({
      zone: '',
      now: { price: 0, from: '2026-01-01T00:00:00Z' },
      quarters: [{ price: 0 }],
    })
    expect(JSON.parse(addCall!.body)).toEqual({ berth: '{berth}', voyage: '{voyage}', kwh: '{kwh}', price: '{price}' })
    expect(addCall!.headers).toEqual([])
  })
  it('may be YAML, refer to itself, and to documents beside it', async () => {
    const address = 'https://plans.example/docs/api.yaml'
    const text = [
      'openapi: 3.0.3',
      'servers: [{ url: ../v2 }]',
      'paths:',
      '  /nodes/{id}:',
      '    parameters: [{ name: id, in: path, required: true }]',
      '    get:',
      "      responses: { '200': { content: { application/json: { schema: { $ref: '#/components/schemas/Node' } } } } }",
      '    put:',
      "      requestBody: { content: { application/json: { schema: { $ref: 'parts.yaml#/Plan' } } } }",
      'components:',
      '  schemas:',
      "    Node: { type: object, properties: { name: { type: string }, inside: { $ref: '#/components/schemas/Node' } } }",
    ].join('\n')
    expect(await describedBy([{ address, text }])).toEqual({ ok: false, wants: ['https://plans.example/docs/parts.yaml'] })
    const parts = { address: 'https://plans.example/docs/parts.yaml', text: 'Plan: { type: object, properties: { kw: { type: number } } }' }
    const found = await parsed([{ address, text }, parts])
    expect(found.base).toBe('https://plans.example/v2')
    const [get, put] = found.operations.map(({ operation }) => operation)
    expect(get).toMatchObject({ name: 'get_nodes_id', path: '/nodes/{id}' })
    expect(JSON.parse(get!.example)).toMatchObject({ name: '' })
    expect(JSON.parse(put!.body)).toEqual({ kw: '{kw}' })
  })
  it.each([
    ['nothing of the kind', '{"hello": 1}', 'does not begin as an OpenAPI description'],
    ['an older version', 'swagger: "2.0"', 'versions 3.0 and 3.1'],
    ['a later version', '{"openapi": "4.0.0"}', 'of version 4.0.0'],
    ['broken JSON', '{"openapi": ', 'JSON'],
    ['broken YAML', 'openapi: [', 'line 1'],
    ['a page', '<html></html>', 'neither JSON nor YAML'],
    ['references that swell', ['a: &a [1,1,1,1,1,1,1,1,1,1]', ...'bcdefghij'.split('').map((n, i) => `${n}: &${n} [${Array(10).fill(`*${'abcdefghij'[i]}`).join(',')}]`)].join('\n'), 'line'], // prettier-ignore
    ['a reference to nowhere', '{"openapi":"3.1.0","paths":{"/a":{"$ref":"#/components/x"}}}', 'components'],
  ])('that is %s is refused, and says why', async (_, text, problem) => {
    const found = await describedBy([{ address: pasted, text }])
    expect(found).toMatchObject({ ok: false, problem: expect.stringContaining(problem) as string })
  })
})

describe('an operation of a description', () => {
  it('has names that may stand in braces, each once', () => {
    const { operations } = read({
      paths: {
        '/berths/{berth id}': { get: { operationId: 'berth now', parameters: [{ name: 'berth id', in: 'path', required: true }] } },
        '/other': { get: { operationId: 'berth/now' }, head: {}, trace: {} },
      },
    })
    expect(operations.map(({ operation: { name, path } }) => [name, path])).toEqual([
      ['berth_now', '/berths/{berth_id}'],
      ['berth_now_2', '/other'],
    ])
  })
  it('takes parameters of the path, of its own those first, and leaves what is ours to say', () => {
    const { operations, left } = read({
      paths: {
        '/a': {
          parameters: [
            { name: 'day', in: 'query', required: true },
            { name: 'Accept', in: 'header', required: true },
          ],
          get: { parameters: [{ name: 'day', in: 'query' }, { name: 'X-Port', in: 'header', required: true }] }, // prettier-ignore
          post: { parameters: [{ name: 'session', in: 'cookie', required: true }] },
        },
      },
    })
    expect(operations).toHaveLength(1)
    expect(operations[0]!.operation).toMatchObject({
      query: [{ name: 'day', value: '{day}', optional: true }],
      headers: [{ name: 'X-Port', value: '{X-Port}', optional: false }],
    })
    expect(left).toEqual([{ what: 'POST /a', why: 'it wants the cookie “session”, and cookies are not sent' }])
  })
  it('has a body with a place for each value, told apart from the others', () => {
    const inner = { type: 'object', properties: { kw: { type: 'number' }, id: { readOnly: true } } }
    expect(body({ allOf: [{ properties: { power: inner } }, { properties: { steps: { type: 'array', items: inner } } }] })).toEqual({
      power: { kw: '{power_kw}' },
      steps: '{steps}',
    })
    const { operations } = one(
      { parameters: [{ name: 'id', in: 'path', required: true }], requestBody: json({ properties: { id: {}, kind: { const: 'ship' } } }) },
      '/a/{id}',
      'put',
    )
    expect(JSON.parse(operations[0]!.operation.body)).toEqual({ id: '{body_id}', kind: 'ship' })
  })
  it('tells what of it is left to a person', () => {
    const form = { content: { 'application/x-www-form-urlencoded': { schema: {} } } }
    expect(one({ requestBody: form }, '/a', 'post').operations[0]!.note).toContain('x-www-form-urlencoded: write it by hand')
  })
  it.each([
    [{ content: { 'application/json': { example: { kw: 7 } } } }, '{"kw":7}'],
    [{ content: { 'application/json': { examples: { a: { value: [1] } } } } }, '[1]'],
    [json({ type: ['null', 'integer'], minimum: 3 }), '3'],
    [json({ enum: ['north', 'south'] }), '"north"'],
    [json({ oneOf: [{ properties: { day: { type: 'string', format: 'date' } } }, { type: 'string' }] }), '{"day":"2026-01-01"}'],
    [{ description: 'nothing' }, ''],
  ])('shows what an answer looks like: %j', (answer, text) =>
    expect(one({ responses: { 404: json({ const: 'no' }), 200: answer } }).operations[0]!.operation.example).toBe(text),
  )
  it.each([
    [{ a: { type: 'http', scheme: 'Basic' } }, { kind: 'basic' }],
    [{ a: { type: 'http', scheme: 'bearer' } }, { kind: 'bearer' }],
    [
      { c: { type: 'apiKey', in: 'cookie', name: 'c' }, a: { type: 'apiKey', in: 'query', name: 'k' } },
      { kind: 'key', in: 'query', name: 'k' },
    ],
    [{ a: { type: 'oauth2', flows: { clientCredentials: { tokenUrl: 'https://t/x', scopes: { read: '', write: '' } } } } }, { kind: 'oauth', tokenAddress: 'https://t/x', scope: 'read write' }], // prettier-ignore
    [{}, null],
  ])('is asked for with what it says of sign-in: %j', (securitySchemes, way) =>
    expect(read({ components: { securitySchemes } }).signIn).toEqual(way),
  )
  it('is one of 500 at most', () => {
    const paths = Object.fromEntries(Array.from({ length: 502 }, (_, i) => [`/a${i}`, { get: {} }]))
    const { operations, left } = read({ paths })
    expect([operations.length, left.length, left[0]!.why]).toEqual([500, 2, 'a link has at most 500 operations'])
  })
})

describe('the form of an answer', () => {
  it.each([
    [{ a: 1, b: { c: 'x' } }, { a: 2, b: { c: 'y', d: 1 } }, []],
    [{ a: 1, b: { c: 'x' } }, { b: {} }, ['$.a (a number)', '$.b.c (text)']],
    [{ a: [{ 'x y': true }] }, { a: [{ 'x y': 1 }] }, ["$.a[0]['x y'] (true or false before, a number now)"]],
    [{ a: [{ b: 1 }] }, { a: [] }, []],
    [{ a: null, b: 1 }, { a: 7, b: null }, []],
    [[1], { a: 1 }, ['$ (a list before, an object now)']],
  ])('%j against %j', (example, answer, differences) => expect(formDifferences(example, answer)).toEqual(differences))
})

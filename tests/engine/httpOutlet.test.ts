import { request as requestHttp } from 'node:http'
import { connect } from 'node:net'
import { validate } from '@apidevtools/swagger-parser'
import { afterEach, describe, expect, it } from 'vitest'
import { quality } from '#core/tags/quality'
import { fault } from '#core/faults/catalogue'
import { closeAll, type Closing } from '../support/engineOn'
import { eventsOf, openHttpOutlet } from '../support/httpOutlet'
import { until } from '../support/until'

/** Our HTTP server and programs that are not ours: Node's own fetch, and bare sockets. */

const closing: Closing = []
afterEach(() => closeAll(closing))

const open = (...args: [settings?: Record<string, unknown>, around?: Parameters<typeof openHttpOutlet>[2]]) =>
  openHttpOutlet(closing, ...args)
const at = Date.UTC(2026, 10, 27, 14, 6, 45)
const everything = [{ folder: '', may: 'write' }]

describe('tags over HTTP', () => {
  it('are read one by one, some and by folder, with time and quality', async () => {
    const outlet = await open()
    const power = outlet.tag('berth/1/power', undefined, { unit: 'kW' })
    outlet.set(power, 71.3, quality.Good, at)
    const wide = outlet.tag('berth/2/energy', undefined, { type: 'int64' })
    outlet.set(wide, 9_007_199_254_740_993n, quality.UncertainLastUsableValue, at)
    outlet.tag('berth/10/never')
    outlet.tag('quay/æøå "x"', 'x', { type: 'string' })
    const first = { path: 'berth/1/power', type: 'float64', value: 71.3, time: '2026-11-27T14:06:45.000Z', quality: 'Good', unit: 'kW' }
    expect((await outlet.ask('/tags/berth/1/power')).body).toEqual(first)
    expect((await outlet.ask('/tags/berth/2/energy')).text).toContain('"value":9007199254740993,')
    expect((await outlet.ask('/tags/berth/10/never')).body).toMatchObject({ value: null, time: null, quality: 'BadWaitingForInitialData' })
    expect((await outlet.ask('/tags/quay/%C3%A6%C3%B8%C3%A5%20%22x%22')).body).toMatchObject({ path: 'quay/æøå "x"', value: 'x' })
    const paths = ({ items }: Record<string, unknown>) => (items as { path: string }[]).map(({ path }) => path)
    expect(paths((await outlet.ask('/tags?folder=berth')).body!)).toEqual(['berth/1/power', 'berth/10/never', 'berth/2/energy'])
    const page = (await outlet.ask('/tags?limit=2')).body!
    expect([paths(page), page.next]).toEqual([['berth/1/power', 'berth/10/never'], 'berth/10/never'])
    expect(paths((await outlet.ask('/tags?limit=2&after=berth/10/never')).body!)).toEqual(['berth/2/energy', 'quay/æøå "x"'])
    expect((await outlet.ask('/tags?path=berth/9/power&path=berth/1/power')).body!.items).toEqual([
      { path: 'berth/9/power', problem: 'there is no such tag here' },
      first,
    ])
    expect(paths((await outlet.send('POST', '/tags/read', { paths: ['berth/1/power', 'berth/1/power'] })).body!)).toHaveLength(2)
  })
  it('are had as they are now called, and no longer once they are gone', async () => {
    const outlet = await open()
    const tag = outlet.tag('a', 1)
    outlet.session.setTags([{ ...tag, path: 'b' }], [])
    expect((await outlet.ask('/tags/a')).status).toBe(404)
    expect((await outlet.ask('/tags/b')).body).toMatchObject({ path: 'b', value: 1 })
    outlet.session.setTags([], [tag.handle])
    expect((await outlet.ask('/tags/b')).status).toBe(404)
  })
  it('are written where that is allowed and mapped, with who did it', async () => {
    const outlet = await open(
      { anonymous: [{ folder: '', may: 'write' }, { folder: 'locked', may: 'read' }, { folder: 'hidden', may: 'nothing' }] }, // prettier-ignore
      { write: async () => ({ ok: true }) },
    )
    const limit = outlet.tag('limit', 1, { writable: true })
    outlet.tag('shown', 1)
    outlet.tag('locked/a', 1, { writable: true })
    outlet.tag('hidden/a', 1, { writable: true })
    expect((await outlet.send('PUT', '/tags/limit', { value: 630.5 })).body).toMatchObject({ path: 'limit' })
    expect(outlet.written).toEqual([{ handle: limit.handle, value: 630.5, who: 'without a name, from 127.0.0.1' }])
    const refused = async (path: string, value: unknown) => (await outlet.send('PUT', `/tags/${path}`, { value })).body
    expect(await refused('shown', 1)).toMatchObject({ status: 409, type: 'urn:keen-conduit:fault:write.not-writable' })
    expect(await refused('locked/a', 1)).toMatchObject({ status: 403, detail: 'without a name may not set locked/a.' })
    expect(await refused('hidden/a', 1)).toMatchObject({ status: 404 })
    expect(await refused('limit', 'much')).toMatchObject({ status: 422, type: 'urn:keen-conduit:fault:write.value' })
    const items = [{ path: 'limit', value: 2 }, { path: 'nowhere', value: 2 }, { path: 'limit', value: 3 }] // prettier-ignore
    expect((await outlet.send('POST', '/tags/write', { items })).body).toMatchObject({
      items: [{ written: true }, { written: false, problem: { status: 404 } }, { written: true }],
    })
    expect(outlet.written.map(({ value }) => value)).toEqual([630.5, 2, 3])
  })
  it('that the far side does not take are told as such', async () => {
    const why = fault('tcp.no-answer', { host: 'arm', port: 502, ms: 5 })
    const outlet = await open({ anonymous: everything }, { write: async () => ({ ok: false, quality: quality.BadTimeout, fault: why }) })
    outlet.tag('limit', 1, { writable: true })
    expect((await outlet.send('PUT', '/tags/limit', { value: 1 })).body).toMatchObject({ status: 502, detail: why.what, next: why.next })
  })
})

describe('changes over HTTP', () => {
  it('come as events: at first what there is, then what changes, of what was asked for', async () => {
    const outlet = await open()
    const [one, two] = [outlet.tag('berth/1/power', 1), outlet.tag('quay/gate', 5)]
    const { events, response } = await eventsOf(closing, `${outlet.base}/changes?folder=berth`)
    expect(response.headers.get('content-type')).toBe('text/event-stream')
    await until(() => events.length === 1)
    outlet.set(two, 6)
    outlet.set(one, 2)
    await until(() => events.length === 2)
    expect(events.map(({ path, value }) => [path, value])).toEqual([['berth/1/power', 1], ['berth/1/power', 2]]) // prettier-ignore
    outlet.tag('berth/2/power', 7)
    await until(() => events.some(({ path }) => path === 'berth/2/power'))
    expect(outlet.session.status()).toMatchObject({ items: 2, clients: [{ items: 2 }] })
  })
  it('give a slow one what is then, and hold up nobody', async () => {
    const outlet = await open()
    const tags = Array.from({ length: 300 }, (_, i) => outlet.tag(`t${i}`, 'x'.repeat(1000), { type: 'string' }))
    const slow = connect(outlet.port, '127.0.0.1')
    closing.unshift(async () => void slow.destroy())
    slow.write('GET /changes HTTP/1.1\r\nHost: localhost\r\n\r\n')
    await new Promise((resolve) => slow.once('readable', resolve))
    for (let round = 0; round < 60; round++) for (const tag of tags) outlet.set(tag, String(round).padEnd(1000, '.'))
    const told = outlet.session.changesTold
    expect(told).toBeLessThan(300 * 30)
    let last = ''
    slow.on('data', (chunk) => (last = (last + chunk.toString()).slice(-400_000)))
    await until(() => tags.every((_, i) => last.includes(`"path":"t${i}","type":"string","value":"59.`)))
  })
  it('end where rights end, and are as many as may be', async () => {
    const settings = { doors: [{ names: true, anonymous: false }], limits: { streams: 1 } }
    const user = (rules: object[]) => ({ ...settings, users: [{ name: 'office', token: { plain: 'sesame' }, rules }] })
    const outlet = await open(user([{ folder: '', may: 'read' }]))
    outlet.tag('a', 1)
    const headers = { authorization: 'Bearer office.sesame' }
    const stream = await eventsOf(closing, `${outlet.base}/changes`, headers)
    await until(() => stream.events.length === 1)
    expect((await outlet.ask('/changes', { headers })).status).toBe(503)
    outlet.update(user([{ folder: '', may: 'nothing' }]))
    await until(() => !stream.isOpen())
  })
})

describe('those who follow changes', () => {
  it('take no place of those who ask', async () => {
    const outlet = await open({ limits: { atOnce: 2 } })
    outlet.tag('a', 1)
    const streams = await Promise.all([1, 2].map(() => eventsOf(closing, `${outlet.base}/changes`)))
    streams.push(await eventsOf(closing, `${outlet.base}/changes`))
    await until(() => streams.every(({ events }) => events.length === 1))
    expect((await outlet.ask('/tags/a')).status).toBe(200)
    await until(() => outlet.details()!.underWay === 0)
  })
})

describe('whoever comes in', () => {
  const named = (more: object = {}) => ({
    doors: [{ names: true, anonymous: false }],
    users: [
      { name: 'office', token: { plain: 'tide.and.time' }, rules: [{ folder: 'berth', may: 'read' }] },
      { name: 'office.north', token: { plain: 'x:y' }, rules: everything },
      { name: 'Hafen Süd', token: { plain: 'z' }, rules: everything },
    ],
    ...more,
  })
  const bearer = (token: string) => ({ headers: { authorization: `Bearer ${token}` } })
  const basic = (name: string, token: string) => ({
    headers: { authorization: `Basic ${Buffer.from(`${name}:${token}`).toString('base64')}` },
  })

  it('shows name and token, as a bearer or as a password, and has the rights of that name', async () => {
    const outlet = await open(named())
    outlet.tag('berth/1/power', 1)
    outlet.tag('quay/gate', 1)
    const refused = await outlet.ask('/tags/quay/gate')
    expect(refused).toMatchObject({
      status: 401,
      body: { title: 'Nobody is let in this way', type: 'urn:keen-conduit:fault:serve.sign-in' },
    })
    expect(refused.headers.get('www-authenticate')).toContain('Basic')
    expect(refused.headers.get('content-type')).toBe('application/problem+json')
    const statuses = async (init: RequestInit) => [
      (await outlet.ask('/tags/berth/1/power', init)).status,
      (await outlet.ask('/tags/quay/gate', init)).status,
    ]
    expect(await statuses(bearer('office.tide.and.time'))).toEqual([200, 404])
    expect(await statuses(basic('office', 'tide.and.time'))).toEqual([200, 404])
    expect(await statuses(bearer('office.north.x:y'))).toEqual([200, 200])
    expect(await statuses(basic('office.north', 'x:y'))).toEqual([200, 200])
    expect(await statuses(bearer('Hafen%20S%C3%BCd.z'))).toEqual([200, 200])
    for (const wrong of [
      bearer('office.tide'),
      bearer('nobody.z'),
      bearer(''),
      basic('office', ''),
      { headers: { authorization: 'Digest x' } },
    ])
      expect(await statuses(wrong)).toEqual([401, 401])
  })
  it('is nobody any more once the token is another one', async () => {
    const outlet = await open(named())
    outlet.tag('berth/1/power', 1)
    expect((await outlet.ask('/tags/berth/1/power', bearer('office.tide.and.time'))).status).toBe(200)
    outlet.update(named({ users: [{ name: 'office', token: { plain: 'ebb' }, rules: everything }] }))
    expect((await outlet.ask('/tags/berth/1/power', bearer('office.tide.and.time'))).status).toBe(401)
    expect((await outlet.ask('/tags/berth/1/power', bearer('office.ebb'))).status).toBe(200)
  })
  it('who guesses is slowed down', async () => {
    const outlet = await open(named())
    for (let i = 0; i < 8; i++) await outlet.ask('/tags', bearer(`office.guess${i}`))
    await until(() => outlet.journal.entries.some(({ text }) => text.includes('wrong again and again')))
  })
  it('may ask so often, and is told when again', async () => {
    const outlet = await open({ limits: { perMinute: 5 } })
    const statuses = []
    for (let i = 0; i < 7; i++) statuses.push((await outlet.ask('/tags')).status)
    expect(statuses).toEqual([200, 200, 200, 200, 200, 429, 429])
    const late = await outlet.ask('/tags')
    expect(Number(late.headers.get('retry-after'))).toBeGreaterThan(0)
    expect(late.body).toMatchObject({ type: 'urn:keen-conduit:fault:serve.too-often' })
  })
  it('is told of on the page: who, what, when, what came of it, and can be sent out', async () => {
    const outlet = await open({ anonymous: everything })
    outlet.tag('a', 1)
    await outlet.ask('/tags/a')
    await outlet.ask('/tags/b')
    const [client] = outlet.session.status().clients
    expect(client).toMatchObject({
      ...{
        identity: 'without a name',
        from: '127.0.0.1',
        lastAsked: 'GET /tags/b',
        lastGot: expect.stringMatching(/^404 in \d/) as string,
        security: 'not encrypted',
        flow: 'late',
      },
      refused: { text: 'GET /tags/b: There is no tag b here.' },
    })
    expect(outlet.details()!.refused[0]).toMatchObject({ text: 'GET /tags/b: There is no tag b here.', times: 1 })
    const stream = await eventsOf(closing, `${outlet.base}/changes`)
    await until(() => stream.events.length === 1)
    expect(outlet.session.disconnect(client!.id)).toBe(true)
    await until(() => !stream.isOpen())
    expect(outlet.session.disconnect('nobody')).toBe(false)
  })
  it('from a page of an origin that is named may ask from a browser, and from no other', async () => {
    const outlet = await open({ origins: ['https://office.port.example'] })
    const from = (origin: string) => outlet.ask('/tags', { method: 'OPTIONS', headers: { origin } })
    expect((await from('https://office.port.example')).headers.get('access-control-allow-origin')).toBe('https://office.port.example')
    expect((await from('https://elsewhere.example')).headers.get('access-control-allow-origin')).toBe(null)
  })
})

/** As it is written: fetch would tidy up the path before. */
const rawAsk = (port: number, method: string, path: string, body?: string) =>
  new Promise<{ status: number; type: string; allow: string | undefined; body: Record<string, unknown> }>((resolve, reject) => {
    const ask = requestHttp({ port, method, path, headers: { 'content-type': 'application/json' } }, (response) => {
      let text = ''
      response.on('data', (chunk: Buffer) => (text += chunk.toString()))
      response.on('end', () =>
        resolve({
          ...{ status: response.statusCode!, type: response.headers['content-type']!, allow: response.headers.allow },
          body: JSON.parse(text) as Record<string, unknown>,
        }),
      )
    })
    ask.on('error', reject).end(body)
  })

describe('a page that is open in somebody’s browser', () => {
  const from = (port: number, method: string, headers: Record<string, string>, path = '/tags/write') =>
    new Promise<number>((resolve, reject) => {
      const ask = requestHttp({ port, method, path, headers }, (response) => resolve((response.resume(), response.statusCode!)))
      ask.on('error', reject).end(method === 'GET' ? undefined : '{"items":[]}')
    })
  const type = { 'content-type': 'application/json' }

  it('changes nothing here, unless it is from here or of an origin that is named', async () => {
    const outlet = await open({ anonymous: everything, origins: ['https://office.port.example'] })
    const host = `127.0.0.1:${outlet.port}`
    expect(await from(outlet.port, 'POST', { ...type, host, origin: 'https://elsewhere.example' })).toBe(403)
    expect(await from(outlet.port, 'POST', { ...type, host, origin: 'https://office.port.example' })).toBe(200)
    expect(await from(outlet.port, 'POST', { ...type, host, origin: `http://${host}` })).toBe(200)
    expect(await from(outlet.port, 'POST', { ...type, host })).toBe(200)
  })
  it('is no page from here because its name leads to this machine', async () => {
    const outlet = await open()
    expect(await from(outlet.port, 'GET', { host: 'rebound.example' }, '/tags')).toBe(403)
    for (const host of ['localhost', '127.0.0.1', '[::1]:80']) expect(await from(outlet.port, 'GET', { host }, '/tags')).toBe(200)
    const given = await open({ doors: [{ giveOut: 'gateway.port.example' }] })
    expect(await from(given.port, 'GET', { host: 'gateway.port.example:1' }, '/tags')).toBe(200)
  })
})

describe('what cannot be done', () => {
  it.each([
    ['GET', '/nowhere', undefined, 404, 'serve.unknown-path'],
    ['DELETE', '/tags', undefined, 405, 'serve.method'],
    ['GET', '/tags/%2e%2e/secret', undefined, 404, 'serve.no-tag'],
    ['GET', '/docs/%2e%2e/package.json', undefined, 404, 'serve.unknown-path'],
    ['GET', '/docs/__proto__', undefined, 404, 'serve.unknown-path'],
    ['GET', '/tags/a%00b', undefined, 404, 'serve.no-tag'],
    ['GET', '/tags?limit=0', undefined, 400, 'serve.parameters'],
    ['POST', '/tags/read', '{"paths":', 400, 'serve.body'],
    ['POST', '/tags/read', '{"paths":[1]}', 400, 'serve.body'],
    ['POST', '/tags/read', '[]', 400, 'serve.body'],
    ['POST', '/tags/read', JSON.stringify({ paths: Array.from({ length: 10_001 }, () => 'a') }), 400, 'serve.parameters'],
    ['POST', '/tags/write', '{"items":[{"path":"a"}]}', 400, 'serve.body'],
  ])('%s %s is told as a problem (RFC 9457)', async (method, path, body, status, code) => {
    const outlet = await open({ anonymous: everything })
    const answer = await rawAsk(outlet.port, method, path, body)
    expect(answer).toMatchObject({ status, type: 'application/problem+json', body: { status, type: `urn:keen-conduit:fault:${code}` } })
    expect(Object.keys(answer.body)).toEqual(expect.arrayContaining(['title', 'detail', 'next']))
    if (status === 405) expect(answer.allow).toBe('GET')
  })
  it('a body without a type, of another type, or too large', async () => {
    const outlet = await open({ limits: { body: 1 } })
    const bare = await new Promise<number>((resolve) => {
      const ask = requestHttp({ port: outlet.port, method: 'POST', path: '/tags/read' }, (response) => resolve(response.statusCode!))
      ask.end('{"paths":[]}')
    })
    expect(bare).toBe(400)
    expect((await outlet.send('POST', '/tags/read', {}, { 'content-type': 'text/plain' })).body).toMatchObject({
      detail: 'The body cannot be read: it is text/plain.',
    })
    expect((await outlet.send('POST', '/tags/read', { paths: ['x'.repeat(2000)] })).body).toMatchObject({ status: 413 })
    const endless = new Promise<number>((resolve) => {
      const ask = requestHttp(
        { port: outlet.port, method: 'POST', path: '/tags/read', headers: { 'content-type': 'application/json' } },
        (response) => resolve(response.statusCode!),
      )
      ask.on('error', () => {})
      for (let i = 0; i < 40; i++) ask.write('x'.repeat(1000))
    })
    expect(await endless).toBe(413)
  })
  it('is no HTTP at all, and stands in nobody’s way', async () => {
    const outlet = await open()
    outlet.tag('a', 1)
    const socket = connect(outlet.port, '127.0.0.1')
    closing.unshift(async () => void socket.destroy())
    const said = new Promise<string>((resolve) => socket.once('data', (data) => resolve(data.toString())))
    socket.write('\x03\x00\x00\x13 nothing of the kind\r\n\r\n')
    expect(await said).toContain('400 Bad Request')
    expect((await outlet.ask('/tags/a')).status).toBe(200)
    expect(outlet.details()!.refused[0]!.text).toContain('spoke no HTTP')
  })
})

describe('its description', () => {
  it('is OpenAPI 3.1 that a package finds sound, follows every change, and is that of who asks', async () => {
    const endpoint = (more: object) => ({
      path: '/berths/{berth}/power',
      about: 'Power of a berth',
      does: { kind: 'tags', values: [{ name: 'kw', path: 'berth/{berth}/power' }] },
      ...more,
    })
    const settings = {
      doors: [{ names: true }],
      users: [{ name: 'office', token: { plain: 't' }, rules: everything }],
      endpoints: [
        endpoint({ parameters: [{ name: 'berth', in: 'path', type: 'whole', least: 1, most: 9 }], answer: '{"kw":"{kw}"}' }),
        endpoint({ path: '/own', who: ['office'], does: { kind: 'tags', values: [{ name: 'a', path: 'a' }] } }),
      ],
    }
    const outlet = await open(settings)
    const described = async (headers: Record<string, string> = {}) => (await outlet.ask('/openapi.json', { headers })).body as never
    const anonymous = (await validate(structuredClone(await described()))) as { paths: Record<string, { get?: Record<string, unknown> }> }
    const ofTags = ['/tags', '/tags/{path}', '/tags/read', '/history/{path}', '/changes']
    expect(Object.keys(anonymous.paths)).toEqual([...ofTags, '/berths/{berth}/power'])
    expect(anonymous.paths['/berths/{berth}/power']!.get).toMatchObject({
      summary: 'Power of a berth',
      parameters: [{ name: 'berth', in: 'path', required: true, schema: { type: 'integer', minimum: 1, maximum: 9 } }],
    })
    const office = (await validate(structuredClone(await described({ authorization: 'Bearer office.t' })))) as { paths: object }
    expect(Object.keys(office.paths)).toEqual(expect.arrayContaining(['/tags/write', '/own']))
    outlet.update({ ...settings, endpoints: [] })
    expect(Object.keys(((await described()) as { paths: object }).paths)).not.toContain('/berths/{berth}/power')
  })
  it('comes with a page to try it, whose parts are all served from here', async () => {
    const outlet = await open()
    expect((await outlet.ask('/')).headers.get('location')).toBe('/docs/')
    const page = await outlet.ask('/docs/')
    expect(page.headers.get('content-security-policy')).toContain("default-src 'none'")
    const parts = [...page.text.matchAll(/(?:src|href)="([^"]+)"/g)].map(([, part]) => part!)
    const style = (await outlet.ask('/docs/own.css')).text
    parts.push(...[...style.matchAll(/url\((\S+?)\)/g)].map(([, part]) => part!))
    expect(parts).toHaveLength(7)
    for (const part of parts) {
      const answer = await outlet.ask(part)
      expect([part, answer.status]).toEqual([part, 200])
      const again = await outlet.ask(part, { headers: { 'if-none-match': answer.headers.get('etag')! } })
      expect(again.status).toBe(304)
    }
  })
})

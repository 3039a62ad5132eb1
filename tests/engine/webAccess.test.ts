import { connect } from 'node:net'
import { createServer } from 'node:http'
import { createServer as createSecure } from 'node:https'
import type { AddressInfo } from 'node:net'
import type { TLSSocket } from 'node:tls'
import { afterEach, describe, expect, it } from 'vitest'
import { callOnce } from '#engine/links/http/callOnce'
import { checkHttp } from '#engine/links/http/check'
import { fetchText } from '#engine/links/http/fetchText'
import { Wire } from '#engine/wire/wire'
import { makeSelfSigned } from '#security/selfSigned'
import { httpSettings } from '#core/http/settings'
import { whyNotKept } from '#core/http/keeping'
import { closeAll, type Closing } from '../support/engineOn'
import { httpSettingsFor, openHttp } from '../support/httpSession'
import { testSecurity } from '../support/security'
import { until } from '../support/until'
import { json, pour, startWebApi } from '../support/webApi'

/** How our link comes to a web API: by tokens, through a proxy, with a certificate of its own. Servers are those of Node. */

const closing: Closing = []
afterEach(() => closeAll(closing))

const api = async (...args: Parameters<typeof startWebApi>) => {
  const started = await startWebApi(...args)
  closing.push(() => started.stop())
  return started
}
const around = async () => ({ wire: new Wire(), security: await testSecurity() })
const tokenHead = (bytes: number) => ({ 'content-type': 'application/json', 'content-length': bytes })
const operations = [{ name: 'now', path: '/now' }]
const once = async (base: string, more: object) =>
  callOnce(httpSettingsFor(base, { operations, ...more }), { operation: 'now', given: {} }, await around())

describe('a link that is given tokens', () => {
  const by = (tokenAddress: string, more: object = {}) => ({
    signIn: { kind: 'oauth', tokenAddress, clientId: 'quay', secret: { plain: 'tide & time' }, scope: 'tariffs', ...more },
  })
  const authority = async (seconds = 3600) => {
    let count = 0
    const there = await api((_, response) => json(response, { access_token: `t${++count}`, token_type: 'bearer', expires_in: seconds }))
    return { ...there, token: `${there.base}/oauth/token` }
  }

  it.each(['header', 'body'])(
    'asks for one, and shows it with each call for as long as it lasts (id and secret in the %s)',
    async (how) => {
      const tokens = await authority()
      const there = await api((_, response) => json(response, 7))
      const link = await openHttp(closing, httpSettingsFor(there.base, { operations, ...by(tokens.token, { how }) }), [
        { address: 'now', type: 'float64', more: {} },
      ])
      await link.good()
      await until(() => there.asked.length >= 3)
      expect(new Set(there.asked.map(({ headers }) => headers.authorization))).toEqual(new Set(['Bearer t1']))
      expect(tokens.asked).toHaveLength(1)
      const [{ method, headers, body }] = tokens.asked as [(typeof tokens.asked)[number]]
      const form = new URLSearchParams(body)
      expect([method, form.get('grant_type'), form.get('scope')]).toEqual(['POST', 'client_credentials', 'tariffs'])
      if (how === 'body') expect([form.get('client_id'), form.get('client_secret')]).toEqual(['quay', 'tide & time'])
      else expect(Buffer.from(headers.authorization!.slice(6), 'base64').toString()).toBe('quay:tide+%26+time')
    },
  )
  it('asks for another one where the one that it had is not believed any more, and once only', async () => {
    const tokens = await authority()
    const there = await api(({ headers }, response) => json(response, 7, headers.authorization === 'Bearer t1' ? 401 : 200))
    expect(await once(there.base, by(tokens.token))).toMatchObject({ status: 200, body: '7' })
    expect(tokens.asked).toHaveLength(2)
    there.answers((_, response) => json(response, {}, 401))
    expect(await once(there.base, by(tokens.token))).toMatchObject({ status: 401, fault: { code: 'http.refused' } })
    expect(tokens.asked).toHaveLength(4)
  })
  it.each([
    ['is refused', 400, { error: 'invalid_client', error_description: 'no such client' }, 'invalid_client: no such client'],
    ['is none', 200, { token: 'x' }, 'access_token'],
    ['is not given', 500, {}, ''],
  ])('says where it %s what was said there', async (_, status, said, problem) => {
    const tokens = await api((_asked, response) => json(response, said, status))
    const there = await api((_asked, response) => json(response, 7))
    const { fault } = await once(there.base, by(`${tokens.base}/token`))
    expect(fault).toMatchObject({ code: 'http.token', side: 'device', what: expect.stringContaining(problem) as string })
    expect(there.asked).toHaveLength(0)
  })
  it.each<[string, Parameters<typeof startWebApi>[0]]>([
    [
      'ends in the middle',
      (_, response) => response.writeHead(200, tokenHead(90)).write('{"access_token":"t1","tok', () => response.destroy()),
    ],
    ['is cut short', (_, response) => response.writeHead(200, tokenHead(25)).end('{"access_token":"t1","tok')],
  ])('says where what is to give it one %s, and asks again for the next call', async (_, broken) => {
    const tokens = await api(broken)
    const there = await api((_asked, response) => json(response, 7))
    const link = await openHttp(closing, httpSettingsFor(there.base, { operations, ...by(`${tokens.base}/token`) }), [
      { address: 'now', type: 'float64', more: {} },
    ])
    await until(() => link.session.status().fault?.code === 'http.token')
    expect(there.asked).toEqual([])
    tokens.answers((_asked, response) => json(response, { access_token: 't2', token_type: 'bearer' }))
    await link.good()
    expect(there.asked[0]!.headers.authorization).toBe('Bearer t2')
  })
  it('reads no more than a token takes where what comes has no end', async () => {
    let sent = () => 0
    const tokens = await api((_asked, response) => {
      const { socket } = response
      sent = () => socket!.bytesWritten
      pour(response.writeHead(200, { 'content-type': 'application/json' }))
    })
    const there = await api((_asked, response) => json(response, 7))
    expect((await once(there.base, by(`${tokens.base}/token`))).fault).toMatchObject({
      code: 'http.token',
      evidence: expect.stringContaining('larger than') as string,
    })
    expect(sent()).toBeLessThan(16_000_000)
  })
  it('does not wait for ever for one', async () => {
    const tokens = await api(() => {})
    const there = await api((_, response) => json(response, 7))
    expect((await once(there.base, by(`${tokens.base}/token`))).fault).toMatchObject({ code: 'http.token' })
  })
})

/** A proxy that lets connections through; the package of nobody, only Node's own server. */
const startProxy = async (account: string | null = null) => {
  const asked: string[] = []
  const server = createServer((_, response) => response.writeHead(405).end())
  server.on('connect', (request, socket, head) => {
    asked.push(request.url!)
    const wanted = account === null ? undefined : `Basic ${Buffer.from(account).toString('base64')}`
    if (request.headers['proxy-authorization'] !== wanted) return socket.end('HTTP/1.1 407 Proxy Authentication Required\r\n\r\n')
    const [host, port] = request.url!.split(':') as [string, string]
    const there = connect(Number(port), host, () => {
      socket.write('HTTP/1.1 200 OK\r\n\r\n')
      there.write(head)
      there.pipe(socket).pipe(there)
    })
    there.on('error', () => socket.destroy())
    socket.on('error', () => there.destroy())
  })
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
  closing.push(() => new Promise<void>((resolve) => (server.close(() => resolve()), server.closeAllConnections())))
  return { asked, port: (server.address() as AddressInfo).port }
}
const pair = () =>
  makeSelfSigned({
    commonName: 'Office',
    organization: 'Harrow Sound',
    applicationUri: 'urn:office',
    dns: ['localhost'],
    ip: ['127.0.0.1'],
  })

describe('a link behind a proxy', () => {
  const through = (port: number, identity: object = { kind: 'anonymous' }) => ({
    proxy: { kind: 'http', host: '127.0.0.1', port, identity },
  })

  it('comes through it to what is encrypted and to what is not, and signs in there', async () => {
    const proxy = await startProxy('quay:sésame')
    const { certificate: cert, key } = await pair()
    const plain = await api((_, response) => json(response, 1))
    const secure = await api((_, response) => json(response, 2), { cert, key })
    const account = { kind: 'password', user: 'quay', password: { plain: 'sésame' } }
    const trust = { authority: cert }
    expect(await once(plain.base, through(proxy.port, account))).toMatchObject({ status: 200, body: '1' })
    expect(await once(secure.base, { ...through(proxy.port, account), trust })).toMatchObject({ status: 200, body: '2' })
    expect(proxy.asked).toEqual([plain.base.slice(7), secure.base.slice(8)])
    expect(plain.asked[0]!.headers).not.toHaveProperty('proxy-authorization')
    expect((await once(plain.base, through(proxy.port))).fault).toMatchObject({
      ...{ code: 'http.proxy', side: 'network', evidence: 'it answered with status 407: name and password are wanted' },
    })
  })
  it('says where that is none, or is silent', async () => {
    const none = await api((_, response) => json(response, 1))
    expect((await once('http://127.0.0.1:9', through(none.port))).fault).toMatchObject({ code: 'http.proxy' })
    const silent = await startProxy()
    const away = createServer()
    away.on('connect', (_request, socket) => closing.push(async () => void socket.destroy()))
    await new Promise<void>((resolve) => away.listen(0, '127.0.0.1', resolve))
    closing.push(async () => void away.close())
    const { port } = away.address() as AddressInfo
    expect((await once(none.base, through(port))).fault?.evidence).toBe('it did not answer within 500 ms')
    const steps: Record<string, string> = {}
    for await (const step of checkHttp(httpSettingsFor(none.base, through(silent.port)), AbortSignal.timeout(5000), await around()))
      steps[step.step] = `${step.flow} ${step.evidence}`
    expect(steps).toMatchObject({
      port: `flowing TCP ${silent.port} open, at the proxy`,
      answer: expect.stringContaining('status 200') as string,
    })
  })
})

describe('a link with a certificate of its own', () => {
  it('shows it to who wants to see one', async () => {
    const { certificate: cert, key } = await pair()
    const seen: (string | undefined)[] = []
    const server = createSecure({ cert, key, requestCert: true, rejectUnauthorized: false }, (request, response) => {
      seen.push([(request.socket as TLSSocket).getPeerCertificate().subject?.CN].flat()[0])
      json(response, 7)
    })
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
    closing.push(() => new Promise<void>((resolve) => (server.close(() => resolve()), server.closeAllConnections())))
    const base = `https://127.0.0.1:${(server.address() as AddressInfo).port}`
    const own = await makeSelfSigned({ commonName: 'Quay gateway', organization: 'H', applicationUri: 'urn:q', dns: [], ip: [] })
    const certificate = { kind: 'own', certificate: own.certificate, key: { plain: own.key } }
    expect(await once(base, { trust: { authority: cert, certificate } })).toMatchObject({ status: 200 })
    expect(await once(base, { trust: { authority: cert } })).toMatchObject({ status: 200 })
    expect(seen).toEqual(['Quay gateway', undefined])
    expect((await once(base, { trust: { authority: '' } })).fault).toMatchObject({ code: 'http.tls' })
  })
})

describe('the check of a web API', () => {
  it.each([
    [{ price: 7 }, 'flowing as the example of now'],
    [{ eur: 7 }, 'broken The answer to now is of another form than its example. Missing or other: $.price (a number).'],
    ['soon', 'broken The answer to now is of another form than its example. Missing or other: $ (an object before, text now).'],
  ])('compares the first answer with its example: %j', async (answer, evidence) => {
    const there = await api((_, response) => json(response, answer))
    const settings = httpSettingsFor(there.base, { operations: [{ ...operations[0], example: '{"price":1}' }] })
    let last = ''
    for await (const step of checkHttp(settings, AbortSignal.timeout(20_000), await around()))
      if (step.step === 'form') last = `${step.flow} ${step.evidence}`
    expect(last).toBe(evidence)
  })
})

describe('a document beside a web API', () => {
  const key = { signIn: { kind: 'key', key: { plain: 'harrow' } }, headers: [{ name: 'X-Port', value: 'own' }] }
  it('is fetched as calls are made, but on another host without what shows whose we are', async () => {
    const [ours, other] = [await api((_, response) => response.end('ours')), await api((_, response) => response.end('theirs'))]
    const settings = httpSettingsFor(ours.base, key)
    expect(await fetchText(settings, `${ours.base}/openapi.json?v=3`, await around())).toBe('ours')
    expect(await fetchText(settings, `${other.base}/openapi.json`, await around())).toBe('theirs')
    expect(ours.asked[0]).toMatchObject({ url: '/openapi.json?v=3', headers: { 'x-api-key': 'harrow', 'x-port': 'own' } })
    expect(other.asked[0]!.headers).not.toHaveProperty('x-api-key')
    expect(other.asked[0]!.headers).not.toHaveProperty('x-port')
  })
  it.each(['file:///etc/passwd', 'nowhere', 'ftp://a/b'])('is not fetched from %s', async (address) =>
    expect(fetchText(httpSettingsFor('http://127.0.0.1:9'), address, await around())).rejects.toMatchObject({ code: 'http.call' }),
  )
})

describe('a secret that is kept', () => {
  const settings = (more: object) =>
    httpSettings.parse({
      base: 'https://a',
      signIn: { kind: 'oauth', tokenAddress: 'https://t/x', clientId: 'q', secret: { kept: true } },
      ...more,
    })
  it('goes to no other place for tokens and through no other proxy', () => {
    const before = settings({})
    expect(whyNotKept(before, settings({ interval: 500 }))).toBe(null)
    expect(whyNotKept(before, settings({ proxy: { kind: 'http', host: 'p' } }))).toContain('another way')
    const signIn = { kind: 'oauth', tokenAddress: 'https://u/x', clientId: 'q', secret: { kept: true } }
    expect(whyNotKept(before, settings({ signIn }))).toContain('another way')
  })
})

import { createServer } from 'node:net'
import { afterEach, describe, expect, it } from 'vitest'
import { quality } from '#core/tags/quality'
import { callOnce } from '#engine/links/http/callOnce'
import { checkHttp } from '#engine/links/http/check'
import { Wire } from '#engine/wire/wire'
import { freePort } from '../../launcher/ports.mjs'
import { closeAll, type Closing } from '../support/engineOn'
import { httpSettingsFor, openHttp } from '../support/httpSession'
import type { Wanted } from '../support/points'
import { testSecurity } from '../support/security'
import { until } from '../support/until'
import { json, pour, startWebApi } from '../support/webApi'

/** Our link and a web API that is not ours. */

const closing: Closing = []
afterEach(() => closeAll(closing))

const operations = [
  { name: 'now', path: '/now' },
  { name: 'tariff', path: '/tariffs/{zone}' },
  { name: 'limit', method: 'PUT', path: '/limits/{berth}', body: '{"kw":"{value}"}' },
]
const settingsFor = (base: string, more: object = {}) => httpSettingsFor(base, { operations, ...more })

const api = async (...args: Parameters<typeof startWebApi>) => {
  const started = await startWebApi(...args)
  closing.push(() => started.stop())
  return started
}

const open = (base: string, wanted: Wanted[], more: object = {}) => openHttp(closing, settingsFor(base, more), wanted)
const price = (path = '$.price', address = 'now', more: object = {}): Wanted => ({
  address,
  type: 'float64',
  more: { options: { path, ...more } },
})

describe('a call to a web API', () => {
  it('is made once for all tags that live in its answer, again and again', async () => {
    const there = await api(({ url }, response) =>
      json(response, url === '/v1/now' ? { price: 41.7, at: '2026-11-27T10:00:00Z', zone: 'north' } : { price: 7 }),
    )
    const link = await open(`${there.base}/v1/`, [
      price('$.price', 'now', { time: '$.at' }),
      { address: 'now', type: 'string', more: { options: { path: '$.zone' } } },
      price('$.price', 'tariff?zone=s%C3%B8r'),
    ])
    await link.good(2)
    expect([0, 1, 2].map(link.value)).toEqual([41.7, 'north', 7])
    expect(link.sourceTime(0)).toBe(Date.UTC(2026, 10, 27, 10))
    await until(() => there.asked.filter(({ url }) => url === '/v1/now').length >= 3)
    expect(new Set(there.asked.map(({ url }) => url))).toEqual(new Set(['/v1/now', '/v1/tariffs/s%C3%B8r']))
    const origin = link.session.origin(link.points[0]!.handle)!
    expect(origin.stages.map(({ title }) => title)).toEqual(['Answer', 'Read as float64', 'Passed on'])
    expect(link.session.status()).toMatchObject({ flow: 'flowing', sentence: '2 calls answered', connections: 1 })
  })

  it('asks whether there is anything new where it was told a mark, and takes “no” for the same again', async () => {
    let changes = 1
    const there = await api(({ headers }, response) =>
      headers['if-none-match'] === `"${changes}"`
        ? response.writeHead(304).end()
        : json(response, { price: changes }, 200, { etag: `"${changes}"` }),
    )
    const link = await open(there.base, [price()])
    await until(() => there.asked.filter(({ headers }) => headers['if-none-match'] === '"1"').length > 2)
    expect([link.value(0), link.quality(0)]).toEqual([1, quality.Good])
    changes = 2
    await until(() => link.value(0) === 2)
  })

  it.each<[string, object, Record<string, string>, string]>([
    [
      'a name and password',
      { kind: 'basic', user: 'port', password: { plain: 'ø:x' } },
      { authorization: `Basic ${Buffer.from('port:ø:x').toString('base64')}` },
      '/now',
    ],
    ['a token', { kind: 'bearer', token: { plain: 'abc' } }, { authorization: 'Bearer abc' }, '/now'],
    ['a key in a header', { kind: 'key', key: { plain: 'k1' } }, { 'x-api-key': 'k1' }, '/now'],
    ['a key in the query', { kind: 'key', in: 'query', name: 'api_key', key: { plain: 'k&1' } }, {}, '/now?api_key=k%261'],
  ])('shows %s', async (_, signIn, headers, url) => {
    const there = await api((_asked, response) => json(response, { price: 1 }))
    const link = await open(there.base, [price()], { signIn, headers: [{ name: 'X-Site', value: 'Harrow Sound' }] })
    await link.good()
    expect(there.asked[0]).toMatchObject({ url, headers: { ...headers, 'x-site': 'Harrow Sound' } })
  })

  it('goes on as it was where another setting changed, and is asked anew where it is another call', async () => {
    const there = await api(({ url }, response) => json(response, { price: url === '/now' ? 1 : 2 }))
    const link = await open(there.base, [price(), price('$.price', 'tariff?zone=a')], { interval: 60_000 })
    await link.good(1)
    const { length } = there.asked
    link.session.update({
      ...link.settings,
      largest: 8,
      interval: 50_000,
      operations: link.settings.operations.map((one) => ({ ...one, example: '{}' })),
    })
    expect([0, 1].map(link.quality)).toEqual([quality.Good, quality.Good])
    const moved = link.settings.operations.map((one) => (one.name === 'tariff' ? { ...one, path: '/other/{zone}' } : one))
    link.session.update({ ...link.settings, operations: moved })
    expect([0, 1].map(link.quality)).toEqual([quality.Good, quality.BadWaitingForInitialData])
    await link.good(1)
    expect(there.asked.slice(length).map(({ url }) => url)).toEqual(['/other/a'])
  })

  it('takes nothing that another place said, though it was asked there just before the change', async () => {
    const late: (() => void)[] = []
    const before = await api((_asked, response) => void late.push(() => json(response, { price: 1 })))
    const after = await api((_asked, response) => void late.push(() => json(response, { price: 2 })))
    const link = await open(before.base, [price()])
    await until(() => late.length === 1)
    link.session.update({ ...link.settings, base: after.base })
    late[0]!()
    await until(() => late.length === 2)
    expect([link.value(0), link.quality(0)]).toEqual([undefined, quality.BadWaitingForInitialData])
    late[1]!()
    await link.good()
    expect(link.value(0)).toBe(2)
  })

  it('writes by the call that the tag names, and asks again at once', async () => {
    let kw = 100
    const there = await api(({ method, url, body }, response) => {
      if (method === 'PUT' && url === '/limits/2') kw = (JSON.parse(body) as { kw: number }).kw
      json(response, { kw }, kw > 500 ? 422 : 200)
    })
    const link = await open(there.base, [price('$.kw', 'now', { setBy: 'limit?berth=2' })], { interval: 60_000 })
    await link.good()
    expect(await link.write(0, 250.5)).toEqual({ ok: true })
    await until(() => link.value(0) === 250.5)
    expect(await link.write(0, 900)).toMatchObject({ ok: false, fault: { code: 'http.refused' } })
  })
})

describe('a web API that says something else', () => {
  it.each<[number, string, number, string]>([
    [401, 'http.refused', quality.BadUserAccessDenied, 'broken'],
    [404, 'http.refused', quality.BadNoData, 'broken'],
    [500, 'http.busy', quality.BadDeviceFailure, 'late'],
    [503, 'http.busy', quality.UncertainLastUsableValue, 'late'],
  ])('with status %i is told as such, and what was good is good no more', async (status, code, after, flow) => {
    const there = await api((_asked, response) => json(response, { price: 5 }))
    const link = await open(there.base, [price()])
    await link.good()
    there.answers((_asked, response) => json(response, {}, status))
    await until(() => link.quality(0) === after)
    expect(link.session.status()).toMatchObject({ flow, fault: { code } })
    there.answers((_asked, response) => json(response, { price: 6 }))
    await until(() => link.value(0) === 6 && link.quality(0) === quality.Good)
    await until(() => link.journal.entries.some(({ text }) => text === 'It answers again.'))
  })

  it('is left alone for as long as it wishes', async () => {
    const there = await api((_asked, response) => json(response, {}, 429, { 'retry-after': '1' }))
    const link = await open(there.base, [price(), price('$.price', 'tariff?zone=a')])
    await until(() => link.session.status().fault?.code === 'http.busy')
    const { length } = there.asked
    there.answers((_asked, response) => json(response, { price: 1 }))
    const began = Date.now()
    await until(() => there.asked.length > length + 1)
    expect(there.asked[length]!.at - there.asked[0]!.at).toBeGreaterThan(900)
    expect(Date.now() - began).toBeGreaterThan(500)
  })

  it('holds up nothing else while one of its answers never comes', async () => {
    const there = await api(({ url }, response) => {
      if (url === '/now') json(response, { price: 3 })
    })
    const link = await open(there.base, [price(), price('$.price', 'tariff?zone=a')])
    await until(() => link.quality(1) === quality.BadTimeout)
    expect([link.value(0), link.quality(0)]).toEqual([3, quality.Good])
    expect(link.session.status()).toMatchObject({
      flow: 'late',
      fault: { code: 'http.silent' },
      sentence: expect.stringContaining('1 of 2 calls failed') as string,
    })
  })

  it('with an answer of another form is told at the tag, and the others go on', async () => {
    const there = await api((_asked, response) => json(response, { price: 'dear', list: [1, 2], zone: 'north' }))
    const link = await open(there.base, [
      price(),
      price('$.list[*]'),
      price('$.nothing'),
      { address: 'now', type: 'string', more: { options: { path: '$.zone' } } },
    ])
    await link.good(3)
    expect([0, 1, 2].map(link.quality)).toEqual([quality.BadTypeMismatch, quality.BadTypeMismatch, quality.BadTypeMismatch])
    expect(link.session.findings().map(({ text }) => text)).toEqual([
      expect.stringContaining('“dear”') as string,
      expect.stringContaining('gives 2 values') as string,
      expect.stringContaining('nothing at $.nothing') as string,
    ])
  })

  it('in more bytes than may be is not read to its end', async () => {
    const there = await api((_asked, response) => pour(response.writeHead(200, { 'content-type': 'application/json' })))
    const link = await open(there.base, [price()], { largest: 1 })
    await until(() => link.session.status().fault?.code === 'http.too-large')
  })

  it('in 10 MB gives its values where the link allows so many, can be shown, and holds up no other call', async () => {
    const rows = Array.from({ length: 100_000 }, (_, i) => ({ voyage: i, ship: `ferry ${'~'.repeat(60)}`, kw: i / 2 }))
    const long = JSON.stringify({ rows })
    expect(long.length).toBeGreaterThan(10_000_000)
    const there = await api(({ url }, response) =>
      url === '/now' ? response.writeHead(200, { 'content-type': 'application/json' }).end(long) : json(response, { price: 7 }),
    )
    const patience = { connect: 5000, answer: 20_000, retryFirst: 100, retryMost: 200 }
    const settings = settingsFor(there.base, { largest: 16, patience })
    const link = await open(there.base, [price('$.rows[99999].kw'), price('$.price', 'tariff?zone=n')], settings)
    await Promise.all([link.good(0), link.good(1)])
    expect([0, 1].map(link.value)).toEqual([49_999.5, 7])
    const shown = await callOnce(settings, { operation: 'now', given: {} }, { wire: new Wire(), security: await testSecurity() })
    expect(shown).toMatchObject({ status: 200, bytes: long.length, shortened: 'lists' })
    expect((JSON.parse(shown.body) as { rows: unknown[] }).rows[0]).toEqual(rows[0])
  })

  it('sends us to another host, and nothing goes there', async () => {
    const other = await api((_asked, response) => json(response, { price: 1 }))
    const there = await api(({ url }, response) =>
      response.writeHead(302, { location: url === '/now' ? `${other.base}/now` : '/now-here' }).end(),
    )
    const link = await open(there.base, [price()], { signIn: { kind: 'bearer', token: { plain: 'secret' } } })
    await until(() => link.session.status().fault?.code === 'http.elsewhere')
    expect(other.asked).toEqual([])
    there.answers(({ url }, response) =>
      url === '/now' ? response.writeHead(307, { location: '/here' }).end() : json(response, { price: 2 }),
    )
    await until(() => link.value(0) === 2)
    there.answers((_asked, response) => response.writeHead(301, { location: '/round' }).end())
    await until(() => link.session.status().fault?.code === 'http.refused')
    expect(link.session.status().sentence).toContain('status 301: moved permanently')
  })

  it('is none: another protocol, nobody, or one that breaks off', async () => {
    const garbage = createServer((socket) =>
      socket
        .on('error', () => {})
        .resume()
        .end('SSH-2.0-x\r\n'),
    )
    await new Promise<void>((resolve) => garbage.listen(0, '127.0.0.1', resolve))
    closing.push(() => new Promise<void>((resolve) => garbage.close(() => resolve())))
    const port = (garbage.address() as { port: number }).port
    const link = await open(`http://127.0.0.1:${port}`, [price()])
    await until(() => link.session.status().fault?.code === 'http.not-http')
    const nobody = await open(`http://127.0.0.1:${await freePort()}`, [price()])
    await until(() => nobody.session.status().fault?.code === 'tcp.refused')
    const breaks = await api((_asked, response) =>
      response.writeHead(200, { 'content-length': '100' }).write('half', () => response.destroy()),
    )
    const half = await open(breaks.base, [price()])
    await until(() => half.session.status().fault?.code === 'http.broken')
    expect([link, nobody, half].map((one) => one.quality(0))).toEqual([
      quality.BadNoCommunication,
      quality.BadNoCommunication,
      quality.BadNoCommunication,
    ])
  })
})

describe('how often it is asked', () => {
  it('is no more than may be at once, and in a minute', async () => {
    let [under, most] = [0, 0]
    const there = await api((_asked, response) => {
      most = Math.max(most, ++under)
      setTimeout(() => (under--, json(response, { price: 1 })), 20)
    })
    const zones = Array.from({ length: 12 }, (_, n) => price('$.price', `tariff?zone=${n}`))
    const link = await open(there.base, zones, { atOnce: 2, perMinute: 8 })
    await until(() => there.asked.length === 8)
    await until(() => under === 0)
    await new Promise((resolve) => setTimeout(resolve, 150))
    expect([there.asked.length, most]).toEqual([8, 2])
    expect(link.quality(11)).not.toBe(quality.Good)
  })
})

describe('a check', () => {
  const steps = async (settings: ReturnType<typeof settingsFor>) => {
    const last = new Map<string, string>()
    const security = await testSecurity()
    for await (const { step, flow, evidence } of checkHttp(settings, new AbortController().signal, { wire: new Wire(), security }))
      last.set(step, `${flow} ${evidence}`)
    return Object.fromEntries(last)
  }
  it('walks from the name to the first answer', async () => {
    const there = await api((_asked, response) => json(response, { price: 1 }))
    expect(await steps(settingsFor(there.base))).toMatchObject({
      name: expect.stringContaining('flowing') as string,
      port: `flowing TCP ${there.port} open`,
      tls: 'off http: nothing is encrypted',
      answer: expect.stringMatching(/^flowing now: status 200, OK, .*11 bytes/) as string,
    })
    there.answers((_asked, response) => json(response, {}, 401))
    expect(await steps(settingsFor(there.base))).toMatchObject({ answer: 'broken HTTP 401' })
    there.answers((_asked, response) => json(response, {}, 404))
    expect(await steps(settingsFor(there.base, { operations: [] }))).toMatchObject({
      answer: expect.stringContaining('it answers') as string,
    })
  })
  it('says whose certificate is not believed, and why', async () => {
    const { own } = await testSecurity()
    const there = await api((_asked, response) => json(response, { price: 1 }), { cert: own.pem, key: own.key })
    expect(await steps(settingsFor(there.base))).toMatchObject({
      tls: expect.stringMatching(/^broken .*(self.signed|certificate|altnames)/i) as string,
      answer: 'off not reached',
    })
    expect(await steps(settingsFor(there.base, { trust: { verify: false } }))).toMatchObject({
      tls: expect.stringContaining('flowing TLSv1.3') as string,
      answer: expect.stringContaining('flowing') as string,
    })
  })
})

import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { baseProblem, placeOfBase } from '#core/http/base'
import { withHole } from '#core/http/bodyHole'
import { callProblem, callText, readCall } from '#core/http/call'
import { operationProblem, parametersOf, requestOf, templateProblem } from '#core/http/operation'
import { http } from '#core/http/protocol'
import { httpSettings, operationContract, type HttpSettings } from '#core/http/settings'
import { isPassingStatus, retryAfterMs, statusText } from '#core/http/status'

/** Calls to web APIs, before anything goes out. */

const operation = (more: object = {}) => operationContract.parse({ name: 'tariff', path: '/tariffs/{zone}', ...more })

describe('a base address', () => {
  it.each([
    '',
    'tariffs.example',
    'ftp://tariffs.example',
    'http://',
    'https://a:b@tariffs.example',
    'https://tariffs.example/?a=1',
    'https://x/{y}',
  ])('is none: “%s”', (text) => expect(baseProblem(text)).not.toBe(null))
  it('leads to a host and a port', () => {
    expect(placeOfBase('https://tariffs.example/v1')).toEqual({ host: 'tariffs.example', port: 443, isEncrypted: true })
    expect(placeOfBase('http://[::1]:8080')).toEqual({ host: '::1', port: 8080, isEncrypted: false })
  })
})

describe('an operation', () => {
  it('asks for what stands in braces, each once', () => {
    const all = operation({
      ...{ method: 'POST', path: '/berths/{berth}/{zone}', query: [{ name: 'at', value: '{at}' }] },
      ...{ headers: [{ name: 'X-Ship', value: '{ship}' }], body: '{"kwh":"{energy}","list":["{berth}"],"{name}":1}' },
    })
    expect(parametersOf(all)).toEqual(['berth', 'zone', 'at', 'ship', 'energy', 'name'])
  })

  it('sends what is given where it belongs, with its type in a body', () => {
    const post = operation({
      ...{
        method: 'POST',
        path: '/berths/{berth}',
        query: [
          { name: 'at', value: '{at}' },
          { name: 'note', value: '{note}' },
        ],
      },
      body: '{"kwh":"{energy}","count":12345678901234567890,"text":"berth {berth}","ok":"{ok}","none":"{none}"}',
    })
    const given = { berth: 'ø 2/1', at: '2026-11-27T10:00:00+01:00', note: '', energy: 12.5, ok: true, none: null }
    expect(requestOf(post, given)).toEqual({
      method: 'POST',
      target: '/berths/%C3%B8%202%2F1?at=2026-11-27T10%3A00%3A00%2B01%3A00',
      headers: { 'content-type': 'application/json' },
      body: '{"kwh":12.5,"count":12345678901234567890,"text":"berth ø 2/1","ok":true,"none":null}',
    })
    const text = operation({ method: 'PUT', path: '/x', type: 'text/plain', body: 'kwh={energy}' })
    expect(requestOf(text, { energy: 2n ** 63n }).body).toBe('kwh=9223372036854775808')
  })

  it.each<[object, Record<string, string>, string]>([
    [{}, {}, 'nothing is given for {zone}'],
    [{}, { zone: '' }, 'a path would be another one'],
    [{}, { zone: '..' }, 'would lead elsewhere'],
    [{ path: '/x', headers: [{ name: 'X-A', value: '{a}' }] }, { a: 'b\r\nX-B: c' }, 'a header has none'],
  ])('of %j with %j goes nowhere', (more, given, why) => expect(() => requestOf(operation(more), given)).toThrow(why))

  it('keeps whatever is given within its part of the path', () =>
    fc.assert(
      fc.property(
        fc.string({ unit: 'grapheme', minLength: 1 }).filter((text) => text !== '.' && text !== '..'),
        (zone) => {
          const { target } = requestOf(operation(), { zone })
          const { pathname, search, hash } = new URL(`http://a${target}`)
          expect([pathname.split('/').length, search, hash]).toEqual([3, '', ''])
          expect(decodeURIComponent(pathname.split('/')[2]!)).toBe(zone)
        },
      ),
    ))

  it.each<[object, string]>([
    [{ path: 'tariffs' }, 'begins with “/”'],
    [{ path: '/a?b=1' }, 'a query has its own fields'],
    [{ path: '/a/../b' }, 'goes down only'],
    [{ path: '/a/{b' }, 'Each “{” has its “}”'],
    [{ path: '/a/{b c}' }, 'names no parameter'],
    [{ body: '{}' }, 'A GET has no body'],
    [{ method: 'POST', body: '{"a": {energy}}' }, 'A parameter stands as text'],
    [{ headers: [{ name: 'X A', value: '' }] }, 'letters, digits and hyphens'],
    [{ headers: [{ name: 'X', value: 'a\nb' }] }, 'no line break'],
    [{ name: 'a b' }, 'A name of letters'],
  ])('is refused as it is typed: %j', (more, why) => {
    const parsed = operationContract.safeParse({ name: 'tariff', ...more })
    expect(parsed.error?.issues.map(({ message }) => message).join()).toContain(why)
  })
  it('says nothing against what is right', () => {
    expect([templateProblem('/a/{b}/{c-d.e}'), operationProblem(operation())]).toEqual([null, null])
  })
})

const settings: HttpSettings = httpSettings.parse({
  base: 'https://tariffs.example/v1',
  operations: [
    { name: 'now', path: '/now' },
    { name: 'tariff', path: '/tariffs/{zone}', query: [{ name: 'at', value: '{at}' }] },
    { name: 'limit', method: 'PUT', path: '/limits/{berth}', body: '{"kw":"{value}"}' },
  ],
})

describe('a body by example', () => {
  it.each([
    ['{"kwh":12.5,"berth":2}', '$.kwh', '{"kwh":"{kwh}","berth":2}'],
    ['{"power":{"kw":1},"kw":"{kw}"}', '$.power.kw', '{"power":{"kw":"{power_kw}"},"kw":"{kw}"}'],
    ['{"steps":[{"at":"x"},{"at":"y"}]}', '$.steps[1].at', '{"steps":[{"at":"x"},{"at":"{at}"}]}'],
    ['{"a b":true}', "$['a b']", '{"a b":"{a_b}"}'],
    ['{"wide":12345678901234567890,"x":1}', '$.x', '{"wide":12345678901234567890,"x":"{x}"}'],
    ['{"x":1}', '$.y', null],
    ['{"x":1}', '$', null],
    ['{"x":1}', '$..x', null],
    ['{"x":', '$.x', null],
  ])('%s, pressed at %s', (body, path, becomes) => expect(withHole(body, path)).toBe(becomes))
})

describe('a call', () => {
  it('comes back as it was written', () => {
    const given = fc.dictionary(fc.stringMatching(/^[a-z_]{1,8}$/), fc.string({ unit: 'grapheme' }), { maxKeys: 4, noNullPrototype: true })
    fc.assert(
      fc.property(given, (all) => {
        const read = readCall(callText({ operation: 'tariff', given: all }))
        expect(read.ok && read.call).toEqual({ operation: 'tariff', given: all })
      }),
    )
  })
  it.each([
    ['', 'Type the name of an operation'],
    ['a b', 'is no name of an operation'],
    ['tariff?zone=a&zone=b', 'is given twice'],
  ])('is none: “%s”', (text, why) => expect(readCall(text)).toMatchObject({ ok: false, problem: expect.stringContaining(why) as string }))

  it.each([
    ['tarif', 'There is no operation “tarif” here. There are: now, tariff, limit.'],
    ['tariff?zone=north', 'also asks for at, as in tariff?at=…'],
    ['now?zone=north', 'has no parameter zone'],
  ])('fits the operations of its link, or says why not: “%s”', (text, why) => {
    const read = readCall(text)
    expect(read.ok && callProblem(read.call, settings.operations)).toContain(why)
    expect(http.describe(text, settings)).toMatchObject({ ok: false })
  })

  const point = (address: string, options = {}, access: 'read' | 'readwrite' = 'read') =>
    http.problems({ address, type: 'float64', options, access }, settings)
  it('is a point, with a path, and a call by which it is written', () => {
    expect(point('tariff?zone=north&at=now', { path: '$.price' })).toEqual([])
    expect(point('now', { path: 'price' })).toMatchObject([{ field: 'options.path' }])
    expect(point('now', {}, 'readwrite')).toMatchObject([{ field: 'options.setBy' }])
    expect(point('now', { setBy: 'limit?berth=2' }, 'readwrite')).toEqual([])
    expect(point('now', { setBy: 'limit' }, 'readwrite')).toMatchObject([
      { field: 'options.setBy', message: expect.stringContaining('berth') as string },
    ])
    expect(httpSettings.safeParse({ ...settings, operations: [...settings.operations, { name: 'now' }] }).error?.issues).toMatchObject([
      { path: ['operations', 3, 'name'], message: 'There are two operations “now”.' },
    ])
  })
  it('keeps a secret only where it went before', () => {
    const to = (base: string, more: object = {}) => http.whyNotKept(settings, { ...settings, base, ...more })
    expect(to('https://tariffs.example/v2')).toBe(null)
    expect(to('https://other.example/v1')).toContain('another address')
    expect(to('http://tariffs.example:443')).toContain('less protected')
    expect(to(settings.base, { trust: { verify: false, authority: '' } })).toContain('less protected')
  })
})

describe('what a web API says', () => {
  it('is in words', () => {
    expect([429, 418, 599].map(statusText)).toEqual(['too many requests', 'refused', 'an error of the server'])
    expect([408, 429, 500, 503, 400, 404].map(isPassingStatus)).toEqual([true, true, true, true, false, false])
  })
  it('may be when to come again, in seconds or as a date (RFC 9110, 10.2.3)', () => {
    const now = Date.UTC(2026, 10, 27, 10)
    const all = ['120', 'Fri, 27 Nov 2026 10:01:00 GMT', 'Fri, 27 Nov 2026 09:00:00 GMT', '-3', 'soon', '1e9', null]
    expect(all.map((text) => retryAfterMs(text, now))).toEqual([120_000, 60_000, 0, null, null, null, null])
  })
})

import { describe, expect, it } from 'vitest'
import { fault, sideText } from '#core/faults/catalogue'
import { tcpFault } from '#core/faults/tcp'
import { exceptionMeaning } from '#core/modbus/exceptions'
import { protocols } from '#core/links/registry'
import { unitNames } from '#core/tags/units'
import type { ModbusTcpSettings } from '#core/modbus/settings'
import { linkContract } from '#shared/links/link'
import { linkContracts } from '#shared/links/registry'
import { outletContract } from '#shared/outlets/outlet'
import { toWire } from '#shared/values'
import { tagDraft } from '#shared/tags'
import { isOurHost, isOurOrigin } from '../../server/access/origin'
import { settled } from '#shared/sources/registry'
import { addressOf, pointBody } from '../support/tagBodies'

const wrongIn = (contract: typeof linkContract | typeof outletContract | typeof tagDraft, value: unknown): Record<string, string> => {
  const result = contract.safeParse(value)
  return result.success ? {} : Object.fromEntries(result.error.issues.map((issue) => [issue.path.join('.'), issue.message]))
}

describe('the contract of a link', () => {
  const link = (settings: object, more = {}) => ({
    name: 'Meters',
    kind: 'modbus-tcp',
    settings: { host: '10.8.0.20', ...settings },
    ...more,
  })

  it('needs a name and a host; everything else has a default', () => {
    const parsed = linkContract.parse(link({}))
    expect(parsed).toMatchObject({ on: true, settings: { port: 502, unit: 1, order: 'ABCD', interval: 1000, holes: [], localAddress: '' } })
    expect((parsed.settings as ModbusTcpSettings).requests).toEqual({
      registers: 125,
      bits: 2000,
      readAcross: 24,
      inFlight: 1,
      connections: 4,
      pause: 0,
    })
  })

  it.each([
    [{ port: 0 }, 'settings.port', /1 to 65535/],
    [{ port: 70000 }, 'settings.port', /1 to 65535/],
    [{ port: 502.5 }, 'settings.port', /1 to 65535/],
    [{ port: null }, 'settings.port', /1 to 65535/],
    [{ unit: 256 }, 'settings.unit', /0 to 255/],
    [{ host: '' }, 'settings.host', /Type the name/],
    [{ host: 'http://meters' }, 'settings.host', /Only the name/],
    [{ host: '10.8.0.300' }, 'settings.host', /0 to 255/],
    [{ host: 'two words' }, 'settings.host', /neither/],
    [{ interval: 5 }, 'settings.interval', /10 to 86,400,000/],
    [{ requests: { registers: 126 } }, 'settings.requests.registers', /1 to 125/],
    [{ patience: { retryFirst: 5000, retryMost: 1000 } }, 'settings.patience.retryMost', /not below/],
    [{ holes: [{ table: 'holding', from: 9, to: 3 }] }, 'settings.holes.0.to', /at or after/],
    [{ localAddress: 'eth0' }, 'settings.localAddress', /numeric address/],
    [{ order: 'ACBD' }, 'settings.order', /./],
  ])('refuses %j at its field', (settings, path, message) => {
    const wrong = wrongIn(linkContract, link(settings))
    expect(Object.keys(wrong)).toEqual([path])
    expect(wrong[path]).toMatch(message)
  })

  it.each(['meters', 'meters.port.example', '10.8.0.20', 'fe80::1', 'a_b.local', 'x'.repeat(63)])('takes %s as a host', (host) =>
    expect(wrongIn(linkContract, link({ host }))).toEqual({}),
  )

  it('tells everything that is wrong at once', () => {
    expect(Object.keys(wrongIn(linkContract, link({ port: 0, unit: -1, interval: 0 })))).toEqual([
      'settings.port',
      'settings.unit',
      'settings.interval',
    ])
    expect(wrongIn(linkContract, link({}, { name: ' ' }))).toEqual({ name: 'A link needs a name.' })
    expect(wrongIn(linkContract, link({}, { name: 'x'.repeat(81) }))).toEqual({ name: 'A name has at most 80 characters.' })
    expect(Object.keys(wrongIn(linkContract, link({}, { kind: 'railbus' })))).toEqual(['kind'])
  })

  it('has one for every kind, with a title and capabilities', () => {
    for (const [kind, protocol] of Object.entries(protocols)) {
      expect(linkContracts).toHaveProperty(kind)
      expect(protocol.kind).toBe(kind)
      expect(protocol.title.length).toBeGreaterThan(0)
      const { receives, ...capabilities } = protocol.capabilities
      expect(Object.values(capabilities).every((can) => typeof can === 'boolean')).toBe(true)
      expect([undefined, 'topic', 'table', 'file', 'call']).toContain(receives)
    }
  })
})

describe('the contract of a tag', () => {
  const tag = (more = {}) => pointBody({ path: 'a', linkId: 1, address: 'holding/1', type: 'int16', ...more })
  it.each([
    [{ path: 'a//b' }, 'path'],
    [{ scaling: { gain: 0, offset: 0 } }, 'scaling.gain'],
    [{ scaling: { gain: NaN, offset: 0 } }, 'scaling.gain'],
    [{ interval: 9 }, 'source.interval'],
    [{ type: 'float16' }, 'type'],
    [{ access: 'write' }, 'access'],
    [{ linkId: null }, 'source.linkId'],
    [{ unit: 'x'.repeat(41) }, 'unit'],
  ])('refuses %j', (more, path) => expect(Object.keys(wrongIn(tagDraft, tag(more)))).toEqual([path]))

  it('stores addresses in one notation, however they were typed', () => {
    const link = linkContract.parse({ name: 'm', kind: 'modbus-tcp', settings: { host: 'm' } })
    for (const address of ['40041', '400041', 'HOLDING/40', ' holding 40 '])
      expect(addressOf(settled(tagDraft.parse(tag({ address })), () => link))).toBe('holding/40')
  })
})

describe('the contract of an outlet', () => {
  it('needs a name and a possible port', () => {
    expect(outletContract.parse({ name: 'Server', kind: 'opcua-server', settings: {} })).toMatchObject({
      on: true,
      settings: { doors: [{ port: 4840, interface: '127.0.0.1', policies: ['None'] }], anonymous: [{ folder: '', may: 'read' }] },
    })
    expect(Object.keys(wrongIn(outletContract, { name: '', kind: 'opcua-server', settings: { doors: [{ port: 0 }] } }))).toEqual([
      'name',
      'settings.doors.0.port',
    ])
    expect(Object.keys(wrongIn(outletContract, { name: 'Server', kind: 'opcua-server', settings: { doors: [{ port: 0 }] } }))).toEqual([
      'settings.doors.0.port',
    ])
  })
})

describe('faults', () => {
  it('say what failed, whose side it is and what to do', () => {
    const refused = tcpFault({ code: 'ECONNREFUSED', message: '' }, 'meters', 502)
    expect(refused).toMatchObject({ code: 'tcp.refused', side: 'device', evidence: 'ECONNREFUSED' })
    expect(refused.what).toContain('502')
    expect(refused.next.length).toBeGreaterThan(20)
    expect(sideText[refused.side]).toContain('device')
  })

  it.each([
    ['ENOTFOUND', 'name.unknown'],
    ['EHOSTUNREACH', 'tcp.unreachable'],
    ['ECONNRESET', 'tcp.closed'],
    ['EADDRNOTAVAIL', 'tcp.unreachable'],
  ])('%s is %s', (code, expected) => expect(tcpFault({ code, message: '' }, 'meters', 502).code).toBe(expected))

  it('blame our own interface only when one was chosen', () => {
    expect(tcpFault({ code: 'EADDRNOTAVAIL', message: '' }, 'meters', 502, '10.0.0.9').code).toBe('tcp.local-address')
  })

  it('count in words', () => {
    expect(fault('entry.invalid', { count: 1 }).what).toBe('One field needs another value.')
    expect(fault('entry.invalid', { count: 3 }).what).toBe('3 fields need another value.')
    expect(fault('entry.in-use', { name: 'Meters', tags: 1 }).what).toBe('1 tag reads through “Meters”.')
  })

  it('know the exceptions of the standard, and admit those they do not know', () => {
    for (const code of [1, 2, 3, 4, 5, 6, 8, 10, 11]) expect(exceptionMeaning(code).name).not.toContain('EXCEPTION')
    expect(exceptionMeaning(77).words).toContain('77')
  })
})

describe('values on their way to a page', () => {
  it.each([
    [2n ** 64n - 1n, '18446744073709551615'],
    [NaN, 'NaN'],
    [-Infinity, '-Infinity'],
    [1.5, 1.5],
    [true, true],
    ['text', 'text'],
    [undefined, null],
  ])('%s', (value, wire) => expect(toWire(value)).toBe(wire))
})

describe('engineering units', () => {
  it('carry a common code of two or three characters', () => {
    for (const { code } of Object.values(unitNames)) expect(code).toMatch(/^[A-Z0-9]{2,3}$/)
  })
})

describe('who may talk to the application', () => {
  it.each([
    ['http://127.0.0.1:8480', '127.0.0.1:8480', true],
    [null, 'localhost:8480', true],
    ['http://evil.example', '127.0.0.1:8480', false],
    ['http://evil.example:8480', 'evil.example:8480', false],
    ['http://127.0.0.1:9999', '127.0.0.1:8480', false],
    ['null', '127.0.0.1:8480', false],
    [null, undefined, false],
  ])('origin %s at host %s: %s', (origin, host, allowed) => expect(isOurOrigin(origin, host)).toBe(allowed))

  it('names this machine goes by can be added', () => {
    expect(isOurHost('conduit.port.example:8480')).toBe(false)
    process.env.CONDUIT_HOSTS = 'conduit.port.example'
    expect(isOurHost('conduit.port.example:8480')).toBe(true)
    delete process.env.CONDUIT_HOSTS
  })
})

import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { Facts } from '#core/diagnosis/facts'
import { causesOf } from '#core/diagnosis/rank'
import { rules } from '#core/diagnosis/rules/all'
import { fault, faultCodes, type Fault } from '#core/faults/catalogue'
import { tcpFault } from '#core/faults/tcp'
import { serviceOf } from '#core/diagnosis/service'

/** Which cause comes first, from what was measured. */

const now = 1_790_000_000_000
const goal = { speaks: 'Modbus TCP', host: '10.8.0.4', port: 502, carries: 'tcp', usualPort: 502 } as const
const same = { outcome: 'same network', by: 'eth0', from: '10.8.0.1' } as const
const routed = { outcome: 'through a router', by: 'eth0', from: '10.8.0.1', router: '10.8.0.254' } as const
const peer = { host: goal.host, port: goal.port }
const tcp = (code: string) => tcpFault({ code, message: code }, goal.host, goal.port)
const noAnswer = fault('tcp.no-answer', { ...peer, ms: 3000 })
const held = (heldMs: number) => ({ at: now - 5000, heldMs, quietMs: null })
const greetingOf = (hex: string) => ({ service: serviceOf(Buffer.from(hex.replace(/ /g, ''), 'hex'))!, bytes: hex })

type Case = [name: string, fault: Fault, facts: Partial<Facts>, cause: string, side: string, where: RegExp]

const cases: Case[] = [
  [
    'a host that is there, and silence at the port',
    noAnswer,
    {
      route: same,
      neighbour: { place: goal.host, outcome: 'answers' },
      echo: { outcome: 'answers', ms: 0.4 },
      filter: { outcome: 'lets through' },
    },
    ...(['port-filtered', 'network', /On 10\.8\.0\.4/] as const),
  ],
  [
    'nobody behind an address of our segment',
    tcp('EHOSTUNREACH'),
    {
      ms: 3060,
      route: same,
      neighbour: { place: goal.host, outcome: 'silent' },
      echo: { outcome: 'silent' },
      filter: { outcome: 'lets through' },
    },
    ...(['host-off', 'device', /At 10\.8\.0\.4/] as const),
  ],
  [
    'a rule of our own',
    noAnswer,
    {
      route: same,
      echo: { outcome: 'silent' },
      filter: { outcome: 'stops', how: 'drop', rule: 'tcp dport 502 drop', place: 'inet filter out' },
    },
    ...(['own-firewall', 'here', /On this machine/] as const),
  ],
  [
    'silence where a third of the packets get lost',
    noAnswer,
    {
      ...{
        route: routed,
        neighbour: { place: routed.router, outcome: 'answers' },
        echo: { outcome: 'answers', ms: 1 },
        breaks: [held(4000)],
      },
      echoes: { sent: 10, answered: 7 },
    },
    ...(['packets-lost', 'network', /Between here and/] as const),
  ],
  [
    'a round that takes too long where packets get lost',
    fault('link.lags', { part: 'Unit 11', sentence: 'A round takes 300 ms, and is wanted every 100 ms' }),
    { ...{ route: same, echo: { outcome: 'answers', ms: 1 } }, echoes: { sent: 10, answered: 8 } },
    ...(['packets-lost', 'network', /Between here and/] as const),
  ],
  [
    'silence that one lost packet of ten does not explain',
    noAnswer,
    {
      ...{
        route: routed,
        neighbour: { place: routed.router, outcome: 'answers' },
        echo: { outcome: 'answers', ms: 1 },
        breaks: [held(4000)],
      },
      echoes: { sent: 10, answered: 9 },
    },
    ...(['port-filtered', 'network', /Between the router/] as const),
  ],
  ['no route', tcp('ENETUNREACH'), { ms: 1, route: { outcome: 'none' } }, 'no-route', 'here', /On this machine/],
  [
    'a router that is off',
    noAnswer,
    { route: routed, neighbour: { place: routed.router, outcome: 'silent' }, echo: { outcome: 'silent' } },
    ...(['router-silent', 'network', /router 10\.8\.0\.254/] as const),
  ],
  [
    'a firewall behind a router that says so',
    tcp('EHOSTUNREACH'),
    {
      ms: 4,
      route: routed,
      neighbour: { place: routed.router, outcome: 'answers' },
      echo: { outcome: 'stopped', by: '10.8.0.254', words: 'Packet filtered' },
    },
    ...(['port-filtered', 'network', /Between the router/] as const),
  ],
  [
    'a port that nobody has',
    tcp('ECONNREFUSED'),
    { ms: 1, route: same, echo: { outcome: 'answers', ms: 1 } },
    'nobody-listens',
    'device',
    /On 10/,
  ],
  [
    'another port than the usual one, which is open',
    tcp('ECONNREFUSED'),
    { ms: 1, goal: { ...goal, port: 5020 }, route: same, other: { port: 502, outcome: 'open' } },
    ...(['wrong-port', 'entry', /settings/] as const),
  ],
  [
    'a service that worked a moment ago',
    tcp('ECONNREFUSED'),
    { ms: 1, route: same, lastGood: now - 8000 },
    'service-restarts',
    'device',
    /On 10/,
  ],
  [
    'a name that leads elsewhere now',
    tcp('ECONNREFUSED'),
    { ms: 1, lastGood: now - 600_000, changes: [{ what: 'address', before: '10.8.0.4', now: '10.8.0.9' }] },
    ...(['name-moved', 'network', /name service/] as const),
  ],
  ['a name that is not known', tcp('ENOTFOUND'), { goal: { ...goal, host: 'meters' } }, 'name-unknown', 'network', /name service/],
  ['a name service that is silent', tcp('EAI_AGAIN'), { goal: { ...goal, host: 'meters' } }, 'name-service-away', 'network', /name server/],
  [
    'another network card at the address',
    noAnswer,
    {
      route: same,
      changes: [{ what: 'hardware', before: '02:11:22:33:44:55', now: '02:66:77:88:99:00' }],
      lastGood: now - 60_000,
      echo: { outcome: 'answers', ms: 1 },
    },
    ...(['other-card', 'network', /segment/] as const),
  ],
  [
    'a secure shell on the port',
    fault('modbus.not-modbus', { ...peer, service: 'a secure shell (SSH)' }),
    { greeting: greetingOf('53 53 48 2D 32 2E 30') },
    ...(['other-service', 'entry', /settings/] as const),
  ],
  [
    'RTU frames over TCP',
    fault('modbus.malformed', { unit: 1, problem: 'no frame' }),
    { greeting: greetingOf('11 03 06 AE 41 56 52 43 40 49 AD') },
    ...(['rtu-over-tcp', 'entry', /settings/] as const),
  ],
  [
    'our own link in the only place',
    fault('tcp.closed', peer, 'closed right after our request'),
    { ms: 2, beside: ['Berth meters'] },
    ...(['our-own-place', 'here', /this machine/] as const),
  ],
  [
    'connections that are closed at once',
    fault('tcp.closed', peer, 'ECONNRESET'),
    { ms: 3, lastGood: now - 4000 },
    'connections-taken',
    'device',
    /On 10/,
  ],
  [
    'connections that are cut after one and the same time',
    fault('tcp.closed', peer, 'ECONNRESET'),
    { ms: 30_000, lastGood: now - 4000, breaks: [300_100, 299_800, 300_400].map(held) },
    ...(['idle-cut', 'network', /Between here/] as const),
  ],
  [
    'large packets that get lost',
    fault('http.silent', { place: 'http://10.8.0.4/', ms: 3000 }),
    {
      goal: { ...goal, speaks: 'HTTP', port: 80, usualPort: 80 },
      packet: { passes: 1300, own: 1500 },
      echo: { outcome: 'answers', ms: 1 },
    },
    ...(['packet-size', 'network', /Between here/] as const),
  ],
  [
    'an authority that is not known',
    fault('http.tls', { ...peer, problem: 'self-signed certificate' }, 'self-signed certificate'),
    {},
    ...(['tls-authority', 'here', /settings/] as const),
  ],
  [
    'an expired certificate',
    fault('mqtt.tls', { ...peer, problem: 'certificate has expired' }, 'certificate has expired'),
    {},
    'tls-expired',
    'device',
    /On 10/,
  ],
  [
    'a certificate that has not begun',
    fault('http.tls', { ...peer, problem: 'certificate is not yet valid' }, 'certificate is not yet valid'),
    {},
    ...(['clock-wrong', 'here', /this machine/] as const),
  ],
  [
    'no TLS where it is wanted',
    fault('mqtt.tls', { ...peer, problem: 'wrong version number' }, 'error:0A00010B:SSL routines::wrong version number'),
    {},
    ...(['tls-not-there', 'entry', /settings/] as const),
  ],
  [
    'an old version of TLS',
    fault('http.tls', { ...peer, problem: 'alert protocol version' }, 'error:0A00042E:SSL routines::tlsv1 alert protocol version'),
    {},
    ...(['tls-version', 'device', /On 10/] as const),
  ],
  [
    'a password that never was right',
    fault('sql.refused', { ...peer, state: '28P01', words: 'name or password is wrong' }, 'password authentication failed'),
    {},
    ...(['password-wrong', 'entry', /settings/] as const),
  ],
  [
    'an account that worked before',
    fault('sql.refused', { ...peer, state: '28P01', words: 'name or password is wrong' }, 'password authentication failed'),
    { lastGood: now - 60_000 },
    ...(['account-changed', 'device', /On 10/] as const),
  ],
  [
    'a host that the account may not come from',
    fault('sql.refused', { ...peer, state: '28000', words: 'it does not let us in' }, 'no pg_hba.conf entry for host "10.8.0.1"'),
    {},
    ...(['not-from-here', 'device', /On 10/] as const),
  ],
  [
    'a unit that a gateway does not know',
    fault('modbus.exception', { unit: 7, code: 10, name: 'GATEWAY PATH UNAVAILABLE', words: '', next: '' }),
    {},
    'unit-wrong',
    'entry',
    /gateway/,
  ],
  ['a unit that fell silent', fault('modbus.silent', { unit: 13, ms: 1000 }), { lastGood: now - 5000 }, 'unit-off', 'device', /behind/],
  ['a unit that never answered', fault('modbus.silent', { unit: 14, ms: 1000 }), {}, 'unit-wrong', 'entry', /settings/],
  [
    'rack and slot',
    fault('iso.refused-place', { ...peer, place: 'rack 0 slot 3', how: 'it refused it' }),
    { ms: 5 },
    'rack-slot-wrong',
    'entry',
    /settings/,
  ],
  [
    'a full disk of a database',
    fault('sql.statement', { what: 'x', state: '53100', words: 'its disk is full', problem: '' }),
    {},
    'database-full',
    'device',
    /On 10/,
  ],
  [
    'silence at a port whose number is also a state of databases',
    fault('sql.silent', { host: goal.host, port: 42_501, ms: 3000 }),
    { greeting: null },
    ...(['peer-hangs', 'device', /On 10\.8\.0\.4/] as const),
  ],
  [
    'a port whose number says that a disk is full',
    fault('tcp.refused', { host: goal.host, port: 53_100 }, 'connect ECONNREFUSED 10.8.0.4:53100'),
    { route: same, greeting: null },
    ...(['nobody-listens', 'device', /On 10\.8\.0\.4/] as const),
  ],
  [
    'a refused name at a port whose number is also a code of databases',
    fault('sql.refused', { host: goal.host, port: 28_000, state: '3D000', words: 'there is no such database' }),
    {},
    ...(['database-missing', 'entry', /./] as const),
  ],
  [
    'a right that is missing',
    fault('sql.statement', { what: 'x', state: '42501', words: 'our account may not do this', problem: '' }),
    {},
    ...(['right-missing', 'device', /On 10/] as const),
  ],
  [
    'a standby',
    fault('sql.statement', { what: 'x', state: '25006', words: '', problem: 'read-only transaction' }),
    {},
    'database-read-only',
    'device',
    /On 10/,
  ],
  ['a client id that two have', fault('mqtt.taken-over', { ...peer, clientId: 'quay' }), {}, 'session-taken-over', 'device', /settings/],
  [
    'notifications that are swallowed',
    fault('opcua.silent-publish', { ms: 9000, instead: true, silent: 1, all: 1 }),
    {},
    'notifications-lost',
    'network',
    /Between/,
  ],
  [
    'our certificate at a server',
    fault('opcua.we-are-refused', { ours: 'us', fingerprint: '7C', status: '' }),
    {},
    'server-does-not-trust-us',
    'device',
    /On 10/,
  ],
  [
    'a second device of one number',
    fault('bacnet.duplicate', { device: 4, places: 'a and b' }),
    {},
    'device-number-twice',
    'device',
    /devices/,
  ],
]

describe('the first cause', () => {
  it.each(cases)('of %s', (_, why, more, cause, side, where) => {
    const causes = causesOf({ step: 'a step', fault: why, ms: null, goal, address: goal.host, now, lastGood: null, ...more })
    expect(causes[0]).toMatchObject({ id: cause, side, isRuledOut: false })
    expect(causes[0]!.where).toMatch(where)
    expect(causes[0]!.for.length).toBeGreaterThan(0)
    expect(causes[0]!.next.length).toBeGreaterThan(0)
  })
})

describe('causes', () => {
  it('are there for every fault of the catalogue, those that are ruled out last, each with something to do', () => {
    const some: fc.Arbitrary<Partial<Facts>> = fc.record(
      {
        route: fc.constantFrom(same, routed, { outcome: 'none' } as const, { outcome: 'this machine' } as const),
        echo: fc.constantFrom({ outcome: 'silent' } as const, { outcome: 'answers', ms: 2 } as const),
        neighbour: fc.constantFrom({ place: 'x', outcome: 'silent' } as const, { place: 'x', outcome: 'answers' } as const),
        filter: fc.constantFrom({ outcome: 'lets through' } as const, { outcome: 'stops', how: 'drop', rule: 'r', place: 'p' } as const),
        other: fc.constantFrom({ port: 502, outcome: 'open' } as const, { port: 502, outcome: 'silent' } as const),
        lastGood: fc.constantFrom(null, now - 1000),
        breaks: fc.constantFrom([], [1000, 1000, 1000].map(held), [60_000, 60_100].map(held)),
        echoes: fc.constantFrom({ sent: 10, answered: 10 }, { sent: 10, answered: 7 }),
        beside: fc.constantFrom([], ['another']),
        greeting: fc.constantFrom(null, greetingOf('53 53 48 2D 32 2E 30')),
      },
      { requiredKeys: [] },
    )
    const anyFault = fc
      .constantFrom(...faultCodes)
      .map((code): Fault => ({ code, what: 'It failed.', side: 'device', evidence: '', next: 'Do this.' }))
    fc.assert(
      fc.property(anyFault, some, fc.option(fc.nat(5000)), (why, more, ms) => {
        const causes = causesOf({ step: 's', fault: why, ms, goal, now, ...more })
        expect(causes[0]!.isRuledOut).toBe(false)
        const ruledOut = causes.map((one) => one.isRuledOut)
        expect(ruledOut).toEqual([...ruledOut].sort((a, b) => Number(a) - Number(b)))
        for (const { title, where, next } of causes) expect([title, where, ...next].every((text) => text.trim() !== '')).toBe(true)
        expect(new Set(causes.map(({ id }) => id)).size).toBe(causes.length)
      }),
    )
  })

  it('have ids of their own', () => {
    expect(new Set(rules.map(({ id }) => id)).size).toBe(rules.length)
  })
})

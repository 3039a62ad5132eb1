import type { Socket } from 'node:net'
import type { TlsOptions } from 'node:tls'
import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest'
import { makeSelfSigned, type KeyPair } from '#security/selfSigned'
import { linkContract } from '#shared/links/link'
import { startArm } from '../support/arm'
import { startController } from '../support/controller'
import { closeAll, databaseFor, metersFor, type Closing } from '../support/engineOn'
import { startMariadb } from '../support/mariadb'
import { startBroker } from '../support/mqttBroker'
import { walkPath } from '../support/pathWalk'
import { barePort, tlsAfterQuestion, tlsPort } from '../support/protectedServers'
import { startWebApi } from '../support/webApi'

/** Services that are reached and do not let us in, or not to what is asked for: by real servers that refuse. */

const closing: Closing = []
afterEach(() => closeAll(closing))

const patience = { connect: 2000, answer: 1500 }
const walk = async (kind: string, settings: object) => {
  const { verdict } = await walkPath(linkContract.parse({ name: kind, kind, settings: { patience, ...settings } }))
  const [first] = verdict?.causes ?? []
  return first ? [first.id, first.side] : ['sound']
}

const dayMs = 86_400_000
const pairFor = (more: Partial<Parameters<typeof makeSelfSigned>[0]> = {}) =>
  makeSelfSigned({
    ...{ commonName: 'Quay services', organization: 'Harrow Sound', applicationUri: 'urn:quay', dns: ['localhost'], ip: ['127.0.0.1'] },
    ...more,
  })

/** How each protocol is protected; `authority`: whose certificates the link believes. */
const protectedKinds: Record<string, (options: TlsOptions | null, authority: string) => Promise<[kind: string, settings: object]>> = {
  mqtt: async (options, authority) => {
    const port = options ? await tlsPort(closing, options) : (await brokerFor()).port
    return ['mqtt', { host: '127.0.0.1', port, tls: { mode: 'verified', authority } }]
  },
  http: async (options, authority) => {
    const port = options ? await tlsPort(closing, options) : (await apiFor(200)).port
    return ['http', { base: `https://127.0.0.1:${port}`, trust: { authority }, operations: [{ name: 'price', path: '/price' }] }]
  },
  sql: async (options, authority) => {
    const port = options
      ? await tlsAfterQuestion(closing, options)
      : await barePort(closing, (socket) => socket.once('data', () => socket.end('N')))
    return ['sql', { ...officeAt(port), tls: { mode: 'verified', authority } }]
  },
}
const officeAt = (port: number) => ({ host: '127.0.0.1', port, database: 'calls', user: 'office', password: { plain: 'tide' } })
const brokerFor = async (options: Parameters<typeof startBroker>[0] = {}) => {
  const broker = await startBroker(options)
  closing.push(() => broker.stop())
  return broker
}
const apiFor = async (status: number, body: object = { price: 11.25 }) => {
  const api = await startWebApi((_, reply) => reply.writeHead(status, { 'content-type': 'application/json' }).end(JSON.stringify(body)))
  closing.push(() => api.stop())
  return api
}

interface Protection {
  name: string
  /** Null: there is none. */
  options: (pair: KeyPair) => TlsOptions | null
  pair?: Parameters<typeof pairFor>[0]
  /** Their certificate is not given to the link. */
  isUnknown?: true
  /** PostgreSQL says that in words of its own, inside of TLS. */
  notSql?: true
  found: [cause: string, side: string]
}
const as = ({ certificate, key }: KeyPair): TlsOptions => ({ cert: certificate, key })

const protections: Protection[] = [
  { name: 'an authority that nobody told us of', options: as, isUnknown: true, found: ['tls-authority', 'here'] },
  {
    name: 'a certificate that has expired',
    pair: { from: new Date(Date.now() - 40 * dayMs), days: 10 },
    options: as,
    found: ['tls-expired', 'device'],
  },
  { name: 'a certificate of tomorrow', pair: { from: new Date(Date.now() + 2 * dayMs) }, options: as, found: ['clock-wrong', 'here'] },
  { name: 'a certificate of another host', pair: { dns: ['gate.invalid'], ip: [] }, options: as, found: ['tls-host', 'device'] },
  { name: 'no protection at all', options: () => null, found: ['tls-not-there', 'entry'] },
  {
    name: 'a demand for a certificate of ours',
    options: (pair) => ({ ...as(pair), requestCert: true, rejectUnauthorized: true, maxVersion: 'TLSv1.2' }),
    notSql: true,
    found: ['tls-our-certificate', 'device'],
  },
  {
    name: 'a demand for a certificate of ours, said after the handshake (TLS 1.3)',
    options: (pair) => ({ ...as(pair), requestCert: true, rejectUnauthorized: true, minVersion: 'TLSv1.3' }),
    found: ['tls-our-certificate', 'device'],
  },
  {
    name: 'an old version of TLS only',
    options: (pair) => ({ ...as(pair), minVersion: 'TLSv1', maxVersion: 'TLSv1.1', ciphers: 'DEFAULT@SECLEVEL=0' }),
    found: ['tls-version', 'device'],
  },
]

describe('protection by TLS: the first cause', () => {
  it.each(protections)('of $name', async ({ options, pair: wanted, isUnknown, notSql, found }) => {
    const pair = await pairFor(wanted)
    const kinds = Object.entries(protectedKinds).filter(([kind]) => !(notSql && kind === 'sql'))
    const all = await Promise.all(
      kinds.map(async ([name, make]) => {
        return [name, ...(await walk(...(await make(options(pair), isUnknown ? '' : pair.certificate))))]
      }),
    )
    expect(all).toEqual(kinds.map(([name]) => [name, ...found]))
  })
})

let mariadb: Awaited<ReturnType<typeof startMariadb>>
beforeAll(async () => (mariadb = await startMariadb()), 60_000)
afterAll(() => mariadb.stop())

const price = [{ name: 'price', path: '/price' }]
const password = (plain: string) => ({ kind: 'password' as const, user: 'conduit', password: { plain } })
const refusing = (code: number) =>
  brokerFor({
    authenticate: (_client, _user, _password, done) => done(Object.assign(new Error('refused'), { returnCode: code }) as never, false),
  })
const armAt = async (more: object) => {
  const arm = await startArm()
  closing.push(() => arm.stop())
  return ['opcua', { address: `opc.tcp://127.0.0.1:${arm.port}/arm`, ...more }] as const
}
const clusterOffice = async (more: object) => {
  const url = new URL((await databaseFor(closing)).url)
  const account = { database: url.pathname.slice(1), user: url.username, password: { plain: decodeURIComponent(url.password) } }
  return ['sql', { host: '127.0.0.1', port: Number(url.port), ...account, ...more }] as const
}
const tellingTokens = async (status: number, body: object) => {
  const tokens = await apiFor(status, body)
  const signIn = { kind: 'oauth', tokenAddress: `${tokens.base}/token`, clientId: 'quay', secret: { plain: 'tide' } }
  return ['http', { base: (await apiFor(200)).base, operations: price, signIn }] as const
}

interface Refusal {
  name: string
  make: () => Promise<readonly [kind: string, settings: object]>
  found: [cause: string, side?: string]
}

const refusals: Refusal[] = [
  {
    name: 'a broker that refuses name and password (MQTT 3.1.1, code 4)',
    make: async () => ['mqtt', { host: '127.0.0.1', port: (await refusing(4)).port, version: '3.1.1', identity: password('tide') }],
    found: ['password-wrong', 'entry'],
  },
  {
    name: 'a broker that lets nobody in without a name (code 5)',
    make: async () => ['mqtt', { host: '127.0.0.1', port: (await refusing(5)).port, version: '3.1.1' }],
    found: ['password-wrong', 'entry'],
  },
  {
    name: 'a broker that is not available (code 3)',
    make: async () => ['mqtt', { host: '127.0.0.1', port: (await refusing(3)).port, version: '3.1.1' }],
    found: ['service-unavailable', 'device'],
  },
  {
    name: 'a web API that asks who is there (401)',
    make: async () => [
      'http',
      { base: (await apiFor(401)).base, operations: price, signIn: { kind: 'basic', user: 'conduit', password: { plain: 'x' } } },
    ],
    found: ['password-wrong', 'entry'],
  },
  {
    name: 'a web API that forbids (403)',
    make: async () => ['http', { base: (await apiFor(403)).base, operations: price }],
    found: ['right-missing', 'device'],
  },
  {
    name: 'a web API without that address (404)',
    make: async () => ['http', { base: (await apiFor(404)).base, operations: price }],
    found: ['no-such-address', 'entry'],
  },
  {
    name: 'a web API that is asked too often (429)',
    make: async () => ['http', { base: (await apiFor(429)).base, operations: price }],
    found: ['device-busy', 'device'],
  },
  {
    name: 'a web API that broke (500)',
    make: async () => ['http', { base: (await apiFor(500)).base, operations: price }],
    found: ['service-broken', 'device'],
  },
  {
    name: 'a web API whose back is not there (502)',
    make: async () => ['http', { base: (await apiFor(502)).base, operations: price }],
    found: ['service-unavailable', 'device'],
  },
  {
    name: 'a giver of tokens that does not know us',
    make: () => tellingTokens(401, { error: 'invalid_client' }),
    found: ['password-wrong', 'entry'],
  },
  {
    name: 'PostgreSQL, a wrong password',
    make: () => clusterOffice({ password: { plain: 'ebb' } }),
    found: ['password-wrong', 'entry'],
  },
  {
    name: 'PostgreSQL, an account that is not there',
    make: () => clusterOffice({ user: 'nobody-knows' }),
    found: ['password-wrong', 'entry'],
  },
  {
    name: 'PostgreSQL, a database that is not there',
    make: () => clusterOffice({ database: 'nowhere' }),
    found: ['database-missing', 'entry'],
  },
  {
    name: 'MariaDB, a wrong password',
    make: () => Promise.resolve(['sql', { ...mariadb.settings, password: { plain: 'ebb' } }]),
    found: ['password-wrong', 'entry'],
  },
  {
    name: 'MariaDB, a database that is not there',
    make: async () => {
      await mariadb.asRoot("create user if not exists 'clerk'@'%' identified by 'tide'; grant all on *.* to 'clerk'@'%'")
      return ['sql', { ...mariadb.settings, user: 'clerk', database: 'nowhere' }]
    },
    found: ['database-missing', 'entry'],
  },
  {
    name: 'MariaDB, an account of another machine',
    make: async () => {
      await mariadb.asRoot("create user if not exists 'gate'@'10.9.9.9' identified by 'tide'")
      return ['sql', { ...mariadb.settings, user: 'gate' }]
    },
    found: ['password-wrong', 'entry'],
  },
  {
    name: 'OPC UA, a wrong password',
    make: () => armAt({ policy: 'None', identity: { ...password('ebb'), inClear: true } }),
    found: ['password-wrong', 'entry'],
  },
  {
    name: 'OPC UA, a certificate that nobody here has decided on',
    make: () => armAt({ policy: 'Basic256Sha256', mode: 'SignAndEncrypt' }),
    found: ['we-have-not-decided', 'here'],
  },
  {
    name: 'OPC UA, a path that the server does not have',
    make: async () => ['opcua', { address: `opc.tcp://127.0.0.1:${(await startedArm()).port}/elsewhere` }],
    found: ['sound'],
  },
  {
    name: 'a controller in another slot',
    make: async () => [
      'iso-tcp',
      { host: '127.0.0.1', port: (await startController(closing)).port, way: { by: 'slot', rack: 0, slot: 5 } },
    ],
    found: ['rack-slot-wrong', 'entry'],
  },
  {
    name: 'a controller without a place for one more',
    make: async () => {
      const { port } = await startController(closing, { connections: 0 })
      return ['iso-tcp', { host: '127.0.0.1', port, way: { by: 'slot', rack: 0, slot: 2 } }]
    },
    found: ['connections-taken', 'device'],
  },
  {
    name: 'a meter that closes at once',
    make: async () => ['modbus-tcp', { host: '127.0.0.1', port: await barePort(closing, (socket) => socket.destroy()), unit: 11 }],
    found: ['connections-taken', 'device'],
  },
  {
    name: 'a gateway that passes RTU frames on',
    make: async () => ['modbus-tcp', { host: '127.0.0.1', port: await barePort(closing, rtu), unit: 11 }],
    found: ['rtu-over-tcp', 'entry'],
  },
  {
    name: 'a gateway without that unit, which takes it for one that is off (exception 11)',
    make: async () => ['modbus-tcp', { host: '127.0.0.1', port: (await metersFor(closing)).port, unit: 77 }],
    found: ['unit-off', 'device'],
  },
  {
    name: 'a gateway whose unit does not answer it (exception 11)',
    make: async () => {
      const { port, gateway } = await metersFor(closing)
      Object.assign(gateway.meters[0]!.fault, { fault: 'exception', code: 11 })
      return ['modbus-tcp', { host: '127.0.0.1', port, unit: 11 }]
    },
    found: ['unit-off', 'device'],
  },
  {
    name: 'a service that takes connections and says nothing (OPC UA)',
    make: async () => ['opcua', { address: `opc.tcp://127.0.0.1:${await barePort(closing, (socket) => socket.resume())}` }],
    found: ['peer-hangs', 'device'],
  },
  {
    name: 'a service that takes connections and says nothing (MQTT)',
    make: async () => ['mqtt', { host: '127.0.0.1', port: await barePort(closing, (socket) => socket.resume()) }],
    found: ['peer-hangs', 'device'],
  },
  {
    name: 'a service that takes connections and says nothing (SQL)',
    make: async () => ['sql', officeAt(await barePort(closing, (socket) => socket.resume()))],
    found: ['peer-hangs', 'device'],
  },
  {
    name: 'a service that takes connections and says nothing (ISO-on-TCP)',
    make: async () => ['iso-tcp', { host: '127.0.0.1', port: await barePort(closing, (socket) => socket.resume()) }],
    found: ['peer-hangs', 'device'],
  },
  {
    name: 'a web server that is no master of sensors',
    make: async () => ['iolink', { base: (await apiFor(404)).base }],
    found: ['no-such-address', 'entry'],
  },
]

const startedArm = async () => {
  const arm = await startArm()
  closing.push(() => arm.stop())
  return arm
}
const rtu = (socket: Socket) => socket.on('data', () => socket.write(Buffer.from('0b0302002aa19a', 'hex')))

describe('a service that refuses: the first cause', () => {
  it.each(refusals)('of $name', async ({ make, found }) => {
    expect(await walk(...(await make()))).toEqual(found)
  })
})

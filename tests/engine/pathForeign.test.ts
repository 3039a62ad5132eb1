import { createServer as createHttp } from 'node:http'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { crc16 } from '#core/modbus/rtu'
import { serviceNamed, type Service } from '#core/diagnosis/service'
import { makeSelfSigned } from '#security/selfSigned'
import { linkContract, type LinkDraft } from '#shared/links/link'
import { startArm } from '../support/arm'
import { startController } from '../support/controller'
import { closeAll, databaseFor, metersFor, type Closing } from '../support/engineOn'
import { startMariadb } from '../support/mariadb'
import { startBroker } from '../support/mqttBroker'
import { walkPath } from '../support/pathWalk'
import { barePort, listening, tlsPort } from '../support/protectedServers'

/** Every kind of link against a service that speaks something else: what listens there is named. */

const closing: Closing = []
afterAll(() => closeAll(closing))

const patience = { connect: 2000, answer: 700 }
const kinds: Record<string, (port: number) => object> = {
  'modbus-tcp': (port) => ({ host: '127.0.0.1', port, unit: 11 }),
  'iso-tcp': (port) => ({ host: '127.0.0.1', port }),
  opcua: (port) => ({ address: `opc.tcp://127.0.0.1:${port}` }),
  mqtt: (port) => ({ host: '127.0.0.1', port }),
  http: (port) => ({ base: `http://127.0.0.1:${port}`, operations: [{ name: 'price', path: '/price' }] }),
  postgresql: (port) => ({ host: '127.0.0.1', port, user: 'office', database: 'calls', password: { plain: 'tide' } }),
  mysql: (port) => ({ dialect: 'mysql', host: '127.0.0.1', port, user: 'office', database: 'calls', password: { plain: 'tide' } }),
  iolink: (port) => ({ base: `http://127.0.0.1:${port}/iolink/v1` }),
}
const linkOf = (kind: string, port: number): LinkDraft =>
  linkContract.parse({ name: kind, kind: /sql/.test(kind) ? 'sql' : kind, settings: { ...kinds[kind]!(port), patience } })

/** Says something to whoever comes, or to whatever comes. */
const saying = (bytes: Buffer | string, first = true) =>
  barePort(closing, (socket) => (first ? socket.write(bytes) : socket.on('data', () => socket.write(bytes))))

const rtuFrame = () => {
  const frame = Buffer.from('0b0302002a0000', 'hex')
  frame.writeUInt16LE(crc16(frame.subarray(0, -2)), frame.length - 2)
  return frame
}

/** By the id of what it is, and the kinds of links for which it is the right one. */
const services: Record<string, { own: string[]; start: () => Promise<number> }> = {
  http: {
    own: ['http', 'iolink'],
    start: () =>
      listening(
        closing,
        createHttp((_, reply) => reply.end('quay')),
      ),
  },
  tls: {
    own: [],
    start: async () => {
      const pair = await makeSelfSigned({ commonName: 'Quay', organization: 'Harrow Sound', applicationUri: 'urn:quay', dns: [], ip: [] })
      return tlsPort(closing, { cert: pair.certificate, key: pair.key })
    },
  },
  ssh: { own: [], start: () => saying('SSH-2.0-Quay\r\n') },
  'file-transfer': { own: [], start: () => saying('220 quay.invalid ready\r\n') },
  terminal: { own: [], start: () => saying(Buffer.from('fffd18fffd20', 'hex')) },
  'modbus-rtu': { own: ['modbus-tcp'], start: () => saying(rtuFrame(), false) },
  'modbus-tcp': { own: ['modbus-tcp'], start: async () => (await metersFor(closing)).port },
  'iso-tcp': { own: ['iso-tcp'], start: async () => (await startController(closing)).port },
  opcua: {
    own: ['opcua'],
    start: async () => {
      const arm = await startArm()
      closing.push(() => arm.stop())
      return arm.port
    },
  },
  mqtt: {
    own: ['mqtt'],
    start: async () => {
      const broker = await startBroker()
      closing.push(() => broker.stop())
      return broker.port
    },
  },
  postgresql: { own: ['postgresql'], start: async () => Number(new URL((await databaseFor(closing)).url).port) },
  mysql: {
    own: ['mysql'],
    start: async () => {
      const mariadb = await startMariadb()
      closing.push(() => mariadb.stop())
      return mariadb.settings.port
    },
  },
}

const ports: Record<string, number> = {}
beforeAll(async () => {
  for (const [id, { start }] of Object.entries(services)) ports[id] = await start()
}, 120_000)

describe('a link of any kind names the service that it finds', () => {
  it.each(Object.keys(services) as Service['id'][])(
    '%s',
    async (id) => {
      const others = Object.keys(kinds).filter((kind) => !services[id]!.own.includes(kind))
      const found = await Promise.all(
        others.map(async (kind) => {
          const [first] = (await walkPath(linkOf(kind, ports[id]!))).verdict?.causes ?? []
          return [kind, first?.id, first?.title, first?.side]
        }),
      )
      const title = `On TCP ${ports[id]} of 127.0.0.1 listens ${serviceNamed(id).title}.`
      expect(found).toEqual(others.map((kind) => [kind, 'other-service', title, 'entry']))
    },
    60_000,
  )
})

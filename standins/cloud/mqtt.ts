import { createServer, type Socket } from 'node:net'
import { createServer as createSecure, type Server as SecureServer } from 'node:tls'
import type { Server } from 'node:net'
import { promisify } from 'node:util'
import { gunzip as gunzipWith, gzip as gzipWith } from 'node:zlib'
import { generate, parser, type IPublishPacket, type Packet } from 'mqtt-packet'
import { cloudToken, type PortCloud } from './platform'

const [gunzip, gzip] = [promisify(gunzipWith), promisify(gzipWith)]
const mostBody = 16 * 1024 * 1024
const mostConnections = 200
const version = { protocolVersion: 5 }
const badPassword = 0x86

interface Guest {
  socket: Socket
  token: string
  filters: Set<string>
}

/** The platform by MQTT 5: it takes requests, and answers on the topic that each of them names. */
export class CloudBroker {
  private server: Server | SecureServer
  private guests = new Set<Guest>()

  /** @param pair by what it shows who it is, in PEM; null: nothing is encrypted */
  constructor(
    private cloud: PortCloud,
    pair: { key: string; cert: string } | null,
    private root = 'conduit',
  ) {
    this.server = pair ? createSecure(pair, (socket) => this.came(socket)) : createServer((socket) => this.came(socket))
    this.server.maxConnections = mostConnections
  }

  listen(port: number): Promise<number> {
    return new Promise((resolve, reject) => {
      this.server.once('error', reject)
      this.server.listen(port, '127.0.0.1', () => resolve((this.server.address() as { port: number }).port))
    })
  }

  async close() {
    for (const { socket } of this.guests) socket.destroy()
    await new Promise<void>((resolve) => this.server.close(() => resolve()))
  }

  private came(socket: Socket) {
    const guest: Guest = { socket, token: '', filters: new Set() }
    const packets = parser(version)
    packets.on('packet', (packet) => this.take(guest, packet))
    packets.on('error', () => socket.destroy())
    this.guests.add(guest)
    socket.on('data', (data) => packets.parse(data)).on('error', () => {})
    socket.on('close', () => this.guests.delete(guest))
  }

  private take(guest: Guest, packet: Packet) {
    if (this.cloud.faults.has('away')) return void guest.socket.destroy()
    if (packet.cmd === 'connect') this.greet(guest, packet.password?.toString('utf8') ?? '')
    else if (packet.cmd === 'pingreq') send(guest, { cmd: 'pingresp' })
    else if (packet.cmd === 'disconnect') guest.socket.end()
    else if (packet.cmd === 'subscribe') {
      for (const { topic } of packet.subscriptions) guest.filters.add(topic)
      send(guest, { cmd: 'suback', messageId: packet.messageId!, granted: packet.subscriptions.map(() => 1) })
    } else if (packet.cmd === 'publish') {
      if (packet.qos === 1) send(guest, { cmd: 'puback', messageId: packet.messageId!, reasonCode: 0 })
      if (!this.cloud.faults.has('silence')) void this.answer(guest, packet).catch(() => guest.socket.destroy())
    }
  }

  private greet(guest: Guest, token: string) {
    guest.token = token
    const isLetIn = token === cloudToken && !this.cloud.faults.has('token expired')
    send(guest, { cmd: 'connack', sessionPresent: false, reasonCode: isLetIn ? 0 : badPassword })
    if (!isLetIn) guest.socket.end()
  }

  private async answer(guest: Guest, { topic, payload, properties }: IPublishPacket) {
    const [site, ...rest] = topic.startsWith(`${this.root}/`) ? topic.slice(this.root.length + 1).split('/') : []
    const what = ({ model: 'model', 'model/steps': 'steps', values: 'values' } as const)[
      rest.join('/') as 'model' | 'model/steps' | 'values'
    ]
    const to = properties?.responseTopic ?? ''
    if (!site || !what || to === '') return
    const bytes = Buffer.from(payload as Buffer)
    const body = JSON.parse((await gunzip(bytes, { maxOutputLength: mostBody })).toString('utf8')) as unknown
    const { status, after, detail, answer } = this.cloud.handle(what, site, guest.token, body, bytes.length)
    const packed = await gzip(JSON.stringify({ status, after, detail, at: this.cloud.clock, answer }))
    if (!guest.filters.has(to)) return
    const correlation = properties?.correlationData ? { correlationData: properties.correlationData } : {}
    send(guest, { cmd: 'publish', topic: to, payload: packed, qos: 0, retain: false, dup: false, properties: correlation })
  }
}

const send = ({ socket }: Guest, packet: Packet) => {
  if (socket.writable) socket.write(generate(packet, version))
}

import { createServer, type Socket } from 'node:net'
import { generate, parser, type IConnectPacket, type Packet } from 'mqtt-packet'
import { matcherOf } from '#core/mqtt/topic'

interface Client {
  socket: Socket
  id: string
  filters: Map<string, (topic: string) => boolean>
}

interface Habits {
  /** The reason code of CONNACK. */
  connack?(packet: IConnectPacket): number
  /** The reason code of SUBACK. */
  suback?(filter: string): number
  /** The reason code of PUBACK. */
  puback?(topic: string): number
}

const version = { protocolVersion: 5 }

/** A small broker of MQTT 5.0, as far as tests need one: its packets are read and made by a package that is not ours. */
export const startBroker5 = async ({ connack = () => 0, suback = () => 1, puback = () => 0 }: Habits = {}) => {
  const clients = new Set<Client>()
  const send = ({ socket }: Client, packet: Packet) => socket.write(generate(packet, version))
  const spread = (topic: string, payload: string | Buffer) => {
    for (const client of clients)
      if ([...client.filters.values()].some((matches) => matches(topic)))
        send(client, { cmd: 'publish', topic, payload, qos: 0, retain: false, dup: false })
  }
  const answer = (client: Client, packet: Packet) => {
    if (packet.cmd === 'connect') {
      const reasonCode = connack(packet)
      for (const other of clients) {
        if (other.id !== packet.clientId || reasonCode > 0) continue
        send(other, { cmd: 'disconnect', reasonCode: 0x8e })
        other.socket.end()
        clients.delete(other)
      }
      client.id = packet.clientId
      if (reasonCode === 0) clients.add(client)
      send(client, { cmd: 'connack', sessionPresent: false, reasonCode })
    } else if (packet.cmd === 'subscribe') {
      const granted = packet.subscriptions.map(({ topic }) => {
        const code = suback(topic)
        if (code < 0x80) client.filters.set(topic, matcherOf(topic))
        return code
      })
      send(client, { cmd: 'suback', messageId: packet.messageId!, granted })
    } else if (packet.cmd === 'publish') {
      const reasonCode = puback(packet.topic)
      if (packet.qos === 1) send(client, { cmd: 'puback', messageId: packet.messageId!, reasonCode })
      if (reasonCode < 0x80) spread(packet.topic, packet.payload)
    } else if (packet.cmd === 'pingreq') send(client, { cmd: 'pingresp' })
  }
  const sockets = new Set<Socket>()
  const server = createServer((socket) => {
    const client: Client = { socket, id: '', filters: new Map() }
    const packets = parser(version)
    packets.on('packet', (packet) => answer(client, packet))
    sockets.add(socket)
    socket.on('data', (data) => packets.parse(data)).on('error', () => {})
    socket.on('close', () => {
      sockets.delete(socket)
      clients.delete(client)
    })
  })
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
  return {
    port: (server.address() as { port: number }).port,
    publish: spread,
    filters: () => [...clients].flatMap((client) => [...client.filters.keys()]),
    stop: () => {
      sockets.forEach((socket) => socket.destroy())
      return new Promise<void>((resolve) => server.close(() => resolve()))
    },
  }
}

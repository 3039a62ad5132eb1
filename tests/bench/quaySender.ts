import { createServer, type Socket } from 'node:net'
import mqttPacket, { type Packet } from 'mqtt-packet'

/**
 * The far side of a topic in a process of its own, as lean as can be, so that it is not what is measured: whoever listened last
 * gets messages with QoS 1, so many of them unconfirmed at a time. Told a number, it sends so many.
 */
const underWay = 500
const bodyOf = (n: number) =>
  JSON.stringify({ n, gate: 'north', people: { aboard: n % 300, ashore: n % 200 }, at: '2026-11-25T14:06:45.120Z' })

let listener: Socket | null = null
let [next, wanted, open] = [0, 0, 0]

const send = () => {
  const packets: Buffer[] = []
  while (listener && next < wanted && open < underWay) {
    open++
    const messageId = (next % 65_535) + 1
    packets.push(
      mqttPacket.generate({
        ...{ cmd: 'publish', topic: 'quay/north/count', payload: bodyOf(next++), qos: 1, messageId, dup: false, retain: false },
      }),
    )
  }
  if (packets.length > 0) listener?.write(Buffer.concat(packets))
}

const answer = (socket: Socket, packet: Packet) => {
  const say = (reply: Packet) => socket.write(mqttPacket.generate(reply))
  if (packet.cmd === 'connect') say({ cmd: 'connack', returnCode: 0, sessionPresent: false })
  else if (packet.cmd === 'pingreq') say({ cmd: 'pingresp' })
  else if (packet.cmd === 'unsubscribe') say({ cmd: 'unsuback', messageId: packet.messageId!, granted: [] })
  else if (packet.cmd === 'subscribe') {
    ;[listener, open] = [socket, 0]
    say({ cmd: 'suback', messageId: packet.messageId!, granted: packet.subscriptions.map(() => 1) })
  } else if (packet.cmd === 'puback') open--
}

const server = createServer((socket) => {
  socket.setNoDelay(true)
  const parser = mqttPacket.parser({ protocolVersion: 4 })
  parser.on('packet', (packet) => answer(socket, packet))
  socket.on('error', () => {})
  socket.on('data', (chunk) => {
    parser.parse(chunk)
    send()
  })
})
process.on('message', (count: number) => {
  ;[next, wanted, open] = [0, count, 0]
  send()
})
process.once('disconnect', () => process.exit(0))
server.listen(0, '127.0.0.1', () => process.send!((server.address() as { port: number }).port))

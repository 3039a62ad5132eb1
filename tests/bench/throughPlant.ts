import { createServer } from 'node:net'
import mqtt from 'mqtt'
import { FrameCutter } from '#core/modbus/mbap'
import { startBroker } from '../support/mqttBroker'

/**
 * A source and a device in one process, so that one clock measures both: counters go out by way of a broker, and come back
 * as written registers. Told how many, it sends them at a steady pace and answers with the times between, ms.
 */
const { port: brokerPort } = await startBroker()
const sender = await mqtt.connectAsync(`mqtt://127.0.0.1:${brokerPort}`, { protocolVersion: 4 })
const sentAt = new Map<number, number>()
let latencies: number[] = []

const take = (pdu: Buffer) => {
  // write multiple registers (6.12): 32 bits, the most significant word first
  const n = pdu[0] === 16 ? pdu.readUInt32BE(6) : -1
  const sent = sentAt.get(n)
  if (sent === undefined) return
  latencies.push(performance.now() - sent)
  sentAt.delete(n)
}

const reply = (transaction: number, unit: number, pdu: Buffer): Buffer => {
  const isWrite = pdu[0] === 16
  const body = isWrite
    ? pdu.subarray(0, 5)
    : Buffer.concat([Buffer.from([pdu[0]!, 2 * pdu.readUInt16BE(3)]), Buffer.alloc(2 * pdu.readUInt16BE(3))])
  const head = Buffer.alloc(7)
  head.writeUInt16BE(transaction, 0)
  head.writeUInt16BE(1 + body.length, 4)
  head[6] = unit
  return Buffer.concat([head, body])
}

const device = createServer((socket) => {
  socket.setNoDelay(true)
  const cutter = new FrameCutter()
  socket.on('error', () => {})
  socket.on('data', (chunk) => {
    for (const { transaction, unit, pdu } of cutter.push(chunk).frames) {
      take(pdu)
      socket.write(reply(transaction, unit, pdu))
    }
  })
})

const everyMs = 5
const run = (count: number) => {
  let n = 0
  latencies = []
  sentAt.clear()
  const timer = setInterval(() => {
    sentAt.set(++n, performance.now())
    sender.publish('quay/north/count', JSON.stringify({ n, gate: 'north' }), { qos: 0 })
    if (n < count) return
    clearInterval(timer)
    setTimeout(() => process.send!({ latencies }), 500)
  }, everyMs)
}

process.on('message', (count: number) => run(count))
process.once('disconnect', () => process.exit(0))
device.listen(0, '127.0.0.1', () => process.send!({ brokerPort, devicePort: (device.address() as { port: number }).port }))

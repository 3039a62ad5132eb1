import mqtt from 'mqtt'
import { connectPlain } from './plainModbus'

/** As a script has it: listen, take the number, write the two registers. */
const { CONDUIT_BENCH_BROKER, CONDUIT_BENCH_DEVICE } = process.env
const { clients } = await connectPlain(Number(CONDUIT_BENCH_DEVICE), [11])
const device = clients.get(11)!
const broker = await mqtt.connectAsync(`mqtt://127.0.0.1:${CONDUIT_BENCH_BROKER}`, { protocolVersion: 4 })
broker.on('message', (_topic, payload) => {
  const { n } = JSON.parse(payload.toString()) as { n: number }
  const words = Buffer.alloc(4)
  words.writeUInt32BE(n)
  void device.writeMultipleRegisters(10, words).catch(() => {})
})
await broker.subscribeAsync('quay/north/count', { qos: 0 })
setTimeout(() => process.send!('ready'), 1000)
process.once('disconnect', () => process.exit(0))

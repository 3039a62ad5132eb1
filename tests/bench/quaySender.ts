import mqtt from 'mqtt'
import { startBroker } from '../support/mqttBroker'

/** A broker and whoever sends to it, in a process of their own. Told a number, it sends so many messages with QoS 1 as fast as they are taken. */
const { port } = await startBroker()
const bodyOf = (n: number) =>
  JSON.stringify({ n, gate: 'north', people: { aboard: n % 300, ashore: n % 200 }, at: '2026-11-25T14:06:45.120Z' })
const sender = await mqtt.connectAsync(`mqtt://127.0.0.1:${port}`, { protocolVersion: 4 })
const underWay = 500

process.on('message', (wanted: number) => {
  let [next, open] = [0, 0]
  const send = () => {
    while (next < wanted && open < underWay) {
      open++
      sender.publish('quay/north/count', bodyOf(next++), { qos: 1 }, () => {
        open--
        send()
      })
    }
  }
  send()
})
process.once('disconnect', () => process.exit(0))
process.send!(port)

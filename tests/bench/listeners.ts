import mqtt from 'mqtt'

/** Clients in a process of their own: one sends with so many messages under way, all others listen. Asked, it says how many came. */
const url = `mqtt://127.0.0.1:${process.env.CONDUIT_BENCH_PORT}`
const listeners = Number(process.env.CONDUIT_BENCH_LISTENERS)
const qos = Number(process.env.CONDUIT_BENCH_QOS) as 0 | 1
const underWay = 50
const payload = JSON.stringify({ value: 71.25, time: '2026-11-25T14:06:45.120Z', quality: 'Good', unit: 'kW' })
const options = { protocolVersion: 4, reconnectPeriod: 0 } as const

let received = 0
let isOver = false
for (let i = 0; i < listeners; i++) {
  const client = await mqtt.connectAsync(url, options)
  client.on('message', () => void received++)
  await client.subscribeAsync('berth/+/power', { qos })
}
const sender = await mqtt.connectAsync(url, options)
let sent = 0
/** The next goes when those before were heard: nobody measures a heap of what waits. */
const send = () => {
  while (!isOver && sent * listeners - received < underWay * listeners) {
    sent++
    sender.publish('berth/1/power', payload, { qos }, () => {})
  }
  setImmediate(send)
}
send()
process.on('message', () => process.send!(received))
process.once('disconnect', () => {
  isOver = true
  process.exit(0)
})
process.send!(0)

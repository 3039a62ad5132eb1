import { CallBook } from '#core/calls/callBook'
import { noAlarms, noPast } from '../support/outletTag'
import { createServer } from 'node:net'
import { Aedes } from 'aedes'
import { ArrivalBook } from '#engine/arrivals/arrivalBook'
import { MqttBrokerSession } from '#engine/outlets/mqtt/session'
import { TagTable } from '#engine/table/tagTable'
import { Wire } from '#engine/wire/wire'
import { mqttBrokerSettings } from '#shared/outlets/mqttBroker'
import { freePort } from '../../launcher/ports.mjs'
import { memoryJournal } from '../support/modbusSession'
import { testSecurity } from '../support/security'

/** A broker in a process of its own: ours, or the bare package. Asked anything, it says how much of the processor it used, ms. */
const ours = async (): Promise<number> => {
  const port = await freePort()
  const session = new MqttBrokerSession({
    settings: mqttBrokerSettings.parse({ doors: [{ port }], anonymous: [{ filter: '#', may: 'both' }], publishes: [] }),
    ...{
      name: 'bench',
      table: new TagTable(),
      journal: memoryJournal(),
      security: await testSecurity(),
      wire: new Wire(),
      calls: new CallBook(),
    },
    ...{
      folder: null,
      arrivals: new ArrivalBook(() => {}),
      links: () => [],
      site: () => 'Harrow Sound',
      link: () => undefined,
      equipment: () => ({ classes: [], equipment: [] }),
      alarms: noAlarms,
      past: noPast,
      write: () => Promise.resolve({ ok: true as const }),
    },
    points: { ask: () => ({ ok: false as const, problem: '' }), release: () => {}, isAlive: () => false },
  })
  while (session.status().flow !== 'flowing') await new Promise((resolve) => setTimeout(resolve, 10))
  return port
}

const bare = async (): Promise<number> => {
  const broker = await Aedes.createBroker()
  const server = createServer(broker.handle)
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
  return (server.address() as { port: number }).port
}

process.on('message', () => {
  const { user, system } = process.cpuUsage()
  process.send!((user + system) / 1000)
})
process.once('disconnect', () => process.exit(0))
process.send!(await (process.env.CONDUIT_BENCH_OURS ? ours() : bare()))

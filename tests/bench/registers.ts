import { CallBook } from '#core/calls/callBook'
import { noAlarms, noPast } from '../support/outletTag'
import { createServer } from 'node:net'
import jsmodbus from 'jsmodbus'
import { quality } from '#core/tags/quality'
import { ArrivalBook } from '#engine/arrivals/arrivalBook'
import type { OutletTag } from '#engine/outlets/driver'
import { ModbusServerSession } from '#engine/outlets/modbus/session'
import { TagTable } from '#engine/table/tagTable'
import { Wire } from '#engine/wire/wire'
import { modbusServerSettings } from '#shared/outlets/modbusServer'
import { freePort } from '../../launcher/ports.mjs'
import { memoryJournal } from '../support/modbusSession'
import { testSecurity } from '../support/security'

/** A Modbus server in a process of its own: our outlet over a tag table that changes, or a bare jsmodbus over a buffer. */
const tagCount = 3000
const changeMs = 200

const ours = async (): Promise<number> => {
  const [port, table] = [await freePort(), new TagTable()]
  const session = new ModbusServerSession({
    settings: modbusServerSettings.parse({
      doors: [{ port }],
      limits: { perAddress: 1000 },
      map: Array.from({ length: tagCount }, (_, i) => ({ path: `berth/${i}/power`, at: `holding/${2 * i}`, type: 'float32' })),
    }),
    ...{
      name: 'bench',
      table,
      journal: memoryJournal(),
      security: await testSecurity(),
      wire: new Wire(),
      calls: new CallBook(),
      folder: null,
    },
    ...{
      arrivals: new ArrivalBook(() => {}),
      links: () => [],
      site: () => 'Harrow Sound',
      link: () => undefined,
      equipment: () => ({ classes: [], equipment: [] }),
      alarms: noAlarms,
      past: noPast,
    },
    write: () => Promise.resolve({ ok: true as const }),
    points: { ask: () => ({ ok: false as const, problem: '' }), release: () => {}, isAlive: () => false },
  })
  const tags = Array.from({ length: tagCount }, (_, i): OutletTag => ({
    ...{ handle: table.allocate(), id: i + 1, path: `berth/${i}/power`, type: 'float64', writable: false, unit: 'kW', range: null },
    ...{ names: [], description: '' },
  }))
  session.setTags(tags, [])
  changing(
    (i, value) => table.set(tags[i]!.handle, value, quality.Good, Date.now()),
    () => table.flush(),
  )
  while (session.status().flow !== 'flowing') await new Promise((resolve) => setTimeout(resolve, 10))
  return port
}

const bare = async (): Promise<number> => {
  const server = createServer((socket) => socket.setNoDelay(true))
  const holding = Buffer.alloc(4 * tagCount)
  new jsmodbus.server.TCP(server, { holding })
  changing(
    (i, value) => void holding.writeFloatBE(value, 4 * i),
    () => {},
  )
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
  return (server.address() as { port: number }).port
}

/** All values, some times a second. */
const changing = (set: (i: number, value: number) => void, then: () => void) => {
  let step = 0
  const change = () => {
    step++
    for (let i = 0; i < tagCount; i++) set(i, i + (step % 100) / 100)
    then()
  }
  change()
  setInterval(change, changeMs)
}

process.once('disconnect', () => process.exit(0))
process.send!(await (process.env.CONDUIT_BENCH_OURS ? ours() : bare()))

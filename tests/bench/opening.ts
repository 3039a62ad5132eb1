import { OPCUAServer } from 'node-opcua'
import { freePort } from '../../launcher/ports.mjs'
import { openOutlet } from '../support/outlet'

/** Opens an OPC UA server in a process of its own, and tells the longest time that nothing else got its turn. */
const port = await freePort()
let last = performance.now()
let longest = 0
const beat = setInterval(() => {
  const now = performance.now()
  longest = Math.max(longest, now - last)
  last = now
}, 1)

const openOurs = async () => {
  const { session } = await openOutlet({ doors: [{ port }] })
  while (session.status().flow !== 'flowing') await new Promise((resolve) => setTimeout(resolve, 5))
}
const openPlain = async () => {
  const server = new OPCUAServer({ port })
  await server.start()
}

const started = performance.now()
await (process.env.CONDUIT_BENCH_SIDE === 'ours' ? openOurs() : openPlain())
clearInterval(beat)
process.send!({ longest, total: performance.now() - started })

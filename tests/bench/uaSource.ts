import { DataType, Subscription } from 'node-opcua'
import { openBareServer } from './bareServer'

/**
 * A server in a process of its own with a folder of variables. Told a number, it makes that many
 * changes a second, evenly: each with the time at which it came about.
 */
const count = Number(process.env.CONDUIT_BENCH_COUNT)
const stepMs = 20
// as quick as controllers are; the package's own floor is 50 ms
Subscription.minimumPublishingInterval = 10
const { port, variables } = await openBareServer('urn:bench', count, 'cranes', { minSupportedSampleRate: 0 })

let next = 0
let value = 0
const change = (many: number) => {
  const now = new Date()
  value++
  for (let i = 0; i < many; i++, next = (next + 1) % count)
    variables[next]!.setValueFromSource({ dataType: DataType.Double, value }, undefined, now)
}

let timer: NodeJS.Timeout | null = null
process.on('message', (rate: number) => {
  if (timer) clearInterval(timer)
  const [started, before] = [performance.now(), { made: 0 }]
  timer = setInterval(() => {
    const due = Math.floor(((performance.now() - started) / 1000) * rate) - before.made
    before.made += due
    change(due)
  }, stepMs)
})
process.send!(port)
process.once('disconnect', () => process.exit(0))

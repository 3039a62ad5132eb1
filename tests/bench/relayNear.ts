import { Engine } from '#engine/engine'
import { linkContract } from '#shared/links/link'
import { pointTag } from '#shared/tags'
import { freePort } from '../../launcher/ports.mjs'
import { configure } from '../support/configured'
import { blankMemory } from '../support/memory'
import { memoryJournal } from '../support/modbusSession'
import { testSecurity } from '../support/security'
import type { Received } from './subscriber'

/** The near site: the source’s values straight from it, or through a far site that dials us. Counts what arrives in the tag table. */
const { CONDUIT_BENCH_SOURCE, CONDUIT_BENCH_COUNT, CONDUIT_BENCH_PUBLISHING } = process.env
const count = Number(CONDUIT_BENCH_COUNT)
const awaited = CONDUIT_BENCH_SOURCE ? null : await freePort()
const way = awaited === null ? { address: `127.0.0.1:${CONDUIT_BENCH_SOURCE}` } : { awaits: { interface: '127.0.0.1', port: awaited } }
const reading = { publishing: Number(CONDUIT_BENCH_PUBLISHING), sampling: 0 }
const engine = new Engine({ memory: blankMemory(), node: 'near', journal: memoryJournal(), security: await testSecurity() })
const link = linkContract.parse({ name: 'far', kind: 'opcua', settings: { ...way, reading } })
const namespace = awaited === null ? 'urn:bench' : 'urn:keen-conduit:tags'
const tags = Array.from({ length: count }, (_, i) => ({
  ...pointTag({ path: `v${i}`, linkId: 1, address: `nsu=${namespace};s=v${i}`, type: 'float64' }),
  ...{ id: i + 1, revision: 1 },
}))
await configure(engine, 1, { link: [{ ...link, id: 1, revision: 1 }], tag: tags })
let received = 0
let ages: number[] = []
engine.table.listen((handles) => {
  const now = Date.now()
  received += handles.length
  for (const handle of handles) ages.push(now - engine.table.sourceTime[handle]!)
})
const ageAt = (share: number) => ages[Math.min(ages.length - 1, Math.floor(ages.length * share))] ?? NaN
process.on('message', (words) => {
  if (words === 'ready?') return void waitGood()
  if (words === 'start') ages = []
  if (words === 'times') ages.sort((one, other) => one - other)
  process.send!({ received, p50: ageAt(0.5), p99: ageAt(0.99) } satisfies Received)
})
const waitGood = async () => {
  while (engine.table.goodCount < count) await new Promise((resolve) => setTimeout(resolve, 50))
  process.send!('ready')
}
process.send!(awaited ?? 0)
process.once('disconnect', () => process.exit(0))

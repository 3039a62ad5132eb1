import { Engine } from '#engine/engine'
import { linkContract } from '#shared/links/link'
import { outletContract } from '#shared/outlets/outlet'
import { pointTag } from '#shared/tags'
import { configure } from '../support/configured'
import { blankMemory } from '../support/memory'
import { memoryJournal } from '../support/modbusSession'
import { testSecurity } from '../support/security'

/** The far site of a relay: reads the source, and dials the near one. */
const { CONDUIT_BENCH_SOURCE, CONDUIT_BENCH_COUNT, CONDUIT_BENCH_PUBLISHING, CONDUIT_BENCH_DIALS } = process.env
const count = Number(CONDUIT_BENCH_COUNT)
const engine = new Engine({ memory: blankMemory(), node: 'far', journal: memoryJournal(), security: await testSecurity() })
const reading = { publishing: Number(CONDUIT_BENCH_PUBLISHING), sampling: 0 }
const link = linkContract.parse({ name: 'source', kind: 'opcua', settings: { address: `127.0.0.1:${CONDUIT_BENCH_SOURCE}`, reading } })
const dialled = [{ host: '127.0.0.1', port: Number(CONDUIT_BENCH_DIALS), policies: ['None'] }]
const outlet = outletContract.parse({
  name: 'To the office',
  kind: 'opcua-server',
  settings: { doors: [{ on: false }], dialled, health: false },
})
const tags = Array.from({ length: count }, (_, i) => ({
  ...pointTag({ path: `v${i}`, linkId: 1, address: `nsu=urn:bench;s=v${i}`, type: 'float64' }),
  ...{ id: i + 1, revision: 1 },
}))
await configure(engine, 1, { link: [{ ...link, id: 1, revision: 1 }], outlet: [{ ...outlet, id: 2, revision: 1 }], tag: tags })
while (engine.table.goodCount < count) await new Promise((resolve) => setTimeout(resolve, 50))
process.send!('ready')
process.once('disconnect', () => process.exit(0))

import { Engine } from '#engine/engine'
import { linkContract } from '#shared/links/link'
import { outletContract } from '#shared/outlets/outlet'
import { pointTag } from '#shared/tags'
import { freePort } from '../../launcher/ports.mjs'
import { configure } from '../support/configured'
import { memoryJournal } from '../support/modbusSession'
import { blankMemory } from '../support/memory'
import { testSecurity } from '../support/security'
import { answerWithUsage, pipe } from './pipe'

/** The source's values through a link, the tag table and an outlet. */
const port = await freePort()
const engine = new Engine({ memory: blankMemory(), node: 'bench', journal: memoryJournal(), security: await testSecurity() })
const link = linkContract.parse({
  name: 'source',
  kind: 'opcua',
  settings: { address: `127.0.0.1:${pipe.source}`, reading: { publishing: pipe.publishing, sampling: 0 } },
})
const outlet = outletContract.parse({
  name: 'outlet',
  kind: 'opcua-server',
  settings: { doors: [{ port }], health: false },
})
const tags = Array.from({ length: pipe.count }, (_, i) => ({
  ...pointTag({ path: `v${i}`, linkId: 1, address: `nsu=urn:bench;s=v${i}`, type: 'float64' }),
  id: i + 1,
  revision: 1,
}))
await configure(engine, 1, { link: [{ ...link, id: 1, revision: 1 }], outlet: [{ ...outlet, id: 2, revision: 1 }], tag: tags })
while (engine.table.goodCount < pipe.count || engine.status().outlets[0]?.flow !== 'flowing')
  await new Promise((resolve) => setTimeout(resolve, 50))
answerWithUsage({ port, namespace: 'urn:keen-conduit:tags' })

import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { Engine } from '#engine/engine'
import { linkContract } from '#shared/links/link'
import { configure } from '../support/configured'
import { memoryJournal } from '../support/modbusSession'
import { blankMemory } from '../support/memory'
import { startDevice } from './child'
import { blocksByHand, connectPlain, readBlocks } from './plainModbus'
import { times, type Section } from './report'
import { asTags, benchTags } from './tags'
import { testSecurity } from '../support/security'

const units = [11, 12, 13]
const tags = benchTags(10_000, units)

const measureOurs = async (port: number) => {
  const stateFolder = mkdtempSync(join(tmpdir(), 'conduit-bench-'))
  const link = { ...linkContract.parse({ name: 'bench', kind: 'modbus-tcp', settings: { host: '127.0.0.1', port } }), id: 1, revision: 1 }
  const things = { link: [link], tag: asTags(tags, 1) }
  const security = await testSecurity()
  const started = performance.now()
  const engine = new Engine({ memory: blankMemory(), node: 'bench', journal: memoryJournal(), security })
  await configure(engine, 1, things)
  while (engine.table.goodCount < tags.length) await new Promise((resolve) => setImmediate(resolve))
  const ms = performance.now() - started
  await engine.close()
  rmSync(stateFolder, { recursive: true })
  return ms
}

const measurePlain = async (port: number) => {
  const started = performance.now()
  const { clients, close } = await connectPlain(port, units)
  await readBlocks(clients, blocksByHand(tags), new Map())
  const ms = performance.now() - started
  close()
  return ms
}

export const startCase = async (): Promise<Section> => {
  const { child, first: port } = await startDevice(1)
  const ours = await measureOurs(port)
  const plain = await measurePlain(port)
  child.kill()
  return {
    title: 'From start to good values, 10,000 tags',
    how: 'From handing the engine its configuration until every tag is good. Plain: connecting and reading the same registers once, in blocks chosen by hand.',
    rows: [
      {
        what: '10,000 tags on 3 units',
        ours: `${Math.round(ours)} ms`,
        plain: `${Math.round(plain)} ms`,
        ratio: times(ours / plain),
        aim: '—',
      },
    ],
  }
}

import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { Engine } from '#engine/engine'
import { linkContract } from '#shared/links/link'
import { configure } from '../support/configured'
import { memoryJournal } from '../support/modbusSession'
import { blankMemory } from '../support/memory'
import { asTags, benchTags } from './tags'
import { testSecurity } from '../support/security'

/** Measures one arrangement in a process of its own, for memory once used does not come back clean. */
const count = Number(process.env.CONDUIT_BENCH_COUNT)
const side = process.env.CONDUIT_BENCH_SIDE

const used = () => {
  globalThis.gc!()
  const { heapUsed, arrayBuffers } = process.memoryUsage()
  return heapUsed + arrayBuffers
}

const units = Array.from({ length: Math.ceil(count / 10_000) }, (_, i) => i + 1)
const tags = asTags(benchTags(count, units), 1)
const keep: unknown[] = []

const buildOurs = async () => {
  const stateFolder = mkdtempSync(join(tmpdir(), 'conduit-bench-'))
  const port = Number(process.env.CONDUIT_BENCH_PORT)
  const link = {
    ...linkContract.parse({ name: 'bench', kind: 'modbus-tcp', settings: { host: '127.0.0.1', port, interval: 1000 } }),
    id: 1,
    revision: 1,
  }
  const engine = new Engine({ memory: blankMemory(), node: 'bench', journal: memoryJournal(), security: await testSecurity() })
  await configure(engine, 1, { link: [link], tag: tags })
  while (engine.table.goodCount < tags.length) await new Promise((resolve) => setTimeout(resolve, 10))
  keep.push(engine)
  rmSync(stateFolder, { recursive: true })
}

/** An object per tag in a map by path, as a script would hold them. */
const buildPlain = () => {
  const map = new Map(tags.map((tag, i) => [tag.path, { ...tag, value: i * 1.5, quality: 0, sourceTime: new Date(), seenAt: new Date() }]))
  keep.push(map)
}

const before = used()
if (side === 'ours') await buildOurs()
else buildPlain()
process.send!((used() - before) / count)
process.exit(0)

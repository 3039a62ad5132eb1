import { join } from 'node:path'
import { promisify } from 'node:util'
import { gzip as gzipWith } from 'node:zlib'
import { quality } from '#core/tags/quality'
import { Engine } from '#engine/engine'
import { outletContract } from '#shared/outlets/outlet'
import { tagDraft } from '#shared/tags'
import { cloudToken } from '#standins/cloud/platform'
import { configure } from '../support/configured'
import { stateFolderFor, type Closing } from '../support/engineOn'
import { blankMemory } from '../support/memory'
import { memoryJournal } from '../support/modbusSession'
import { testSecurity } from '../support/security'

/** Values of 1,000 tags to a platform: from the tag table over the disk, and by a script from lists that are ready. */

const [base, tags, rounds] = [`http://127.0.0.1:${process.env.CONDUIT_BENCH_PORT}`, 1000, 200]
const gzip = promisify(gzipWith)
const closing: Closing = []
const rest = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms))
const taken = async () => ((await (await fetch(`${base}/api/counts`)).json()) as { values: number }).values

/** @returns values a second until the platform has the last one */
const rateOf = async (values: number, work: () => Promise<void>) => {
  const before = await taken()
  const began = performance.now()
  await work()
  while ((await taken()) < before + values) await rest(20)
  return (1000 * values) / (performance.now() - began)
}

const byUs = async () => {
  const folder = stateFolderFor(closing)
  const engine = new Engine({
    ...{ node: 'bench', journal: memoryJournal(), security: await testSecurity(), memory: blankMemory() },
    outletFolder: (id) => join(folder, String(id)),
  })
  const saved = { revision: 1 }
  const tag = Array.from({ length: tags }, (_, i) => ({
    ...tagDraft.parse({ path: `bench/${i}`, source: { kind: 'memory', start: -1 }, type: 'float64' }),
    ...{ id: i + 1, ...saved },
  }))
  const outlet = outletContract.parse({
    name: 'Cloud',
    kind: 'cloud-platform',
    settings: {
      way: { kind: 'http', base: `${base}/v1`, signIn: { kind: 'bearer', token: { plain: cloudToken } } },
      ...{ site: 'ours', model: { on: false }, streams: [{ folder: 'bench' }], sending: { every: 100 } },
    },
  })
  await configure(engine, 1, { tag, outlet: [{ ...outlet, id: 1, ...saved }] } as never)
  const handles = tag.map(({ id }) => engine.tags.handleOf(id)!)
  while ((await taken()) < tags) await rest(50)
  const start = Date.now()
  const rate = await rateOf(tags * rounds, async () => {
    for (let round = 0; round < rounds; round++) {
      for (const [i, handle] of handles.entries()) engine.table.set(handle, round + i / 1000, quality.Good, Date.now(), start + round)
      engine.table.flush()
      if (round % 10 === 9) await rest(0)
    }
  })
  await engine.close()
  return rate
}

/** One message after the other, as large as ours; what is not taken is lost. */
const byScript = async () => {
  const start = Date.now()
  return rateOf(tags * rounds, async () => {
    for (let from = 0; from < rounds; from += 5) {
      const streams = Array.from({ length: tags }, (_, i) => ({
        ...{ key: `s-${i}`, path: `bench/${i}`, type: 'float64', unit: '' },
        samples: [0, 1, 2, 3, 4].map((more) => [start + from + more, from + more + i / 1000]),
      }))
      const answer = await fetch(`${base}/v1/sites/script/values`, {
        method: 'POST',
        headers: { authorization: `Bearer ${cloudToken}`, 'content-type': 'application/json', 'content-encoding': 'gzip' },
        body: await gzip(JSON.stringify({ parcels: [{ id: `p-${from}`, streams }] })),
      })
      if (!answer.ok) throw new Error(`HTTP ${answer.status}`)
    }
  })
}

const [plain, ours] = [await byScript(), await byUs()]
for (const close of closing.reverse()) await close()
console.log(JSON.stringify({ ours, plain, values: tags * rounds }))
process.exit(0)

import { once } from 'node:events'
import type { ThingOf } from '#db/subjects'
import { nothingDifferent } from '#engine/configuration/site'
import { Engine } from '#engine/engine'
import { linkContract } from '#shared/links/link'
import { outletContract } from '#shared/outlets/outlet'
import { tagDraft } from '#shared/tags'
import { freePort } from '../../launcher/ports.mjs'
import { configure } from '../support/configured'
import { memoryJournal } from '../support/modbusSession'
import { testSecurity } from '../support/security'
import { asTags, benchTags } from './tags'

/**
 * One side of the case about changes, in a process of its own: an engine with all the tags, their device and an
 * outlet with short names; then one tag is changed, then many are added. Tells the longest pauses of the event loop.
 */
const count = Number(process.env.CONDUIT_BENCH_COUNT)
const more = Number(process.env.CONDUIT_BENCH_MORE)
const port = Number(process.env.CONDUIT_BENCH_PORT)
const units = Array.from({ length: 10 }, (_, i) => 11 + i)

/** The longest time between two turns of the event loop while something is under way, ms. */
const longestPause = async (work: () => Promise<unknown>) => {
  let [longest, last, over] = [0, performance.now(), false]
  const look = () => {
    const now = performance.now()
    longest = Math.max(longest, now - last)
    last = now
    if (!over) setImmediate(look)
  }
  setImmediate(look)
  const started = performance.now()
  await work()
  const ms = performance.now() - started
  over = true
  return { longest, ms }
}

const pause = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms))
const until = async (look: () => boolean) => {
  while (!look()) await pause(5)
}

const main = async () => {
  const link: ThingOf['link'] = {
    ...linkContract.parse({ name: 'bench', kind: 'modbus-tcp', settings: { host: '127.0.0.1', port } }),
    id: 1,
    revision: 1,
  }
  const outlet: ThingOf['outlet'] = {
    ...outletContract.parse({
      name: 'bench outlet',
      kind: 'opcua-server',
      settings: { doors: [{ port: await freePort() }], shortNames: { on: true } },
    }),
    id: 1,
    revision: 1,
  }
  const tag = asTags(benchTags(count, units), 1)
  const engine = new Engine({ node: 'bench', journal: memoryJournal(), security: await testSecurity() })
  const settled = () => engine.status().outlets[0]?.sentence.includes('to be had') === true
  await configure(engine, 1, { link: [link], tag, outlet: [outlet] })
  await until(() => engine.table.goodCount === tag.length)
  await until(settled)

  const idle = await longestPause(() => pause(3000))
  let revision = 1
  const change = (tags: ThingOf['tag'][]) => {
    const difference = nothingDifferent(++revision)
    difference.parts.tag.set = tags
    return engine.apply(difference)
  }
  const one = await longestPause(async () => {
    const moved = { ...tag[count >> 1]!, address: '11:holding/60000', revision: 2 }
    await change([moved])
    await until(() => engine.table.goodCount === tag.length && settled())
    await pause(1500)
  })
  const added = Array.from({ length: more }, (_, i) => ({
    ...tagDraft.parse({
      path: `new/area_${i % 40}/value_${i}`,
      linkId: 1,
      address: `${units[i % 10]}:holding/${40_000 + Math.floor(i / 10)}`,
      type: 'int16',
    }),
    id: count + i + 1,
    revision: 3,
  }))
  let inForceMs = 0
  const many = await longestPause(async () => {
    const started = performance.now()
    await change(added)
    inForceMs = performance.now() - started
    await until(() => engine.table.goodCount === tag.length + more && settled())
  })
  process.send!({ idle: idle.longest, one: one.longest, many: many.longest, inForceMs, manyMs: many.ms })
  await once(process, 'disconnect')
  process.exit(0)
}

await main()

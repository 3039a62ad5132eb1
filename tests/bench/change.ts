import { once } from 'node:events'
import type { ThingOf } from '#db/subjects'
import { nothingDifferent } from '#engine/configuration/site'
import { Engine } from '#engine/engine'
import { linkContract } from '#shared/links/link'
import { outletContract } from '#shared/outlets/outlet'
import { pointTag } from '#shared/tags'
import { freePort } from '../../launcher/ports.mjs'
import { configure } from '../support/configured'
import { memoryJournal } from '../support/modbusSession'
import { blankMemory } from '../support/memory'
import { testSecurity } from '../support/security'
import { asTags, benchTags } from './tags'

/**
 * One side of the case about changes, in a process of its own: an engine with all the tags, their device and an
 * outlet with short names; then one tag is changed, then many are added. Tells the longest pauses of the event loop: what is read, told or answered meanwhile waits so long.
 */
const count = Number(process.env.CONDUIT_BENCH_COUNT)
const more = Number(process.env.CONDUIT_BENCH_MORE)
const port = Number(process.env.CONDUIT_BENCH_PORT)
const units = Array.from({ length: 10 }, (_, i) => 11 + i)

const windowMs = 500

/** The longest time between two turns of the event loop, for each half second while something is under way, ms. */
const longestPauses = async <T>(work: () => Promise<T>) => {
  const pauses = [0]
  let [last, windowEnd, over] = [performance.now(), performance.now() + windowMs, false]
  const look = () => {
    const now = performance.now()
    pauses[pauses.length - 1] = Math.max(pauses.at(-1)!, now - last)
    last = now
    if (now > windowEnd) {
      pauses.push(0)
      windowEnd = now + windowMs
    }
    if (!over) setImmediate(look)
  }
  setImmediate(look)
  const result = await work()
  over = true
  return { pauses, result }
}

const turns = 9
const median = (values: readonly number[]) => [...values].sort((a, b) => a - b)[values.length >> 1]!

/** The longest pause in the half second after something was begun; the middle one of several turns. */
const medianPause = async (work: (turn: number) => Promise<unknown>) => {
  const longest: number[] = []
  for (let turn = 0; turn < turns; turn++) {
    const { pauses } = await longestPauses(async () => {
      await work(turn)
      await pause(windowMs)
    })
    longest.push(Math.max(...pauses))
  }
  return median(longest)
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
  const engine = new Engine({ memory: blankMemory(), node: 'bench', journal: memoryJournal(), security: await testSecurity() })
  const settled = () => engine.status().outlets[0]?.sentence.includes('to be had') === true
  await configure(engine, 1, { link: [link], tag, outlet: [outlet] })
  await until(() => engine.table.goodCount === tag.length)
  await until(settled)

  let revision = 1
  const change = (tags: ThingOf['tag'][]) => {
    const difference = nothingDifferent(++revision)
    difference.parts.tag.set = tags
    return engine.apply(difference)
  }
  const idle = await medianPause(() => Promise.resolve())
  const one = await medianPause(async (turn) => {
    const middle = tag[count >> 1]!
    const source = { ...middle.source, address: `11:holding/${60_000 + turn}` } as typeof middle.source
    await change([{ ...middle, source, revision }])
    await until(() => engine.table.goodCount === tag.length && settled())
  })
  const plain = await medianPause(() => Promise.resolve(readAllAnew(tag)))
  const added = moreTags(count + 1)
  const started = performance.now()
  const many = await longestPauses(async () => {
    await change(added)
    const inForceMs = performance.now() - started
    await until(() => engine.table.goodCount === tag.length + more && settled())
    return inForceMs
  })
  const pauses = { idle, one, plain, many: median(many.pauses) }
  process.send!({ pauses, inForceMs: many.result, shownMs: performance.now() - started })
  await once(process, 'disconnect')
  process.exit(0)
}

const moreTags = (firstId: number): ThingOf['tag'][] =>
  Array.from({ length: more }, (_, i) => ({
    ...pointTag({
      path: `new/area_${i % 40}/value_${i}`,
      linkId: 1,
      address: `${units[i % units.length]}:holding/${40_000 + Math.floor(i / units.length)}`,
      type: 'int16',
    }),
    id: firstId + i,
    revision: 3,
  }))

/** What a program does that watches one file: reads all of it, and looks for what is other than before. */
const readAllAnew = (tags: readonly ThingOf['tag'][]) => {
  const before = new Map(tags.map((tag) => [tag.id, JSON.stringify(tag)]))
  const now = JSON.parse(JSON.stringify(tags)) as ThingOf['tag'][]
  return now.filter((tag) => before.get(tag.id) !== JSON.stringify(tag))
}

await main()

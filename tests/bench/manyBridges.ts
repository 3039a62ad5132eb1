import { bridgeContract } from '#core/bridges/settings'
import { Engine } from '#engine/engine'
import type { Handle } from '#engine/table/tagTable'
import { linkContract } from '#shared/links/link'
import { tagDraft } from '#shared/tags'
import { configure } from '../support/configured'
import { memoryJournal } from '../support/modbusSession'
import { blankMemory } from '../support/memory'
import { testSecurity } from '../support/security'

/** 1,000 bridges that each carry a tag to another one, ten times a second, beside a device that is read; and a bare script. */
const count = 1000
const everyMs = 100
const seconds = 10

const usedMs = () => {
  const { user, system } = process.cpuUsage()
  return (user + system) / 1000
}
const sleep = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms))

/** Changes all of them each period. Returns processor time and how many came of it. */
const driven = async (change: (round: number) => void, done: () => number) => {
  let round = 0
  const timer = setInterval(() => change(++round), everyMs)
  await sleep(1000)
  const [used, before] = [usedMs(), done()]
  await sleep(seconds * 1000)
  const [usedAfter, after] = [usedMs(), done()]
  clearInterval(timer)
  return { usedMs: usedAfter - used, runs: after - before }
}

const ours = async () => {
  const port = Number(process.env.CONDUIT_BENCH_PORT)
  const engine = new Engine({ node: 'bench', journal: memoryJournal(), security: await testSecurity(), memory: blankMemory() })
  const saved = { revision: 1 }
  const link = {
    ...linkContract.parse({ name: 'Meters', kind: 'modbus-tcp', settings: { host: '127.0.0.1', port, unit: 11 } }),
    id: 1,
    ...saved,
  }
  const memory = (path: string, id: number) => ({
    ...tagDraft.parse({ path, type: 'float64', access: 'readwrite', source: { kind: 'memory', start: '0' } }),
    ...{ id, ...saved },
  })
  const read = Array.from({ length: 100 }, (_, i) => ({
    ...tagDraft.parse({ path: `meter/${i}`, type: 'int16', source: { kind: 'point', linkId: 1, address: `holding/${i}`, interval: 100 } }),
    ...{ id: 3 * count + i, ...saved },
  }))
  const tags = Array.from({ length: count }, (_, i) => [memory(`from/${i}`, 1 + 2 * i), memory(`to/${i}`, 2 + 2 * i)]).flat()
  const bridges = Array.from({ length: count }, (_, i) => ({
    ...bridgeContract.parse({
      name: `Bridge ${i}`,
      when: [{ kind: 'change', tag: `from/${i}`, by: null }],
      send: [{ kind: 'tags', number: 1, away: { keep: 'latest' }, fields: [{ into: `to/${i}`, from: 'value * 2' }] }],
    }),
    ...{ id: i + 1, ...saved },
  }))
  await configure(engine, 1, { link: [link], tag: [...tags, ...read], bridge: bridges } as never)
  await sleep(2000)
  const handles = Array.from({ length: count }, (_, i) => engine.tags.byPath(`from/${i}`)!.handle)
  const meter = engine.tags.byPath('meter/0')!.handle
  let [latest, late] = [engine.table.seenAt[meter]!, 0]
  const watch = setInterval(() => {
    const seen = engine.table.seenAt[meter]!
    if (seen !== latest) late = Math.max(late, seen - latest)
    latest = seen
  }, 5)
  const base = await driven(
    (round) => set(engine, handles, round, false),
    () => 1,
  )
  late = 0
  const measured = await driven(
    (round) => set(engine, handles, round, true),
    () => engine.bridges.status().reduce((total, { runs }) => total + runs, 0),
  )
  clearInterval(watch)
  return { ...measured, usedMs: measured.usedMs - base.usedMs, late }
}

const set = ({ table }: Engine, handles: readonly Handle[], round: number, isChange: boolean) => {
  const now = Date.now()
  for (const handle of handles) table.set(handle, isChange ? round : 0, 0, now)
  table.flush()
}

/** As a script has it: a function per pair that works the value out and sets it in a map. */
const plain = async () => {
  const [from, to] = [new Map<string, number>(), new Map<string, number>()]
  let runs = 0
  const pairs = Array.from({ length: count }, (_, i) => (value: number) => {
    if (from.get(`from/${i}`) === value) return
    from.set(`from/${i}`, value)
    to.set(`to/${i}`, value * 2)
    runs++
  })
  return driven(
    (round) => pairs.forEach((pair) => pair(round)),
    () => runs,
  )
}

console.log(JSON.stringify({ ours: await ours(), plain: await plain() }))
process.exit(0)

import { propertyTags } from '#core/equipment/made'
import { Model } from '#core/equipment/model'
import { classContract, equipmentContract } from '#core/equipment/settings'
import { quality } from '#core/tags/quality'
import { Engine } from '#engine/engine'
import { tagOfProperty } from '#shared/equipment/tags'
import { tagDraft } from '#shared/tags'
import { configure } from '../support/configured'
import { blankMemory } from '../support/memory'
import { memoryJournal } from '../support/modbusSession'
import { testSecurity } from '../support/security'

/** Rollups of equipment, by themselves and over windows that slide, beside lists in a script. */

const saved = { revision: 1 }
const rest = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms))
/** The kinds of each piece. */
const kinds = ['min', 'max', 'mean', 'mean by time', 'count'] as const
/** Samples of an input in a second. */
const rate = 10
/** Rollups told every second. @param over so many windows of a second together @returns those that a core works out in a second */
const rolledByUs = async (pieces: number, seconds: number, over: number) => {
  const of = classContract.parse({
    name: 'Pump',
    properties: [
      { name: 'power', made: { kind: 'input' } },
      ...kinds.map((how, i) => ({ name: `r${i}`, made: { kind: 'rollup', of: 'power', how, over, window: { count: 1, unit: 'second' } } })),
    ],
  })
  const equipment = Array.from({ length: pieces }, (_, i) => ({
    ...equipmentContract.parse({ path: `pump ${i}`, class: 'Pump', bindings: { power: `in/${i}` } }),
    ...{ id: i + 1, ...saved },
  }))
  const inputs = equipment.map((_, i) => tagDraft.parse({ path: `in/${i}`, source: { kind: 'memory', start: 0 }, type: 'float64' }))
  const model = new Model([of], equipment)
  const tags = [...inputs, ...equipment.flatMap((one) => propertyTags(model, one).map(tagOfProperty))].map((tag, i) => ({
    ...tag,
    id: i + 1,
    ...saved,
  }))
  const engine = new Engine({ node: 'bench', journal: memoryJournal(), security: await testSecurity(), memory: blankMemory() })
  await configure(engine, 1, { equipmentClass: [{ ...of, id: 1, ...saved }], equipment, tag: tags } as never)
  const handles = inputs.map((_, i) => engine.tags.handleOf(i + 1)!)
  await rest(1500)
  const ends = tags.filter(({ path }) => /r\d$/.test(path)).map(({ id }) => engine.tags.handleOf(id)!)
  let told = 0
  const isRollup = new Set(ends)
  engine.table.listen((changed) => {
    for (const handle of changed) if (isRollup.has(handle)) told++
  })
  const cpu = process.cpuUsage()
  const began = performance.now()
  for (let round = 0; round < seconds * rate; round++) {
    for (const handle of handles) engine.table.set(handle, Math.sin(round / 7) * 100, quality.Good, Date.now(), Date.now())
    engine.table.flush()
    await rest(Math.max(0, began + (round + 1) * 100 - performance.now()))
  }
  const { user, system } = process.cpuUsage(cpu)
  await engine.close()
  return told / ((user + system) / 1e6)
}

/** The same by a script: the values of each window are kept in a list, and all of them looked at when it ends. */
const rolledPlainly = (pieces: number, seconds: number, over: number) => {
  const lists = Array.from({ length: pieces }, (): number[] => [])
  const cpu = process.cpuUsage()
  let done = 0
  for (let round = 0; round < seconds * rate; round++) {
    for (const list of lists) list.push(Math.sin(round / 7) * 100)
    if (round % rate !== rate - 1) continue
    for (const list of lists) {
      const sum = list.reduce((total, value) => total + value, 0)
      const byTime = list.reduce((total, value) => total + value / rate, 0)
      done += [Math.min(...list), Math.max(...list), sum / list.length, byTime, list.length].length
      list.splice(0, Math.max(0, list.length - rate * (over - 1)))
    }
  }
  const { user, system } = process.cpuUsage(cpu)
  return done / ((user + system) / 1e6)
}

/** A minute that slides by seconds. */
const sliding = 60
const pieces = 1000
const tumbling = { ours: await rolledByUs(pieces, 8, 1), plain: rolledPlainly(pieces, 8, 1) }
const slid = { ours: await rolledByUs(pieces, 8 + sliding, sliding), plain: rolledPlainly(pieces, 8 + sliding, sliding) }
console.log(JSON.stringify({ tumbling, slid }))
process.exit(0)

import { afterEach, describe, expect, it } from 'vitest'
import { recordingContract } from '#core/history/settings'
import { HistoryReader } from '#db/history/reader'
import type { Editor } from '#db/editor'
import { tagDraft } from '#shared/tags'
import { closeAll, type Closing } from '../support/engineOn'
import { siteOfMachines, twoMasters, type OneMachine } from '../support/siteMachines'
import { until } from '../support/until'

/** Machines that are killed, stopped and cut off from their database at random: the device’s own log says who talked to it. */

const closing: Closing = []
afterEach(() => closeAll(closing))

const seed = Number(process.env.CONDUIT_SEED ?? Date.now() % 1_000_000)
const runMs = Number(process.env.CONDUIT_RANDOM_MS ?? 25_000)

/** Numbers in [0, 1), the same ones for the same seed. */
const numbers = (of: number) => () => {
  of = (of * 48_271) % 2_147_483_647
  return of / 2_147_483_647
}

const plant = async (editor: Editor) => {
  const ramp = { kind: 'signal', shape: 'ramp', every: 100, low: 0, high: 100_000, cycle: 3_600_000 }
  await editor.insert('tag', [tagDraft.parse({ path: 'quay/count', type: 'float64', source: ramp })])
  await editor.insert('recording', [recordingContract.parse({ pattern: 'quay/count', how: { kind: 'change' } })])
}

const waitMs = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms))

describe('machines of one site in bad weather', () => {
  it(`never talk to a device two at a time, and one leads in the end (seed ${seed})`, async () => {
    const random = numbers(seed + 1)
    const { machines, asked, database } = await siteOfMachines(closing, ['harbour-a', 'harbour-b'], plant)
    const done: string[] = []
    const storms: ((machine: OneMachine) => Promise<void>)[] = [
      async (machine) => {
        machine.signal('SIGKILL')
        await waitMs(100 + 2000 * random())
      },
      async (machine) => {
        machine.signal('SIGSTOP')
        await waitMs(500 + 9000 * random())
        machine.signal('SIGCONT')
      },
      async (machine) => {
        machine.cable.hold()
        await waitMs(500 + 9000 * random())
        machine.cable.cut()
        machine.cable.letGo()
      },
      async (machine) => {
        machine.cable.cut()
        await waitMs(500 * random())
      },
    ]
    const end = Date.now() + runMs
    while (Date.now() < end) {
      const machine = machines[Math.floor(random() * machines.length)]!
      const storm = Math.floor(random() * storms.length)
      done.push(`${machine.name} ${['killed', 'stopped', 'held', 'cut'][storm]}`)
      await storms[storm]!(machine)
      await waitMs(3000 * random())
    }
    for (const machine of machines) machine.signal('SIGCONT')
    expect(twoMasters(asked), done.join(', ')).toEqual([])
    const lead = await until(
      async () => {
        const status = await machines[0]!.status()
        return { name: status?.lead?.name, flow: status?.links[0]?.flow, ready: status?.lead?.canHandOver.length }
      },
      ({ name, flow, ready }) => name !== undefined && flow === 'flowing' && ready === 1,
      60,
    )
    expect(machines.map(({ name }) => name)).toContain(lead.name)
    expect(twoMasters(asked), done.join(', ')).toEqual([])
    const reader = new HistoryReader(database.url)
    closing.push(() => reader.close())
    const { id } = await database.db.selectFrom('tag').select('id').where('path', '=', 'quay/count').executeTakeFirstOrThrow()
    const samples = await reader.samples({ id, from: end - runMs, to: Date.now(), most: 1_000_000 })
    // one at a time records, and what a machine heard is told once
    const good = samples.filter(({ quality }) => quality === 0)
    expect(good.length).toBeGreaterThan(0)
    expect(new Set(good.map(({ at }) => at)).size).toBe(good.length)
  })
})

import { once } from 'node:events'
import { forkBundled, startChild } from './child'
import { times, type Section } from './report'

const count = 2000

const at = (sorted: readonly number[], share: number) => sorted[Math.floor(sorted.length * share)]!

/** A plant of its own each time; turn and turn about, and the middle of three. */
const run = async (script: string) => {
  const { child: plant, first } = await startChild<{ brokerPort: number; devicePort: number }>('throughPlant.ts')
  const env = { CONDUIT_BENCH_BROKER: String(first.brokerPort), CONDUIT_BENCH_DEVICE: String(first.devicePort) }
  const between = await forkBundled(script, env)
  await once(between, 'message')
  plant.send(count)
  const [{ latencies }] = (await once(plant, 'message')) as [{ latencies: number[] }]
  for (const child of [between, plant]) child.kill()
  if (latencies.length < count * 0.99) throw new Error(`${script}: ${latencies.length} of ${count} were written.`)
  const sorted = latencies.sort((a, b) => a - b)
  return { p50: at(sorted, 0.5), p99: at(sorted, 0.99) }
}

const middle = (all: { p50: number; p99: number }[]) => {
  const of = (what: 'p50' | 'p99') => all.map((one) => one[what]).sort((a, b) => a - b)[1]!
  return { p50: of('p50'), p99: of('p99') }
}

const ms = (value: number) => `${value.toFixed(2)} ms`

export const throughCase = async (): Promise<Section> => {
  const [ours, plain]: { p50: number; p99: number }[][] = [[], []]
  for (let i = 0; i < 3; i++) {
    plain!.push(await run('throughPlain.ts'))
    ours!.push(await run('throughOurs.ts'))
  }
  const [us, them] = [middle(ours!), middle(plain!)]
  return {
    title: 'From a tag to a register of another link',
    how: 'A counter comes over a broker 200 times a second as a tag, and a bridge writes it to a device at every change; from sending to the written register, measured by one clock, the middle of three. Plain: a script with the same package for the broker and one for the device, that writes as it hears.',
    rows: (['p50', 'p99'] as const).map((what) => ({
      what: what === 'p50' ? 'median' : '99th percentile',
      ...{ ours: ms(us[what]), plain: ms(them[what]), ratio: times(us[what] / them[what]), aim: 'at most 1.2' },
    })),
  }
}

import { runBundled, startDevice } from './child'
import { times, type Section } from './report'

interface Measured {
  ours: { usedMs: number; runs: number; late: number }
  plain: { usedMs: number; runs: number }
}

export const bridgesCase = async (): Promise<Section> => {
  const { child, first: port } = await startDevice(1)
  const { ours, plain } = await runBundled<Measured>('manyBridges.ts', { CONDUIT_BENCH_PORT: String(port) })
  child.kill()
  const perRun = ({ usedMs, runs }: { usedMs: number; runs: number }) => (usedMs * 1000) / runs
  return {
    title: '1,000 bridges, 10,000 runs a second',
    how: 'Each carries one tag to another at every change, with a formula, and keeps its runs for the page; beside them a device is read every 100 ms. Processor time beyond that of the tags themselves. Plain: a function for each pair that sets a value in a map, and keeps nothing.',
    rows: [
      {
        what: 'runs a second',
        ours: Math.round(ours.runs / 10).toLocaleString('en-GB'),
        plain: Math.round(plain.runs / 10).toLocaleString('en-GB'),
        ratio: times(ours.runs / plain.runs),
        aim: '10,000',
      },
      {
        what: 'processor time of a run',
        ours: `${perRun(ours).toFixed(1)} µs`,
        plain: `${perRun(plain).toFixed(1)} µs`,
        ratio: times(perRun(ours) / perRun(plain)),
        aim: '—',
      },
      { what: 'longest between two plant readings', ours: `${Math.round(ours.late)} ms`, plain: '—', ratio: '—', aim: 'at most 200 ms' },
    ],
  }
}

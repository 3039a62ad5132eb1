import { startChild, startDevice } from './child'
import { times, type Section } from './report'

const measure = async (side: 'ours' | 'plain', count: number, port: number) => {
  const env = { CONDUIT_BENCH_SIDE: side, CONDUIT_BENCH_COUNT: String(count), CONDUIT_BENCH_PORT: String(port) }
  const { child, first } = await startChild<number>('memory.ts', env, ['--expose-gc'])
  child.kill()
  return first
}

export const memoryCase = async (): Promise<Section> => {
  const { child, first: port } = await startDevice(0)
  const rows = []
  for (const count of [1000, 100_000]) {
    const ours = await measure('ours', count, port)
    const plain = await measure('plain', count, port)
    rows.push({
      what: `${count.toLocaleString('en-GB')} tags`,
      ours: `${Math.round(ours)} B`,
      plain: `${Math.round(plain)} B`,
      ratio: times(ours / plain),
      aim: '—',
    })
  }
  child.kill()
  return {
    title: 'Memory per tag',
    how: 'Heap and buffers after every tag had its first good value, beyond the configuration itself: tag table, register, planned requests, last replies. Plain: one object per tag in a map, which neither reads nor plans.',
    rows,
  }
}

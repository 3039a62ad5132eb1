import { startChild } from './child'
import { times, type Section } from './report'

interface Opened {
  longest: number
  total: number
}

const measure = async (side: 'ours' | 'plain') => {
  const runs: Opened[] = []
  for (let i = 0; i < 3; i++) {
    const { child, first } = await startChild<Opened>('opening.ts', { CONDUIT_BENCH_SIDE: side })
    child.kill()
    runs.push(first)
  }
  return runs.sort((a, b) => a.longest - b.longest)[1]!
}

export const openingCase = async (): Promise<Section> => {
  const [ours, plain] = [await measure('ours'), await measure('plain')]
  const ms = (value: number) => `${Math.round(value)} ms`
  const row = (what: string, key: keyof Opened, aim: string) => ({
    what,
    ours: ms(ours[key]),
    plain: ms(plain[key]),
    ratio: times(ours[key] / plain[key]),
    aim,
  })
  return {
    title: 'Opening an OPC UA outlet',
    how: 'A process that has just started opens a server with the nodes of the standard; meanwhile a timer of 1 ms tells how long nothing else got its turn. Median of three. Plain: the same package as its manual starts it.',
    rows: [row('longest pause of everything else', 'longest', 'below 50 ms'), row('until it listens', 'total', '—')],
  }
}

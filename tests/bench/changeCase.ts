import { startChild, startDevice } from './child'
import { times, type Section } from './report'

interface Measured {
  pauses: { idle: number; one: number; plain: number; many: number }
  inForceMs: number
  shownMs: number
}

const [count, more] = [100_000, 20_000]
const number = (value: number) => value.toLocaleString('en-GB')
const ms = (value: number) => `${value.toFixed(1)} ms`

export const changeCase = async (): Promise<Section> => {
  const { child: device, first: port } = await startDevice(1)
  const env = { CONDUIT_BENCH_COUNT: String(count), CONDUIT_BENCH_MORE: String(more), CONDUIT_BENCH_PORT: String(port) }
  const { child, first } = await startChild<Measured>('change.ts', env)
  child.kill()
  device.kill()
  const { pauses, inForceMs, shownMs } = first
  const row = (what: string, pause: number, aim: string) => ({
    what,
    ours: ms(pause),
    plain: ms(pauses.plain),
    ratio: times(pause / pauses.plain),
    aim,
  })
  return {
    title: `A change among ${number(count)} tags: how long everything else waits`,
    how: `One Modbus link with 10 units polled each second, one outlet that shows every tag by path and by short name. Each figure is the longest pause of the engine\u2019s event loop in half a second, the middle one of several. The ${number(more)} new tags were in force after ${(inForceMs / 1000).toFixed(1)} s and all set out for clients after ${(shownMs / 1000).toFixed(1)} s; reading, writing and answering went on meanwhile. Plain: reading the whole configuration again as JSON and looking for what changed.`,
    rows: [
      row('nothing is changed', pauses.idle, '—'),
      row('one tag gets another address', pauses.one, 'no pause over 20 ms'),
      row(`${number(more)} tags are added`, pauses.many, 'no pause over 50 ms'),
    ],
  }
}

import { once } from 'node:events'
import type { ChildProcess } from 'node:child_process'
import { startChild } from './child'
import { perSecond, times, type Section } from './report'

const listeners = 50
const seconds = 5
const rounds = 3

const ask = async (child: ChildProcess): Promise<number> => {
  child.send('?')
  return ((await once(child, 'message')) as [number])[0]
}

interface Run {
  rate: number
  cpuMs: number
}

const run = async (isOurs: boolean, qos: number): Promise<Run> => {
  const broker = await startChild<number>('broker.ts', isOurs ? { CONDUIT_BENCH_OURS: '1' } : {})
  const clients = await startChild('listeners.ts', {
    CONDUIT_BENCH_PORT: String(broker.first),
    CONDUIT_BENCH_LISTENERS: String(listeners),
    CONDUIT_BENCH_QOS: String(qos),
  })
  await new Promise((resolve) => setTimeout(resolve, 2000))
  const [before, used, started] = [await ask(clients.child), await ask(broker.child), performance.now()]
  await new Promise((resolve) => setTimeout(resolve, seconds * 1000))
  const [after, usedAfter, ended] = [await ask(clients.child), await ask(broker.child), performance.now()]
  clients.child.kill()
  broker.child.kill()
  const count = after - before
  return { rate: count / ((ended - started) / 1000), cpuMs: (usedAfter - used) / (count / 1000) }
}

/** Turn and turn about, and the middle: a machine with few cores has its moods. */
const both = async (qos: number) => {
  const runs: { plain: Run; ours: Run }[] = []
  for (let i = 0; i < rounds; i++) runs.push({ plain: await run(false, qos), ours: await run(true, qos) })
  const middle = (side: 'plain' | 'ours', of: keyof Run) => runs.map((one) => one[side][of]).sort((a, b) => a - b)[1]!
  return {
    plain: { rate: middle('plain', 'rate'), cpuMs: middle('plain', 'cpuMs') },
    ours: { rate: middle('ours', 'rate'), cpuMs: middle('ours', 'cpuMs') },
  }
}

export const brokerCase = async (): Promise<Section> => {
  const rows = []
  for (const qos of [0, 1]) {
    const { ours, plain } = await both(qos)
    rows.push({
      what: `messages that arrive, QoS ${qos}`,
      ours: perSecond(ours.rate),
      plain: perSecond(plain.rate),
      ratio: times(ours.rate / plain.rate),
      aim: 'at least 0.9',
    })
    rows.push({
      what: `processor time of the broker per 1,000, QoS ${qos}`,
      ours: `${ours.cpuMs.toFixed(1)} ms`,
      plain: `${plain.cpuMs.toFixed(1)} ms`,
      ratio: times(ours.cpuMs / plain.cpuMs),
      aim: '—',
    })
  }
  return {
    title: 'The MQTT outlet as a broker: one sends, 50 listen',
    how: 'Broker and clients in two processes on this machine; the sender has 50 messages under way; the middle of three runs of each. Plain: the bare `aedes` package, without names, rights or limits.',
    rows,
  }
}

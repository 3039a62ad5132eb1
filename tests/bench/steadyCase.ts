import { once } from 'node:events'
import { readFileSync } from 'node:fs'
import type { ChildProcess } from 'node:child_process'
import { startChild } from './child'
import type { Piped } from './pipe'
import { perSecond, times, type Section } from './report'
import type { Received } from './subscriber'

const count = 100_000
const offered = 20_000
const minutes = Number(process.env.CONDUIT_BENCH_MINUTES ?? 10)
/** Of the plain side so much less. */
const plainShare = 5
const settleMs = 60_000
const lookEveryMs = 10_000

interface Moment {
  minutes: number
  /** Of the process between source and client, MB. */
  memory: number
  received: number
  p99: number
}

const ask = async <T>(child: ChildProcess, words: string): Promise<T> => {
  child.send(words)
  return ((await once(child, 'message')) as [T])[0]
}

const pageBytes = 4096
/** What of a process is in memory (proc(5), statm). */
const residentMb = (pid: number) => (Number(readFileSync(`/proc/${pid}/statm`, 'utf8').split(' ')[1]) * pageBytes) / 1e6

/** Source, pipe and client in three processes; what the one in the middle takes, over minutes. */
const run = async (script: string, lasts: number): Promise<Moment[]> => {
  const source = await startChild<number>('uaSource.ts', { CONDUIT_BENCH_COUNT: String(count) })
  const between = await startChild<Piped>(script, {
    CONDUIT_BENCH_SOURCE: String(source.first),
    CONDUIT_BENCH_COUNT: String(count),
    CONDUIT_BENCH_PUBLISHING: '100',
  })
  const { port, namespace } = between.first
  const subscriber = await startChild('subscriber.ts', {
    CONDUIT_BENCH_URL: `opc.tcp://127.0.0.1:${port}`,
    CONDUIT_BENCH_NODES: JSON.stringify({ prefix: 'v', count, namespace }),
    CONDUIT_BENCH_SAMPLING: '0',
  })
  source.child.send(offered)
  await new Promise((resolve) => setTimeout(resolve, settleMs))
  const began = Date.now()
  const moments: Moment[] = []
  while (Date.now() - began < lasts * 60_000) {
    await ask(subscriber.child, 'start')
    await new Promise((resolve) => setTimeout(resolve, lookEveryMs))
    const { received, p99 } = await ask<Received>(subscriber.child, 'times')
    moments.push({ minutes: (Date.now() - began) / 60_000, memory: residentMb(between.child.pid!), received, p99 })
  }
  for (const { child } of [subscriber, between, source]) child.kill()
  return moments
}

const mean = (values: readonly number[]) => values.reduce((sum, value) => sum + value, 0) / values.length
/** By how much memory grows, MB a minute: the slope of the line that fits best. */
const growth = (moments: readonly Moment[]) => {
  const [atMinute, atMemory] = [mean(moments.map((moment) => moment.minutes)), mean(moments.map(({ memory }) => memory))]
  const over = mean(moments.map((moment) => (moment.minutes - atMinute) * (moment.memory - atMemory)))
  return over / mean(moments.map((moment) => (moment.minutes - atMinute) ** 2))
}

/** What the first and the last fifth of the time had. */
const told = (moments: readonly Moment[]) => {
  const fifth = Math.max(1, Math.floor(moments.length / 5))
  const [first, last] = [moments.slice(0, fifth), moments.slice(-fifth)]
  const [from, to] = [moments[0]!, moments.at(-1)!]
  return {
    rate: (to.received - from.received) / ((to.minutes - from.minutes) * 60),
    memory: [mean(first.map(({ memory }) => memory)), mean(last.map(({ memory }) => memory))] as const,
    growth: growth(moments),
    p99: [mean(first.map(({ p99 }) => p99)), mean(last.map(({ p99 }) => p99))] as const,
  }
}

export const steadyCase = async (): Promise<Section> => {
  const [ours, plain] = [told(await run('pipeOurs.ts', minutes)), told(await run('pipePlain.ts', minutes / plainShare))]
  const pair = (values: readonly [number, number], unit: string) => values.map((value) => `${Math.round(value)} ${unit}`).join(' → ')
  return {
    title: `${count.toLocaleString('en-GB')} tags, ${offered.toLocaleString('en-GB')} changes a second, ${minutes} minutes`,
    how: 'From a server through a link, the tag table and an outlet to a client, each in a process of its own; after a minute in which nothing is counted. First and last fifth of the time. Plain, for a fifth as long: a client session whose notifications are set in the variables of a bare server, same package. Only by name: `./conduit bench steady`.',
    rows: [
      {
        what: 'changes that arrive',
        ours: perSecond(ours.rate),
        plain: perSecond(plain.rate),
        ratio: times(ours.rate / plain.rate),
        aim: '20,000/s',
      },
      {
        what: 'memory of the process between',
        ours: pair(ours.memory, 'MB'),
        plain: pair(plain.memory, 'MB'),
        ratio: times(ours.memory[1] / plain.memory[1]),
        aim: 'flat',
      },
      { what: 'its growth', ours: `${ours.growth.toFixed(1)} MB/min`, plain: `${plain.growth.toFixed(1)} MB/min`, ratio: '—', aim: 'none' },
      {
        what: 'source to client, 99th percentile',
        ours: pair(ours.p99, 'ms'),
        plain: pair(plain.p99, 'ms'),
        ratio: times(ours.p99[1] / plain.p99[1]),
        aim: 'no backlog',
      },
    ],
  }
}

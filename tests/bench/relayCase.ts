import { once } from 'node:events'
import type { ChildProcess } from 'node:child_process'
import { startChild } from './child'
import { milliseconds, perSecond, times, type Section } from './report'
import type { Received } from './subscriber'

const count = 10_000
const publishing = 100
const settleMs = 4000
const seconds = 8

interface Run {
  rate: number
  p50: number
  p99: number
}

const ask = async <T>(child: ChildProcess, words: string): Promise<T> => {
  child.send(words)
  return ((await once(child, 'message')) as [T])[0]
}

/** Source, near site, and for a relay the far one, in a process each. */
const run = async (isRelay: boolean, offered: number): Promise<Run> => {
  const env = { CONDUIT_BENCH_COUNT: String(count), CONDUIT_BENCH_PUBLISHING: String(publishing) }
  const source = await startChild<number>('uaSource.ts', env)
  const ofSource = { CONDUIT_BENCH_SOURCE: String(source.first) }
  const near = await startChild<number>('relayNear.ts', isRelay ? env : { ...env, ...ofSource })
  const far = isRelay ? await startChild('relayFar.ts', { ...env, ...ofSource, CONDUIT_BENCH_DIALS: String(near.first) }) : null
  await ask(near.child, 'ready?')
  source.child.send(offered)
  await new Promise((resolve) => setTimeout(resolve, settleMs))
  const before = await ask<Received>(near.child, 'start')
  const began = performance.now()
  await new Promise((resolve) => setTimeout(resolve, seconds * 1000))
  const after = await ask<Received>(near.child, 'times')
  const ended = performance.now()
  for (const one of [near, far, source]) one?.child.kill()
  return { rate: (after.received - before.received) / ((ended - began) / 1000), p50: after.p50, p99: after.p99 }
}

const middle = (runs: readonly Run[]): Run => {
  const of = (what: keyof Run) => runs.map((one) => one[what]).sort((a, b) => a - b)[1]!
  return { rate: of('rate'), p50: of('p50'), p99: of('p99') }
}

const both = async (offered: number) => {
  const [direct, relay]: [Run[], Run[]] = [[], []]
  for (let i = 0; i < 3; i++) {
    direct.push(await run(false, offered))
    relay.push(await run(true, offered))
  }
  return { direct: middle(direct), relay: middle(relay) }
}

export const relayCase = async (): Promise<Section> => {
  const { direct, relay } = await both(20_000)
  const more = (of: 'p50' | 'p99') => `${(relay[of] - direct[of]).toFixed(0)} ms more`
  return {
    title: 'A relay against a direct link',
    how: `10,000 OPC UA nodes of a server that makes 20,000 changes a second, into the tag table of a site, with a publishing interval of ${publishing} ms; the middle of three runs. Relay: a far site reads the server and dials ours, which reads the far one; each in a process, on this machine. Plain: a link straight to the server.`,
    rows: [
      {
        what: 'values a second',
        ours: perSecond(relay.rate),
        plain: perSecond(direct.rate),
        ratio: times(relay.rate / direct.rate),
        aim: 'at least 0.8',
      },
      {
        what: 'from the server to the table, median',
        ours: milliseconds(relay.p50),
        plain: milliseconds(direct.p50),
        ratio: more('p50'),
        aim: '—',
      },
      {
        what: 'from the server to the table, 99th percentile',
        ours: milliseconds(relay.p99),
        plain: milliseconds(direct.p99),
        ratio: more('p99'),
        aim: `at most ${publishing} ms more`,
      },
    ],
  }
}

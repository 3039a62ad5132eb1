import { once } from 'node:events'
import { DataType } from 'node-opcua'
import { quality } from '#core/tags/quality'
import { tagNamespace } from '#engine/outlets/opcua/addressSpace'
import { freePort } from '../../launcher/ports.mjs'
import { openBareServer } from './bareServer'
import { startChild } from './child'
import { perSecond, times, type Section } from './report'
import type { Received } from './subscriber'
import { openOutlet } from '../support/outlet'

const count = 10_000
const feedEveryMs = 200
const seconds = 6

interface Served {
  url: string
  namespace: string
  feed(round: number): void
  close(): Promise<void>
}

const serveOurs = async (): Promise<Served> => {
  const port = await freePort()
  const { session, table, tag } = await openOutlet({ doors: [{ port }] })
  const tags = Array.from({ length: count }, (_, i) => tag(`v${i}`))
  session.setTags(tags, [])
  while (session.status().flow !== 'flowing') await new Promise((resolve) => setTimeout(resolve, 20))
  return {
    url: `opc.tcp://127.0.0.1:${port}`,
    namespace: tagNamespace,
    feed: (round) => {
      const now = Date.now()
      for (const { handle } of tags) table.set(handle, round + handle / count, quality.Good, now)
      table.flush()
    },
    close: async () => {
      await session.close()
    },
  }
}

/** A bare server of the same package, its variables set in a loop. */
const servePlain = async (): Promise<Served> => {
  const namespace = 'urn:bench'
  const { server, port, variables } = await openBareServer(namespace, count)
  return {
    url: `opc.tcp://127.0.0.1:${port}`,
    namespace,
    feed: (round) =>
      variables.forEach((variable, i) => variable.setValueFromSource({ dataType: DataType.Double, value: round + i / count })),
    close: () => server.shutdown(0),
  }
}

/** Feeds all values at a steady pace; changes that reached the subscriber per second, and our processor time for each thousand. */
const measure = async (served: Served, samplingInterval: number) => {
  served.feed(0)
  const nodes = JSON.stringify({ prefix: 'v', count, namespace: served.namespace })
  const env = { CONDUIT_BENCH_URL: served.url, CONDUIT_BENCH_NODES: nodes, CONDUIT_BENCH_SAMPLING: String(samplingInterval) }
  const { child } = await startChild('subscriber.ts', env)
  const received = async () => {
    child.send('?')
    return ((await once(child, 'message'))[0] as Received).received
  }
  let round = 0
  const timer = setInterval(() => served.feed(++round), feedEveryMs)
  await new Promise((resolve) => setTimeout(resolve, 1500))
  const [before, cpu, started] = [await received(), process.cpuUsage(), performance.now()]
  await new Promise((resolve) => setTimeout(resolve, seconds * 1000))
  const [after, used, ended] = [await received(), process.cpuUsage(cpu), performance.now()]
  clearInterval(timer)
  child.kill()
  const changes = after - before
  return { rate: changes / ((ended - started) / 1000), cpuMs: (used.user + used.system) / 1000 / (changes / 1000) }
}

const both = async (samplingInterval: number) => {
  const plainServer = await servePlain()
  const plain = await measure(plainServer, samplingInterval)
  await plainServer.close()
  const ourServer = await serveOurs()
  const ours = await measure(ourServer, samplingInterval)
  await ourServer.close()
  return { ours, plain }
}

export const opcuaCase = async (): Promise<Section> => {
  const onChange = await both(0)
  const sampled = await both(100)
  const rows = [
    ['notified on change', onChange],
    ['sampled every 100 ms', sampled],
  ] as const
  return {
    title: '10,000 changing tags to one OPC UA subscriber',
    how: `All values change every ${feedEveryMs} ms (50,000 changes a second are offered), publishing every 100 ms. Changes that arrive at a subscriber in another process, and processor time of the serving process for each thousand of them. Plain: a bare \`node-opcua\` server whose variables are set in a loop.`,
    rows: rows.flatMap(([what, { ours, plain }]) => [
      { what, ours: perSecond(ours.rate), plain: perSecond(plain.rate), ratio: times(ours.rate / plain.rate), aim: 'at least 0.9' },
      {
        what: `${what}, processor time per 1,000`,
        ours: `${ours.cpuMs.toFixed(1)} ms`,
        plain: `${plain.cpuMs.toFixed(1)} ms`,
        ratio: times(ours.cpuMs / plain.cpuMs),
        aim: '—',
      },
    ]),
  }
}

import { once } from 'node:events'
import type { ChildProcess } from 'node:child_process'
import { AttributeIds, BrowseDirection, OPCUAClient, type ClientSession, type NodeId } from 'node-opcua'
import { quality } from '#core/tags/quality'
import { branch } from '#engine/links/opcua/crawl'
import { Explorer } from '#engine/links/opcua/browse'
import { Services } from '#engine/links/opcua/services'
import { startChild } from './child'
import type { Piped } from './pipe'
import { perSecond, times, type Section } from './report'
import type { Received } from './subscriber'

const count = 10_000
const linkPublishing = 20
const settleMs = 6000
const seconds = 8

const ask = async <T>(child: ChildProcess, words: unknown): Promise<T> => {
  child.send(words as string)
  return ((await once(child, 'message')) as [T])[0]
}

interface Run {
  rate: number
  cpuMs: number
  p50: number
  p99: number
}

/** Source, pipe and subscriber each in a process of its own; the same for both pipes. */
const run = async (script: string, offered: number): Promise<Run> => {
  const source = await startChild<number>('uaSource.ts', { CONDUIT_BENCH_COUNT: String(count) })
  const between = await startChild<Piped>(script, {
    CONDUIT_BENCH_SOURCE: String(source.first),
    CONDUIT_BENCH_COUNT: String(count),
    CONDUIT_BENCH_PUBLISHING: String(linkPublishing),
  })
  const { port, namespace } = between.first
  const subscriber = await startChild('subscriber.ts', {
    CONDUIT_BENCH_URL: `opc.tcp://127.0.0.1:${port}`,
    CONDUIT_BENCH_NODES: JSON.stringify({ prefix: 'v', count, namespace }),
    CONDUIT_BENCH_SAMPLING: '0',
  })
  source.child.send(offered)
  await new Promise((resolve) => setTimeout(resolve, settleMs))
  const before = await ask<Received>(subscriber.child, 'start')
  const [used, started] = [await ask<number>(between.child, '?'), performance.now()]
  await new Promise((resolve) => setTimeout(resolve, seconds * 1000))
  const after = await ask<Received>(subscriber.child, 'times')
  const [usedAfter, ended] = [await ask<number>(between.child, '?'), performance.now()]
  for (const { child } of [subscriber, between, source]) child.kill()
  const changes = after.received - before.received
  return {
    rate: changes / ((ended - started) / 1000),
    cpuMs: (usedAfter - used) / (changes / 1000),
    p50: after.p50,
    p99: after.p99,
  }
}

/** Turn and turn about, and the middle of three: a machine with few cores has its moods. */
const both = async (offered: number) => {
  const runs: { plain: Run; ours: Run }[] = []
  for (let i = 0; i < 3; i++) runs.push({ plain: await run('pipePlain.ts', offered), ours: await run('pipeOurs.ts', offered) })
  return { plain: middle(runs.map(({ plain }) => plain)), ours: middle(runs.map(({ ours }) => ours)) }
}

const middle = (runs: Run[]): Run => {
  const of = (what: keyof Run) => runs.map((one) => one[what]).sort((a, b) => a - b)[1]!
  return { rate: of('rate'), cpuMs: of('cpuMs'), p50: of('p50'), p99: of('p99') }
}

/** Everything that is needed to make tags of a folder: our walk, and a script that browses and reads. */
const browseBoth = async () => {
  const source = await startChild<number>('uaSource.ts', { CONDUIT_BENCH_COUNT: String(count) })
  const client = OPCUAClient.create({ endpointMustExist: false })
  await client.connect(`opc.tcp://127.0.0.1:${source.first}`)
  const session = await client.createSession()
  const namespaces = await session.readNamespaceArray()
  const plain = await timed(() => browsedByHand(session, `ns=${namespaces.indexOf('urn:bench')};s=cranes`))
  const ours = await timed(() => browsedByUs(new Explorer(new Services(session), namespaces)))
  if (plain.result !== count || ours.result !== count) throw new Error(`Browsed ${plain.result} and ${ours.result} of ${count} nodes.`)
  await client.disconnect()
  source.child.kill()
  return { plain: plain.ms, ours: ours.ms }
}

const timed = async (work: () => Promise<number>) => {
  const started = performance.now()
  const result = await work()
  return { result, ms: performance.now() - started }
}

const browsedByUs = async (explorer: Explorer) => {
  let found = 0
  const place = { address: 'nsu=urn:bench;s=cranes', member: '' }
  for await (const { points } of branch(explorer, place, new AbortController().signal))
    found += points.filter(({ details }) => details.quality === quality.Good && details.type === 'float64').length
  return found
}

const attributes = [AttributeIds.DataType, AttributeIds.ValueRank, AttributeIds.AccessLevel, AttributeIds.Description, AttributeIds.Value]

/** As a script does it: browse, then the properties for unit and range, then the attributes, a hundred nodes at a time. */
const browsedByHand = async (session: ClientSession, folder: string) => {
  let found = 0
  const nodeIds: NodeId[] = []
  let page = await session.browse({ nodeId: folder, browseDirection: BrowseDirection.Forward, resultMask: 63 })
  for (;;) {
    nodeIds.push(...(page.references ?? []).map(({ nodeId }) => nodeId))
    if (!page.continuationPoint) break
    page = await session.browseNext(page.continuationPoint, false)
  }
  for (let from = 0; from < nodeIds.length; from += 100) {
    const part = nodeIds.slice(from, from + 100)
    await session.browse(
      part.map((nodeId) => ({ nodeId, browseDirection: BrowseDirection.Forward, referenceTypeId: 'i=46', resultMask: 63 })),
    )
    const values = await session.read(part.flatMap((nodeId) => attributes.map((attributeId) => ({ nodeId, attributeId }))))
    found += values.filter(({ statusCode }, i) => i % attributes.length === attributes.length - 1 && statusCode.isGood()).length
  }
  return found
}

const ms = (value: number) => `${value.toFixed(value < 10 ? 1 : 0)} ms`

export const pipeCase = async (): Promise<Section> => {
  const browsed = await browseBoth()
  const steady = await both(20_000)
  const most = await both(60_000)
  const rowsOf = (what: string, { ours, plain }: Awaited<ReturnType<typeof both>>, isAim: boolean) => [
    {
      what,
      ours: perSecond(ours.rate),
      plain: perSecond(plain.rate),
      ratio: times(ours.rate / plain.rate),
      aim: isAim ? 'at least 0.9' : '—',
    },
    {
      what: `${what}, processor time per 1,000`,
      ours: ms(ours.cpuMs),
      plain: ms(plain.cpuMs),
      ratio: times(ours.cpuMs / plain.cpuMs),
      aim: isAim ? 'at most 1.2' : '—',
    },
    { what: `${what}, source to client, median`, ours: ms(ours.p50), plain: ms(plain.p50), ratio: times(ours.p50 / plain.p50), aim: '—' },
    {
      what: `${what}, source to client, 99th percentile`,
      ours: ms(ours.p99),
      plain: ms(plain.p99),
      ratio: times(ours.p99 / plain.p99),
      aim: isAim ? 'at most 120 ms' : '—',
    },
  ]
  return {
    title: '10,000 OPC UA nodes from a server to a client of our own server',
    how: `Source, pipe and client in three processes on this machine; the middle of three runs of each. The source is read with a publishing interval of ${linkPublishing} ms, the client asks for 100 ms. Plain: a client session whose notifications are set in the variables of a bare server, same package. Browsing: a folder of 10,000 variables with type, access, description, unit, range and value of each, and a look below each; plain: the same by hand, a hundred nodes at a time, without the look below.`,
    rows: [
      {
        what: 'browse 10,000 nodes, ready to be taken',
        ours: `${(browsed.ours / 1000).toFixed(1)} s`,
        plain: `${(browsed.plain / 1000).toFixed(1)} s`,
        ratio: times(browsed.plain / browsed.ours),
        aim: 'at least 0.9',
      },
      ...rowsOf('20,000 changes a second offered', steady, true),
      ...rowsOf('60,000 changes a second offered, more than these processors carry', most, false),
    ],
  }
}

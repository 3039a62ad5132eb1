import { appendFileSync, existsSync, mkdirSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import pg from 'pg'
import { startCluster } from '../support/cluster'
import { describedCalls } from '../support/describedCalls'
import { startMariadb } from '../support/mariadb'
import { startBroker } from '../support/mqttBroker'
import { startSite, type Site } from '../support/site'
import { Chance, pause } from './chance'

/**
 * Whether *keep until delivered* holds: lines of two files go to PostgreSQL, MariaDB, a broker with QoS 1 and a CSV file at
 * once, while the engine is killed again and again, each receiver is away for a part of the time, and our own database is killed.
 */
interface Options {
  records: number
  engineKills: number
  /** In so many steps it comes, with something happening at most of them. */
  steps?: number
  seed: number
  tell(text: string): void
}

interface Found {
  missing: number
  repeated: number
  /** Where one came before another that was read before it, the first time each came. */
  outOfOrder: number
}

export interface DeliveryReport {
  records: number
  seconds: number
  engineKills: number
  databaseKills: number
  found: Record<string, Found>
  problems: string[]
}

interface Receiver {
  name: string
  destination: object
  /** With a key, or as a file, none may come twice. */
  mayRepeat: boolean
  away(): Promise<unknown> | void
  back(): Promise<unknown> | void
  /** What arrived, in the order in which it did, as in a:17. */
  arrived(): Promise<string[]>
}

const sources = ['a', 'b'] as const
const fields = ['source', 'n'].map((name) => ({ into: name, from: `line_${name}` }))

export const proveDelivery = async ({ records, engineKills, steps = 40, seed, tell }: Options): Promise<DeliveryReport> => {
  const [chance, began] = [new Chance(seed), Date.now()]
  const [site, cluster, maria] = await Promise.all([startSite(), startCluster(), startMariadb()])
  const closing: (() => unknown)[] = [() => site.stop(), () => cluster.stop(), () => maria.stop()]
  try {
    const folder = join(site.folder, 'files', 'exchange')
    for (const part of ['in', 'out']) mkdirSync(join(folder, part), { recursive: true })
    const receivers = await receiversFor({ site, cluster, maria, folder, closing })
    const { call } = await describedCalls(site)
    const files = await call('POST', '/links', { name: 'Exchange', kind: 'files', settings: { folder: 'exchange' } })
    const linkId = files.body.id as number
    await call('POST', '/bridges', {
      name: 'Everything',
      when: [{ kind: 'file', linkId, files: 'in/*.csv', first: 'all', every: 200 }],
      take: [{ name: 'line', kind: 'member', path: '$' }],
      send: receivers.map(({ destination }, i) => ({ linkId, ...destination, number: i + 1, fields })),
    })
    for (const source of sources) writeFileSync(join(folder, 'in', `${source}.csv`), 'source,n\n')
    const plan = planFor(chance, receivers, engineKills, steps)
    const each = Math.ceil(records / sources.length / steps)
    for (let step = 0; step < steps; step++) {
      for (const source of sources) appendFileSync(join(folder, 'in', `${source}.csv`), linesOf(source, step * each + 1, each))
      await plan.at(step, site, tell)
      await pause(chance.whole(50, 500))
    }
    await plan.end()
    const total = each * steps * sources.length
    const found = await settled(receivers, total, tell)
    const expected = sources.flatMap((source) => Array.from({ length: each * steps }, (_, i) => `${source}:${i + 1}`))
    const report = Object.fromEntries(receivers.map(({ name }, i) => [name, compare(expected, found[i]!)]))
    return {
      ...{ records: total, seconds: Math.round((Date.now() - began) / 1000), engineKills, databaseKills: 2, found: report },
      problems: receivers.flatMap(({ name, mayRepeat }) => problemsOf(name, report[name]!, mayRepeat)),
    }
  } finally {
    for (const close of closing.reverse()) await close()
  }
}

const linesOf = (source: string, from: number, count: number) => Array.from({ length: count }, (_, i) => `${source},${from + i}\n`).join('')

/** Which step kills what, and from when to when each receiver is away: the same for the same seed. */
const planFor = (chance: Chance, receivers: readonly Receiver[], engineKills: number, steps: number) => {
  const gap = Math.ceil(steps / 5)
  const kills = Array.from({ length: engineKills }, () => chance.whole(1, steps - 1))
  const databaseKills = [chance.whole(1, steps >> 1), chance.whole(steps >> 1, steps - 1)]
  const gaps = receivers.map(() => chance.whole(1, steps - gap - 1))
  const isAway = receivers.map(() => false)
  return {
    at: async (step: number, site: Site, tell: (text: string) => void) => {
      for (const [i, receiver] of receivers.entries()) {
        if (step === gaps[i]) await receiver.away()
        if (step === gaps[i]! + gap) await receiver.back()
        isAway[i] = step >= gaps[i]! && step < gaps[i]! + gap
      }
      for (const kill of databaseKills) if (kill === step) await site.kill('database')
      for (const kill of kills) if (kill === step) await site.kill('engine')
      tell(`step ${step + 1} of ${steps}: away ${receivers.flatMap(({ name }, i) => (isAway[i] ? [name] : [])).join(', ') || 'nobody'}`)
    },
    end: async () => {
      for (const [i, receiver] of receivers.entries()) if (isAway[i]) await receiver.back()
    },
  }
}

const longestStandstillMs = 120_000

/** What arrived, once all of it did or nothing more comes. */
const settled = async (receivers: readonly Receiver[], total: number, tell: (text: string) => void): Promise<string[][]> => {
  let [best, since] = [-1, Date.now()]
  for (;;) {
    const found = await Promise.all(receivers.map((receiver) => receiver.arrived()))
    const distinct = found.map((all) => new Set(all).size)
    if (distinct.every((count) => count >= total)) return found
    const sum = distinct.reduce((a, b) => a + b, 0)
    if (sum > best) [best, since] = [sum, Date.now()]
    if (Date.now() - since > longestStandstillMs) return found
    tell(`arrived ${receivers.map(({ name }, i) => `${name} ${distinct[i]}`).join(', ')} of ${total}`)
    await pause(2000)
  }
}

const compare = (expected: readonly string[], arrived: readonly string[]): Found => {
  const distinct = [...new Set(arrived)]
  const there = new Set(distinct)
  const last = new Map<string, number>()
  let outOfOrder = 0
  for (const one of distinct) {
    const [source = '', n] = one.split(':')
    if (Number(n) < (last.get(source) ?? 0)) outOfOrder++
    last.set(source, Math.max(Number(n), last.get(source) ?? 0))
  }
  return { missing: expected.filter((one) => !there.has(one)).length, repeated: arrived.length - distinct.length, outOfOrder }
}

const problemsOf = (name: string, { missing, repeated, outOfOrder }: Found, mayRepeat: boolean): string[] => [
  ...(missing > 0 ? [`${name}: ${missing} are missing`] : []),
  ...(outOfOrder > 0 ? [`${name}: ${outOfOrder} out of order`] : []),
  ...(repeated > 0 && !mayRepeat ? [`${name}: ${repeated} came twice`] : []),
]

interface Around {
  site: Site
  cluster: Awaited<ReturnType<typeof startCluster>>
  maria: Awaited<ReturnType<typeof startMariadb>>
  folder: string
  closing: (() => unknown)[]
}

const receiversFor = async ({ site, cluster, maria, folder, closing }: Around): Promise<Receiver[]> => {
  const { call } = await describedCalls(site)
  const link = async (draft: object) => (await call('POST', '/links', draft)).body.id as number
  const { hostname, port, username, password } = new URL(cluster.url)
  const account = { user: username, password: { plain: decodeURIComponent(password) } }
  const patience = { retryFirst: 100, retryMost: 500 }
  const postgres = { dialect: 'postgresql', host: hostname, port: Number(port), database: 'postgres', ...account, patience }
  const [book, office] = [
    await link({ name: 'Book', kind: 'sql', settings: postgres }),
    await link({ name: 'Office', kind: 'sql', settings: { ...maria.settings, patience } }),
  ]
  const asked = async (text: string) => {
    const client = new pg.Client({ connectionString: cluster.url })
    await client.connect()
    const { rows } = await client.query(text).finally(() => client.end())
    return rows as { source: string; n: number }[]
  }
  await asked('create table counted (source text, n integer, seq bigserial, primary key (source, n))')
  await maria.query('create table counted (source varchar(9), n integer, seq bigint auto_increment unique, primary key (source, n))')
  const all = 'select source, n from counted order by seq'
  const named = (rows: readonly { source?: unknown; n?: unknown }[]) => rows.map(({ source, n }) => `${String(source)}:${String(n)}`)
  const upsert = { kind: 'table', table: 'counted', how: 'upsert', key: ['source', 'n'] }
  return [
    {
      ...{ name: 'PostgreSQL', destination: { ...upsert, linkId: book }, mayRepeat: false },
      ...{ away: () => cluster.end(), back: () => cluster.again(), arrived: async () => named(await asked(all)) },
    },
    {
      ...{ name: 'MariaDB', destination: { ...upsert, linkId: office }, mayRepeat: false },
      ...{ away: () => maria.end('SIGKILL'), back: () => maria.again(), arrived: async () => named(await maria.query(all)) },
    },
    await brokerReceiver(link, closing),
    csvReceiver(folder),
  ]
}

const brokerReceiver = async (link: (draft: object) => Promise<number>, closing: (() => unknown)[]): Promise<Receiver> => {
  const arrived: string[] = []
  const hear = (broker: Awaited<ReturnType<typeof startBroker>>) =>
    broker.broker.subscribe(
      'delivered',
      ({ payload }, done) => {
        const { source, n } = JSON.parse(payload.toString()) as { source: string; n: number }
        arrived.push(`${source}:${n}`)
        done()
      },
      () => {},
    )
  let broker = await startBroker()
  const { port } = broker
  hear(broker)
  closing.push(() => broker.stop())
  const settings = { host: '127.0.0.1', port, version: '3.1.1', patience: { retryFirst: 100, retryMost: 500, answer: 3000 } }
  const linkId = await link({ name: 'Their broker', kind: 'mqtt', settings })
  return {
    ...{ name: 'broker', destination: { kind: 'topic', linkId, topic: 'delivered', qos: 1 }, mayRepeat: true },
    away: () => broker.stop(),
    back: async () => hear((broker = await startBroker({}, port))),
    arrived: () => Promise.resolve([...arrived]),
  }
}

/** Away: a file stands where its folder was. */
const csvReceiver = (folder: string): Receiver => {
  const [out, aside] = [join(folder, 'out'), join(folder, 'out.away')]
  return {
    ...{ name: 'CSV', destination: { kind: 'file', name: 'out/delivered.csv' }, mayRepeat: false },
    away: () => {
      renameSync(out, aside)
      writeFileSync(out, '')
    },
    back: () => {
      rmSync(out)
      renameSync(aside, out)
    },
    arrived: () => {
      const file = join(out, 'delivered.csv')
      const lines = existsSync(file) ? readFileSync(file, 'utf8').split('\r\n').slice(1) : []
      return Promise.resolve(lines.filter(Boolean).map((line) => line.replace(',', ':')))
    },
  }
}

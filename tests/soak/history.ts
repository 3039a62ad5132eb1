import { describedCalls } from '../support/describedCalls'
import { pointBody } from '../support/tagBodies'
import { startSite, type Site } from '../support/site'
import { until } from '../support/until'
import { hourOf, minuteOf } from '#core/history/minuteBuckets'
import { rollupWays, type RollupWay } from '#core/equipment/settings'
import { grouped } from '#core/lists/grouped'
import { Chance, pause } from './chance'
import { asked, inForce, recordedBy, slowRollup, type Recorded } from './historyReference'
import { keyOf, Source, type Made } from './historySource'

/**
 * Whether history and rollups are right after everything that may happen to them: an hour of a plant, sent in a fraction of
 * that, partly late, twice and corrected; meanwhile a second group of tags is live. The engine is killed and stopped, the
 * database killed and stopped, the way to the plant cut.
 */
interface Options {
  /** How much time of the plant is sent. */
  plantMinutes: number
  /** In how much time. */
  seconds: number
  seed: number
  tell(text: string): void
}

export interface HistoryReport {
  samples: number
  late: number
  twice: number
  corrected: number
  /** Sent again at the end, as it may not have arrived. */
  again: number
  happened: string[]
  recorded: number
  windows: number
  buckets: number
  problems: string[]
}

const pastLines = 6
const liveLines = 3
const minuteMs = 60_000
/** Windows are told by then at the latest. */
const tellMs = 5000

interface Rolled {
  name: string
  how: RollupWay
  seconds: number
  over: number
}
const rolled: Rolled[] = [
  ...rollupWays.filter((how) => how !== 'time true').map((how, i) => ({ name: `r${i}`, how, seconds: 10, over: 1 })),
  { name: 'least_5min', how: 'min', seconds: 60, over: 5 },
  { name: 'mean_5min', how: 'mean by time', seconds: 60, over: 5 },
  { name: 'sum_1min', how: 'sum', seconds: 10, over: 6 },
  { name: 'count_1min', how: 'count', seconds: 60, over: 1 },
]

export const proveHistory = async ({ plantMinutes, seconds, seed, tell }: Options): Promise<HistoryReport> => {
  const chance = new Chance(seed)
  const [site, source] = await Promise.all([startSite(), Source.start(chance.apart())])
  try {
    await setUp(site, source)
    const began = Date.now()
    const hour = { from: Math.floor(began / minuteMs - plantMinutes - 2) * minuteMs, to: Math.floor(began / minuteMs - 2) * minuteMs }
    const plan = planFor(chance, hour, seconds)
    const isOver = () => Date.now() - began > seconds * 1000
    const happened: string[] = []
    const [counts] = await Promise.all([
      sendPast(source, plan, began, seconds),
      sendLive(source, isOver),
      harm(site, source, chance.apart(), isOver, happened, tell),
    ])
    tell('All of it was sent; waiting until it is stored')
    await settled(site)
    const early = await recordedBy(site.databaseUrl, 'source')
    const lost = missing(source, early)
    const again = await source.sendDoubtful()
    tell(`${again} samples are sent again`)
    await pause(2000)
    await settled(site)
    const end = Date.now()
    await pause(tellMs)
    await settled(site)
    const found = await judged(site, source, { from: hour.from, to: end }, lost)
    return { samples: source.sent.size, ...counts, again, happened, ...found }
  } finally {
    await site.stop()
    await source.stop()
  }
}

const lineNames = [
  ...Array.from({ length: pastLines }, (_, i) => `past_${i + 1}`),
  ...Array.from({ length: liveLines }, (_, i) => `live_${i + 1}`),
]

const setUp = async (site: Site, source: Source) => {
  const { call } = await describedCalls(site)
  const made = async (path: string, body: object) => {
    const { status, body: answer } = await call('POST', path, body)
    if (status !== 200) throw new Error(JSON.stringify(answer))
    return answer
  }
  const patience = { retryFirst: 100, retryMost: 1000 }
  const session = { keep: true }
  const settings = { host: '127.0.0.1', port: source.port, version: '3.1.1', clientId: 'hall', session, patience }
  const link = await made('/links', { name: 'Plant', kind: 'mqtt', settings })
  for (const pattern of ['source/**', 'Hall/**']) await made('/recordings', { pattern, how: { kind: 'change' } })
  const options = { path: '$.v', time: '$.t' }
  await made('/tags', {
    tags: lineNames.map((name) =>
      pointBody({ path: `source/${name}`, linkId: link.id as number, address: name, type: 'float64', access: 'read', options }),
    ),
  })
  await made('/equipment-classes', {
    name: 'Line',
    properties: [
      { name: 'power', made: { kind: 'input' } },
      ...rolled.map(({ name, how, seconds, over }) => ({
        name,
        made: {
          kind: 'rollup',
          of: 'power',
          how,
          window: seconds < 60 ? { count: seconds, unit: 'second' } : { count: seconds / 60, unit: 'minute' },
          over,
        },
      })),
    ],
  })
  await made('/equipment', { path: 'Hall' })
  for (const name of lineNames) await made('/equipment', { path: `Hall/${name}`, class: 'Line', bindings: { power: `source/${name}` } })
  await until(
    async () => ((await site.api('/status')) as { history: { tags: number } }).history.tags >= lineNames.length * (rolled.length + 2),
  )
}

interface Planned extends Made {
  /** When it is sent: which part of the whole time is over by then. */
  when: number
}

/** What is sent when: most of it in order, some late, some twice, some of it wrong first. */
const planFor = (chance: Chance, hour: { from: number; to: number }, seconds: number) => {
  const counts = { late: 0, twice: 0, corrected: 0 }
  const all: Planned[] = []
  const length = hour.to - hour.from
  for (let line = 1; line <= pastLines; line++) {
    const topic = `past_${line}`
    let n = 0
    for (let at = hour.from + chance.whole(0, 2000); at < hour.to; at += chance.whole(50, 3000 * line)) {
      const one = { topic, at, value: line * 1000 + (n++ % 997) + chance.next() }
      const when = (at - hour.from) / length
      const kind = chance.next()
      if (kind < 0.05) counts.late++
      all.push({ ...one, when: kind < 0.05 ? when + (1 - when) * chance.next() : when })
      if (kind >= 0.05 && kind < 0.07 && ++counts.twice) all.push({ ...one, when: when + 0.01 })
      if (kind >= 0.07 && kind < 0.08 && ++counts.corrected)
        all.push({ ...one, value: one.value + 0.5, when: when + (1 - when) * chance.next() + 2 / seconds })
    }
  }
  return { counts, all: all.sort((a, b) => a.when - b.when) }
}

const sendPast = async (source: Source, { all, counts }: ReturnType<typeof planFor>, began: number, seconds: number) => {
  for (const one of all) {
    const due = began + one.when * seconds * 1000
    if (due > Date.now() + 5) await pause(due - Date.now())
    await source.send(one)
  }
  return counts
}

const sendLive = async (source: Source, isOver: () => boolean) => {
  for (let n = 0; !isOver(); n++) {
    for (let line = 1; line <= liveLines; line++) await source.send({ topic: `live_${line}`, at: Date.now(), value: line * 100 + (n % 89) })
    await pause(200)
  }
}

const harm = async (site: Site, source: Source, chance: Chance, isOver: () => boolean, happened: string[], tell: Options['tell']) => {
  const stop = async (name: string, ms: number) => {
    const pid = site.pids()[name]
    if (pid === undefined) return
    process.kill(pid, 'SIGSTOP')
    await pause(ms)
    if (site.pids()[name] === pid) process.kill(pid, 'SIGCONT')
  }
  const harms: [string, () => Promise<unknown> | void][] = [
    ['engine killed', () => (source.killed(), site.kill('engine'))],
    ['database killed', () => site.kill('database')],
    ['database stopped', () => stop('database', chance.whole(2000, 9000))],
    ['engine stopped', () => stop('engine', chance.whole(500, 4000))],
    ['way to the plant cut', () => source.cut()],
  ]
  for (let i = 0; !isOver(); i++) {
    await pause(chance.whole(2500, 6000))
    const [what, work] = i < harms.length ? harms[i]! : chance.oneOf(harms)
    if (isOver()) return
    happened.push(`${new Date().toISOString()} ${what}`)
    tell(what)
    await work()
  }
}

/** Nothing waits, is late, or is to be made again. */
const settled = async (site: Site) => {
  const state = async () => {
    const { history } = (await site.api('/status')) as { history: { waiting: number } }
    const [left] = await asked<{ late: number; again: number }>(
      site.databaseUrl,
      'select (select count(*)::int from history_late) as late, (select count(*)::int from history_again) as again',
    )
    return { waiting: history.waiting, ...left! }
  }
  let quiet = 0
  await until(
    async () => {
      const { waiting, late, again } = await state().catch(() => ({ waiting: 1, late: 1, again: 1 }))
      // what comes from tags that are live waits for a moment all the time
      quiet = waiting < 2000 && late === 0 && again === 0 ? quiet + 1 : 0
      return quiet
    },
    (times) => times >= 20,
    240,
  )
}

/** What was acknowledged well before a kill, and is not there. */
const missing = (source: Source, recorded: ReadonlyMap<string, Recorded[]>): string[] =>
  lineNames.flatMap((name) => {
    const there = new Set((recorded.get(`source/${name}`) ?? []).map(({ at, value }) => `${at} ${value}`))
    const lost = source.of(name).filter((one) => source.isSafe(one) && !there.has(`${one.at} ${one.value}`))
    return lost.length > 0
      ? [
          `${name}: ${lost.length} were acknowledged and lost, the first of ${new Date(lost[0]!.at).toISOString()}, acknowledged at ${new Date(lost[0]!.ackedAt!).toISOString()}`,
        ]
      : []
  })

interface Span {
  from: number
  to: number
}

const judged = async (site: Site, source: Source, span: Span, lost: readonly string[]) => {
  const [plant, hall] = [await recordedBy(site.databaseUrl, 'source'), await recordedBy(site.databaseUrl, 'Hall')]
  const problems = [...lost]
  let windows = 0
  for (const name of lineNames) {
    problems.push(...sampleProblems(`source/${name}`, source, name, plant), ...sampleProblems(`Hall/${name}/power`, source, name, hall))
    for (const one of rolled) {
      const found = windowProblems(hall.get(`Hall/${name}/power`) ?? [], hall.get(`Hall/${name}/${one.name}`) ?? [], one, span)
      windows += found.windows
      if (found.wrong.length > 0)
        problems.push(`${name} ${one.name} (${one.how}): ${found.wrong.length} of ${found.windows} windows are wrong, as ${found.wrong[0]}`)
    }
  }
  const made = await bucketProblems(site, plant)
  problems.push(...made.problems)
  return { recorded: [...plant.values()].reduce((sum, rows) => sum + rows.length, 0), windows, buckets: made.buckets, problems }
}

/** All that was sent is there with its last value, nothing else is good, and nothing is there oftener than it was sent. */
const sampleProblems = (path: string, source: Source, topic: string, recorded: ReadonlyMap<string, Recorded[]>): string[] => {
  const rows = recorded.get(path) ?? []
  const holds = new Map(inForce(rows).map((one) => [one.at, one]))
  const sent = source.of(topic)
  const absent = sent.filter(({ at, value }) => holds.get(at)?.value !== value)
  const times = new Set(sent.map(({ at }) => at))
  const values = new Set(sent.map(({ value }) => value))
  // what a tag has when somebody begins to record it is recorded as of then
  const invented = rows.filter(({ at, value }) => !Number.isNaN(value) && !times.has(at) && !values.has(value))
  const often = [
    ...grouped(
      rows.filter(({ at, value }) => times.has(at) && !Number.isNaN(value)),
      ({ at }) => at,
    ),
  ].filter(([at, all]) => all.length > (source.times.get(keyOf(topic, at)) ?? 0))
  const told = (what: string, all: readonly unknown[]) =>
    all.length > 0 ? [`${path}: ${all.length} ${what}, as ${JSON.stringify(all[0])}`] : []
  return [
    ...told('are missing or have another value', absent),
    ...told('were never sent', invented),
    ...told('are there oftener than sent', often),
  ]
}

const windowProblems = (power: readonly Recorded[], told: readonly Recorded[], { how, seconds, over }: Rolled, { from, to }: Span) => {
  const samples = inForce(power)
  const said = inForce(told)
  const first = samples[0]?.at ?? to
  const wrong: string[] = []
  let windows = 0
  let next = 0
  for (let end = Math.ceil(first / (seconds * 1000)) * seconds * 1000; end <= to; end += seconds * 1000) {
    if (end < from) continue
    while (next < said.length && said[next]!.at <= end) next++
    const found = said[next - 1]
    const wanted = slowRollup(how, samples, end - over * seconds * 1000, end)
    windows++
    if (agrees(found, wanted, over)) continue
    const within = samples.filter(({ at }) => at >= end - over * seconds * 1000 && at < end)
    wrong.push(`${new Date(end).toISOString()}: ${JSON.stringify(found)} for ${JSON.stringify(wanted)} of ${JSON.stringify(within)}`)
  }
  return { windows, wrong }
}

/** Least, most, counts and sums to the last bit; what is divided or put together from parts to twelve digits. */
const agrees = (found: Recorded | undefined, wanted: { value: number | null; isGood: boolean }, over: number): boolean => {
  if (found === undefined) return wanted.value === null
  if (wanted.isGood !== (found.quality >>> 30 === 0)) return false
  if (!wanted.isGood || wanted.value === null) return true
  return over === 1 && found.value === wanted.value
    ? true
    : Math.abs(found.value - wanted.value) <= 1e-9 * Math.max(1, Math.abs(wanted.value))
}

/** Minutes and hours, made of all samples anew. */
const bucketProblems = async (site: Site, plant: ReadonlyMap<string, Recorded[]>) => {
  const problems: string[] = []
  let buckets = 0
  for (const tier of ['minute', 'hour'] as const) {
    const rows = await asked<{
      path: string
      at: Date
      count: number
      good: number
      sum: number | null
      min: number | null
      integral: number
    }>(
      site.databaseUrl,
      // one that is not over is made while it goes on, where something of it came late
      `select path, at, count, good, sum, min, integral from history_${tier} join history_series on id = series
        where path like 'source/%' and at + interval '1 ${tier}' <= (select min(${tier}s_to) from history_state)`,
    )
    for (const { path, at, ...row } of rows) {
      const start = at.getTime()
      const wanted = bucketOf(tier, start, inForce(plant.get(path) ?? []))
      buckets++
      const found = { ...row, sum: row.sum ?? NaN, min: row.min ?? NaN }
      const right = { count: wanted.count, good: wanted.good, sum: wanted.sum, min: wanted.min, integral: wanted.integral }
      if (JSON.stringify(found) !== JSON.stringify(right))
        problems.push(`${path} ${tier} ${at.toISOString()}: ${JSON.stringify(found)} for ${JSON.stringify(right)}`)
    }
  }
  return { buckets, problems }
}

const bucketOf = (tier: 'minute' | 'hour', start: number, samples: readonly Recorded[]) => {
  const minute = (at: number) => {
    const within = samples.filter((one) => one.at >= at && one.at < at + minuteMs)
    return minuteOf(
      at,
      within.map((one) => one.at),
      within.map(({ value }) => value),
    ).minute
  }
  if (tier === 'minute') return minute(start)
  return hourOf(
    start,
    Array.from({ length: 60 }, (_, i) => minute(start + i * minuteMs)).filter(({ count }) => count > 0),
  )
}

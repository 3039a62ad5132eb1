import { join } from 'node:path'
import pg from 'pg'
import { from as copyFrom } from 'pg-copy-streams'
import { Readable } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import { classContract, equipmentContract } from '#core/equipment/settings'
import { propertyTags } from '#core/equipment/made'
import { Model } from '#core/equipment/model'
import { recordingContract } from '#core/history/settings'
import { quality } from '#core/tags/quality'
import { changeConfiguration } from '#db/configuration'
import { connect } from '#db/connect'
import { HistoryReader } from '#db/history/reader'
import { makePart, partAt } from '#db/history/parts'
import { CopyRows, wholeCopy } from '#db/history/copyRows'
import { Engine } from '#engine/engine'
import { tagOfProperty } from '#shared/equipment/tags'
import { tagDraft } from '#shared/tags'
import { applyBulk, bulkNow } from '../../server/equipment/bulk'
import { configure } from '../support/configured'
import { stateFolderFor, type Closing } from '../support/engineOn'
import { blankMemory } from '../support/memory'
import { memoryJournal } from '../support/modbusSession'
import { testSecurity } from '../support/security'

/** Recording, pictures of what was recorded, rollups, and equipment from a table, each beside the plain way. */

const url = process.env.CONDUIT_BENCH_DATABASE!
const closing: Closing = []
const client = new pg.Client({ connectionString: url })
await client.connect()
const db = connect(url)
const saved = { revision: 1 }

const engineWith = async (store: boolean) =>
  new Engine({
    ...{ node: 'bench', journal: memoryJournal(), security: await testSecurity(), memory: blankMemory() },
    ...(store ? { history: { databaseUrl: url, folder: join(stateFolderFor(closing), 'history') } } : {}),
  })
const secondsOf = async (work: () => Promise<unknown>) => {
  const began = performance.now()
  await work()
  return (performance.now() - began) / 1000
}
const countOf = async (table: string) => Number((await client.query<{ n: string }>(`select count(*) as n from ${table}`)).rows[0]!.n)
const rest = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms))

/** Samples of 1,000 tags on their way from the tag table into the database. @returns samples a second */
const recordedByUs = async (rounds: number) => {
  const engine = await engineWith(true)
  const tags = Array.from({ length: 1000 }, (_, i) => ({
    ...tagDraft.parse({ path: `bench/${i}`, source: { kind: 'memory', start: -1 }, type: 'float64' }),
    ...{ id: i + 1, ...saved },
  }))
  const recording = { ...recordingContract.parse({ pattern: 'bench/**', how: { kind: 'change' } }), id: 1, ...saved }
  await configure(engine, 1, { tag: tags, recording: [recording] } as never)
  const handles = tags.map(({ id }) => engine.tags.handleOf(id)!)
  while ((await countOf('history_sample')) < 1000) await rest(50)
  const took = await secondsOf(async () => {
    const start = Date.now()
    for (let round = 0; round < rounds; round++) {
      for (const [i, handle] of handles.entries()) engine.table.set(handle, round + i / 1000, quality.Good, Date.now(), start + round)
      engine.table.flush()
      if (round % 10 === 9) await rest(0)
    }
    while ((await countOf('history_sample')) < 1000 * (rounds + 1)) await rest(20)
  })
  await engine.close()
  return (1000 * rounds) / took
}

/** COPY of rows that are ready, into a table like that of samples with its index. */
const copied = async (rounds: number) => {
  await client.query('create table plain (series integer not null, at timestamptz not null, arrived timestamptz not null, quality integer not null, number double precision, text text)') // prettier-ignore
  await client.query('create index plain_series on plain (series, at)')
  const parcels: Uint8Array[][] = []
  const now = Date.now()
  for (let from = 0; from < rounds; from += 100) {
    const rows = new CopyRows()
    for (let round = from; round < Math.min(rounds, from + 100); round++)
      for (let i = 0; i < 1000; i++)
        rows
          .row(6)
          .int4(i + 1)
          .time(now + round)
          .time(now)
          .int4(0)
          .float8(round + i / 1000)
          .null()
    parcels.push(wholeCopy([rows.take()]))
  }
  const took = await secondsOf(async () => {
    for (const parcel of parcels)
      await pipeline(
        Readable.from(parcel),
        client.query(copyFrom('copy plain (series, at, arrived, quality, number, text) from stdin (format binary)')),
      )
  })
  return (1000 * rounds) / took
}

const day = 86_400_000
const midnight = Math.floor(Date.now() / day) * day

/** Samples once a second over days that are over, with the buckets that the writer would have made of them. */
const pastOf = async (series: readonly number[], days: number) => {
  const [from, to] = [midnight - days * day, midnight]
  for (let at = from; at < to; at += day)
    for (const shelf of ['sample', 'second', 'minute', 'hour'] as const) await makePart(client, partAt(shelf, at))
  const span = `timestamptz '${new Date(from).toISOString()}', timestamptz '${new Date(to - 1000).toISOString()}'`
  for (const id of series)
    await client.query(`insert into history_sample select ${id}, at, at, 0, 1000 + 400 * sin(extract(epoch from at) / 600) + 10 * random(), null
      from generate_series(${span}, interval '1 second') at`)
  for (const tier of ['minute', 'hour'] as const)
    await client.query(`insert into history_${tier} (series, at, count, good, min, max, sum, spread, first, last, first_at, last_at, opened_at, holds, integral, seconds)
      select series, date_trunc('${tier}', at), count(*), count(*), min(number), max(number), sum(number), var_pop(number) * count(*),
        (array_agg(number order by at))[1], (array_agg(number order by at desc))[1], min(at), max(at), min(at), true, sum(number), count(*)
      from history_sample where series = any($1) group by 1, 2`, [[...series]]) // prettier-ignore
  await client.query(`insert into history_state values ('past', '', to_timestamp($1), to_timestamp($1)) on conflict (node) do update set minutes_to = excluded.minutes_to, hours_to = excluded.hours_to`, [midnight / 1000]) // prettier-ignore
  await client.query('update history_state set minutes_to = to_timestamp($1), hours_to = to_timestamp($1)', [midnight / 1000])
  await client.query('analyze')
  return { from, to }
}

/** The middle of five, ms. */
const middleOf = async (work: () => Promise<unknown>) => {
  const found: number[] = []
  for (let i = 0; i < 5; i++) found.push((await secondsOf(work)) * 1000)
  return found.sort((a, b) => a - b)[2]!
}

const drawn = async (series: readonly number[], days: number) => {
  const { from, to } = await pastOf(series, days)
  const reader = new HistoryReader(url)
  const ours = await middleOf(() => reader.pictures(series, from, to, 1200))
  // as somebody scripts it: the least and the most of each column, by the database
  const width = (to - from) / 1000 / 1200
  const plain = await middleOf(() =>
    client.query(
      `select series, floor(extract(epoch from at - $2) / $4) as col, min(number), max(number) from history_sample
        where series = any($1) and at >= $2 and at < $3 group by 1, 2 order by 1, 2`,
      [[...series], new Date(from), new Date(to), width],
    ),
  )
  await reader.close()
  return { ours, plain }
}

/** Rollups over windows of a second: 1,000 pieces with five each, their input ten times a second. @returns those that a core works out in a second */
const rolledByUs = async (pieces: number, seconds: number) => {
  const kinds = ['min', 'max', 'mean', 'mean by time', 'count'] as const
  const of = classContract.parse({
    name: 'Pump',
    properties: [
      { name: 'power', made: { kind: 'input' } },
      ...kinds.map((how, i) => ({ name: `r${i}`, made: { kind: 'rollup', of: 'power', how, window: { count: 1, unit: 'second' } } })),
    ],
  })
  const equipment = Array.from({ length: pieces }, (_, i) => ({
    ...equipmentContract.parse({ path: `pump ${i}`, class: 'Pump', bindings: { power: `in/${i}` } }),
    ...{ id: i + 1, ...saved },
  }))
  const inputs = equipment.map((_, i) => tagDraft.parse({ path: `in/${i}`, source: { kind: 'memory', start: 0 }, type: 'float64' }))
  const model = new Model([of], equipment)
  const tags = [...inputs, ...equipment.flatMap((one) => propertyTags(model, one).map(tagOfProperty))].map((tag, i) => ({
    ...tag,
    id: i + 1,
    ...saved,
  }))
  const engine = await engineWith(false)
  await configure(engine, 1, { equipmentClass: [{ ...of, id: 1, ...saved }], equipment, tag: tags } as never)
  const handles = inputs.map((_, i) => engine.tags.handleOf(i + 1)!)
  await rest(1500)
  const ends = tags.filter(({ path }) => /r\d$/.test(path)).map(({ id }) => engine.tags.handleOf(id)!)
  let told = 0
  const isRollup = new Set(ends)
  engine.table.listen((changed) => {
    for (const handle of changed) if (isRollup.has(handle)) told++
  })
  const cpu = process.cpuUsage()
  const began = performance.now()
  for (let round = 0; round < seconds * 10; round++) {
    for (const handle of handles) engine.table.set(handle, Math.sin(round / 7) * 100, quality.Good, Date.now(), Date.now())
    engine.table.flush()
    await rest(Math.max(0, began + (round + 1) * 100 - performance.now()))
  }
  const { user, system } = process.cpuUsage(cpu)
  await engine.close()
  return { told: told / seconds, perCore: told / ((user + system) / 1e6) }
}

/** The same by a script: values of each window kept in a list, and worked out at its end. */
const rolledPlainly = (pieces: number, seconds: number) => {
  const lists = Array.from({ length: pieces }, (): number[] => [])
  const cpu = process.cpuUsage()
  let done = 0
  for (let round = 0; round < seconds * 10; round++) {
    for (const list of lists) list.push(Math.sin(round / 7) * 100)
    if (round % 10 !== 9) continue
    for (const list of lists) {
      const results = [Math.min(...list), Math.max(...list), list.reduce((a, b) => a + b, 0) / list.length, list.reduce((a, b) => a + b * 0.1, 0), list.length] // prettier-ignore
      done += results.length
      list.length = 0
    }
  }
  const { user, system } = process.cpuUsage(cpu)
  return done / ((user + system) / 1e6)
}

/** 1,000 pieces of 20 properties from a table. @returns seconds until all of it is saved */
const fromTable = async (pieces: number) => {
  const inputs = Array.from({ length: 10 }, (_, i) => ({ name: `in${i}`, made: { kind: 'input' } }))
  const formulas = Array.from({ length: 10 }, (_, i) => ({ name: `f${i}`, made: { kind: 'formula', formula: `in${i} * 2` } }))
  const of = classContract.parse({ name: 'Pump', properties: [...inputs, ...formulas] })
  await changeConfiguration(db, 'bench', 'made', (editor) => editor.insert('equipmentClass', [of]))
  const lines = (name: string, count: number) =>
    [
      ['path', 'class', ...inputs.map((one) => one.name)].join(','),
      ...Array.from({ length: count }, (_, i) =>
        [`${name}/Pump ${i}`, 'Pump', ...inputs.map((one) => `plant/${name}/${i}/${one.name}`)].join(','),
      ),
    ].join('\n')
  const take = (text: string) =>
    changeConfiguration(db, 'bench', 'made', async (editor) => {
      const { pieces: planned } = await bulkNow(editor.db, { kind: 'table', text })
      await applyBulk(editor, planned)
    })
  const ours = await secondsOf(() => take(lines('a', pieces)))
  const some = 20
  const one = await secondsOf(async () => {
    for (let i = 0; i < some; i++) await take(lines(`b${i}`, 1))
  })
  return { ours: pieces / ours, seconds: ours, plain: some / one }
}

const table = await fromTable(1000)
const rollups = { ...(await rolledByUs(1000, 8)), plain: rolledPlainly(1000, 8) }
const rounds = 1000
const write = { ours: await recordedByUs(rounds), plain: await copied(rounds) }
await client.query('drop table plain')
const dayOf20 = await drawn(
  Array.from({ length: 20 }, (_, i) => 5001 + i),
  1,
)
const days = 90
const long = await drawn([6001], days)
await client.end()
await db.destroy()
for (const close of closing.reverse()) await close()
console.log(JSON.stringify({ table, rollups, write, dayOf20, long, days }))
process.exit(0)

import { join } from 'node:path'
import pg from 'pg'
import { from as copyFrom } from 'pg-copy-streams'
import { Readable } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import { classContract } from '#core/equipment/settings'
import { recordingContract } from '#core/history/settings'
import { quality } from '#core/tags/quality'
import { changeConfiguration } from '#db/configuration'
import { connect } from '#db/connect'
import { CopyRows, wholeCopy } from '#db/history/copyRows'
import { Engine } from '#engine/engine'
import { tagDraft } from '#shared/tags'
import { applyBulk, bulkNow } from '../../server/equipment/bulk'
import { configure } from '../support/configured'
import { stateFolderFor, type Closing } from '../support/engineOn'
import { blankMemory } from '../support/memory'
import { memoryJournal } from '../support/modbusSession'
import { testSecurity } from '../support/security'

/** Recording, and equipment from a table, each beside the plain way. */

const url = process.env.CONDUIT_BENCH_DATABASE!
const closing: Closing = []
const client = new pg.Client({ connectionString: url })
await client.connect()
const db = connect(url)
const saved = { revision: 1 }

const secondsOf = async (work: () => Promise<unknown>) => {
  const began = performance.now()
  await work()
  return (performance.now() - began) / 1000
}
const countOf = async (table: string) => Number((await client.query<{ n: string }>(`select count(*) as n from ${table}`)).rows[0]!.n)
const rest = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms))

/** Samples of 1,000 tags on their way from the tag table into the database. @returns samples a second */
const recordedByUs = async (rounds: number) => {
  const engine = new Engine({
    ...{ node: 'bench', journal: memoryJournal(), security: await testSecurity(), memory: blankMemory() },
    history: { databaseUrl: url, folder: join(stateFolderFor(closing), 'history') },
  })
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
const rounds = 1000
const write = { ours: await recordedByUs(rounds), plain: await copied(rounds) }
await client.end()
await db.destroy()
for (const close of closing.reverse()) await close()
console.log(JSON.stringify({ table, write }))
process.exit(0)

import pg from 'pg'
import { tagsOf } from '#core/records/items'
import { recordSetContract, type RecordSetDraft } from '#core/records/settings'
import { setColumnOf } from '#core/records/columns'
import { Engine } from '#engine/engine'
import { linkContract } from '#shared/links/link'
import { plainValue, type TagDraft } from '#shared/tags'
import { configure } from '../support/configured'
import { blankMemory } from '../support/memory'
import { memoryJournal } from '../support/modbusSession'
import { testSecurity } from '../support/security'

/** A table of so many rows as tags: read, read again where ten rows changed, and a row moved through; by a record set, and by a script. */
const rows = Number(process.env.CONDUIT_BENCH_ROWS)
const columns = Array.from({ length: 9 }, (_, i) => `c${i + 1}`)
const url = new URL(process.env.CONDUIT_BENCH_DATABASE!)
const repeats = 15
const moves = 2000

const db = new pg.Client({ connectionString: url.toString() })
await db.connect()
await db.query(`create table recipe (number integer primary key, ${columns.map((name, i) => `${name} ${i % 3 === 0 ? 'text' : i % 3 === 1 ? 'double precision' : 'integer'}`).join(', ')});
  insert into recipe select n, ${columns.map((_, i) => (i % 3 === 0 ? `'part ' || n` : 'n')).join(', ')} from generate_series(1, ${rows}) n; analyze recipe`)
const touchTen = () =>
  db.query(`update recipe set c3 = c3 + 1 where number in (select floor(random() * ${rows})::int + 1 from generate_series(1, 10))`)

const median = (all: number[]) => [...all].sort((a, b) => a - b)[all.length >> 1]!
const timed = async (work: () => Promise<unknown>) => {
  const started = performance.now()
  await work()
  return performance.now() - started
}
/** Median of several, each after ten rows were changed. */
const again = async (read: () => Promise<unknown>) => {
  const all: number[] = []
  for (let i = 0; i < repeats; i++) {
    await touchTen()
    all.push(await timed(read))
  }
  return median(all)
}

const saved = { revision: 1 }
const link = linkContract.parse({
  name: 'Book',
  kind: 'sql',
  settings: {
    ...{ host: url.hostname, port: Number(url.port), database: url.pathname.slice(1), user: url.username },
    password: { plain: decodeURIComponent(url.password) },
  },
})
const from = { kind: 'table', table: 'recipe' }
const setOf = (name: string, how: object): RecordSetDraft =>
  recordSetContract.parse({ name, linkId: 1, folder: name, how: { ...how, again: { every: null } } })

const typeOf = (i: number) => (i % 3 === 0 ? 'text' : i % 3 === 1 ? 'double precision' : 'integer')
const bare = { declared: '', length: null, digits: null, decimals: null }
const shown = [
  setColumnOf({ name: 'number', type: 'integer', ...bare }, 'postgresql'),
  ...columns.map((name, i) => setColumnOf({ name, type: typeOf(i), ...bare }, 'postgresql')),
]
const draftsOf = (recordSetId: number, set: RecordSetDraft, labels: string[] | null): TagDraft[] =>
  tagsOf(set, { columns: shown, rows: labels, parameters: [], key: shown[0]! }).map(
    ({ part, column, row, path, type, access, description }) => ({
      ...{ ...plainValue, path, type, access, description },
      source: { kind: 'record', recordSetId, part, column, row },
    }),
  )

const bySet = async () => {
  const engine = new Engine({ node: 'bench', journal: memoryJournal(), security: await testSecurity(), memory: blankMemory() })
  const snapshot = setOf('all', { kind: 'snapshot', from, key: 'number', most: rows })
  const cursor = setOf('one', { kind: 'cursor', from, key: 'number' })
  const labels = Array.from({ length: rows }, (_, i) => String(i + 1))
  const tags = [...draftsOf(1, snapshot, labels), ...draftsOf(2, cursor, null)].map((tag, i) => ({ ...tag, id: i + 1, ...saved }))
  const recordSet = [snapshot, cursor].map((set, i) => ({ ...set, id: i + 1, ...saved }))
  await configure(engine, 1, { link: [{ ...link, id: 1, ...saved }], recordSet, tag: tags } as never)
  while (engine.records.status().some(({ flow, tags }) => flow !== 'flowing' || tags === 0))
    await new Promise((resolve) => setTimeout(resolve, 50))
  const runner = engine.records.get(1)!
  const first = await timed(() => runner.readNow())
  const repeated = await again(() => runner.readNow())
  const next = engine.tags.byPath('one/move/number')!.handle
  const moving = await timed(async () => {
    for (let i = 0; i < moves; i++) await engine.records.get(2)!.write(next, (i % rows) + 1)
  })
  const good = engine.records.status()[0]!.goodTags
  await engine.close()
  if (good < rows * shown.length) throw new Error(`only ${good} tags are good`)
  return { first, again: repeated, moves: moves / (moving / 1000) }
}

/** As an integrator scripts it: read all, compare with what was there, keep what is other. */
const byScript = async () => {
  const names = ['number', ...columns]
  let changed = 0
  const values = new Map<string, unknown>()
  const read = async () => {
    const { rows: found } = await db.query<Record<string, unknown>>('select * from recipe order by number')
    for (const row of found)
      for (const name of names) {
        const key = `${name}/${String(row.number)}`
        if (values.get(key) === row[name]) continue
        values.set(key, row[name])
        changed++
      }
  }
  const first = await timed(read)
  const repeated = await again(read)
  const current: Record<string, unknown> = {}
  const moving = await timed(async () => {
    for (let i = 0; i < moves; i++) {
      const { rows: found } = await db.query<Record<string, unknown>>('select * from recipe where number = $1', [(i % rows) + 1])
      Object.assign(current, found[0])
    }
  })
  if (changed < rows * names.length) throw new Error('the script kept too little')
  return { first, again: repeated, moves: moves / (moving / 1000) }
}

const script = await byScript()
const set = await bySet()
await db.end()
console.log(JSON.stringify({ set, script }))
process.exit(0)

import { Readable } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import mqtt from 'mqtt'
import pg from 'pg'
import { from as copyFrom } from 'pg-copy-streams'
import { bridgeContract } from '#core/bridges/settings'
import { Spool } from '#engine/bridges/spool'
import { Engine } from '#engine/engine'
import { linkContract } from '#shared/links/link'
import { configure } from '../support/configured'
import { stateFolderFor, type Closing } from '../support/engineOn'
import { blankMemory } from '../support/memory'
import { memoryJournal } from '../support/modbusSession'
import { testSecurity } from '../support/security'

/** Messages of a topic as rows of a table: by a bridge that keeps them until they are delivered, by a script, and by COPY of rows that are ready. */
const count = Number(process.env.CONDUIT_BENCH_COUNT)
const port = Number(process.env.CONDUIT_BENCH_PORT)
const url = new URL(process.env.CONDUIT_BENCH_DATABASE!)
const closing: Closing = []
const db = new pg.Client({ connectionString: url.toString() })
await db.connect()
const rowsIn = async (table: string) => Number((await db.query<{ n: string }>(`select count(*) as n from ${table}`)).rows[0]!.n)
for (const table of ['by_bridge', 'by_script', 'by_copy'])
  await db.query(`create table ${table} (at timestamptz, gate text, n integer, aboard integer, ashore integer)`)

/** Has so many sent, and waits until so many rows are there. @returns rows a second */
const sentInto = async (table: string, wanted: number) => {
  const started = performance.now()
  process.send!({ send: wanted })
  while ((await rowsIn(table)) < wanted) await new Promise((resolve) => setTimeout(resolve, 20))
  return wanted / ((performance.now() - started) / 1000)
}

const byBridge = async () => {
  const spool = new Spool(stateFolderFor(closing))
  await spool.open()
  const engine = new Engine({ node: 'bench', journal: memoryJournal(), security: await testSecurity(), memory: blankMemory(), spool })
  const saved = { revision: 1 }
  const links = [
    linkContract.parse({ name: 'Quay', kind: 'mqtt', settings: { host: '127.0.0.1', port: port, version: '3.1.1' } }),
    linkContract.parse({
      name: 'Book',
      kind: 'sql',
      settings: {
        ...{ host: url.hostname, port: Number(url.port), database: url.pathname.slice(1), user: url.username },
        password: { plain: decodeURIComponent(url.password) },
      },
    }),
  ].map((link, i) => ({ ...link, id: i + 1, ...saved }))
  const member = (name: string, path: string) => ({ name, kind: 'member', path })
  const bridge = bridgeContract.parse({
    name: 'Counts',
    when: [{ kind: 'message', linkId: 1, filter: 'quay/+/count' }],
    take: [
      member('n', '$.n'),
      member('gate', '$.gate'),
      member('aboard', '$.people.aboard'),
      member('ashore', '$.people.ashore'),
      member('at', '$.at'),
    ],
    send: [
      {
        kind: 'table',
        number: 1,
        linkId: 2,
        table: 'by_bridge',
        fields: ['at', 'gate', 'n', 'aboard', 'ashore'].map((into) => ({ into, from: into })),
      },
    ],
  })
  await configure(engine, 1, { link: links, bridge: [{ ...bridge, id: 1, ...saved }] } as never)
  await new Promise((resolve) => setTimeout(resolve, 1500))
  const rate = await sentInto('by_bridge', count)
  await engine.close()
  await spool.close()
  return rate
}

/** As an integrator scripts it: each message is a row, and is inserted when it comes. */
const byScript = async (wanted: number) => {
  const pool = new pg.Pool({ connectionString: url.toString(), max: 1 })
  const client = await mqtt.connectAsync(`mqtt://127.0.0.1:${port}`, { protocolVersion: 4 })
  client.on('message', (_topic, payload) => {
    const { at, gate, n, people } = JSON.parse(payload.toString()) as {
      at: string
      gate: string
      n: number
      people: { aboard: number; ashore: number }
    }
    void pool.query('insert into by_script values ($1, $2, $3, $4, $5)', [at, gate, n, people.aboard, people.ashore])
  })
  await client.subscribeAsync('quay/+/count', { qos: 1 })
  const rate = await sentInto('by_script', wanted)
  await client.endAsync()
  await pool.end()
  return rate
}

const byCopy = async () => {
  const lines = Array.from({ length: count }, (_, n) => `2026-11-25T14:06:45.120Z\tnorth\t${n}\t${n % 300}\t${n % 200}\n`)
  const started = performance.now()
  await pipeline(Readable.from(lines), db.query(copyFrom('copy by_copy from stdin')))
  return count / ((performance.now() - started) / 1000)
}

const result = { bridge: await byBridge(), script: await byScript(count / 10), copy: await byCopy() }
await db.end()
for (const close of closing) await close()
process.send!({ result }, () => process.exit(0))

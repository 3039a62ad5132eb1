import pg from 'pg'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { startCluster } from '../support/cluster'
import { describedCalls } from '../support/describedCalls'
import { startBroker } from '../support/mqttBroker'
import { startSite, type Site } from '../support/site'
import { until } from '../support/until'

/** Records between a broker and a table, while the engine is killed and the database goes away. */

const count = 5000

let site: Site
let broker: Awaited<ReturnType<typeof startBroker>>
let book: Awaited<ReturnType<typeof startCluster>>
let database: pg.Client

beforeAll(async () => {
  ;[broker, book, site] = await Promise.all([startBroker(), startCluster(), startSite()])
  database = new pg.Client({ connectionString: book.url })
  await database.connect()
})
afterAll(async () => {
  await database?.end()
  await site?.stop()
  await Promise.all([broker?.stop(), book?.stop()])
})

describe('what a bridge keeps until it is delivered', () => {
  it(`arrives, all ${count} of it, once, and in the order in which it came, though the engine is killed and the table was away`, async () => {
    const { call } = await describedCalls(site)
    const made = async (path: string, body: object) => (await call('POST', path, body)).body as unknown as { id: number }
    const { hostname, port, username, password } = new URL(book.url)
    const quay = await made('/links', {
      ...{ name: 'Quay', kind: 'mqtt' },
      settings: {
        host: '127.0.0.1',
        port: broker.port,
        version: '3.1.1',
        clientId: 'counting',
        session: { keep: true },
        patience: { retryFirst: 100, retryMost: 300 },
      },
    })
    const rows = await made('/links', {
      ...{ name: 'Book', kind: 'sql' },
      settings: {
        host: hostname,
        port: Number(port),
        database: 'postgres',
        user: username,
        password: { plain: decodeURIComponent(password) },
      },
    })
    const bridge = await made('/bridges', {
      name: 'Counting',
      when: [{ kind: 'message', linkId: quay.id, filter: 'count' }],
      take: [{ name: 'n', kind: 'member', path: '$.n' }],
      send: [
        { kind: 'table', number: 1, linkId: rows.id, table: 'counted', how: 'upsert', key: ['n'], fields: [{ into: 'n', from: 'n' }] },
      ],
    })
    const heard = () => broker.broker.connectedClients === 1
    await until(async () => {
      const { bridges } = (await call('GET', '/status')).body as unknown as { bridges: { id: number; flow: string }[] }
      return heard() && bridges.some(({ id, flow }) => id === bridge.id && flow === 'flowing')
    })
    const send = async (from: number, to: number) => {
      for (let n = from; n <= to; n++) await broker.publish('count', JSON.stringify({ n }), { qos: 1 })
    }
    await send(1, 1000)
    await site.kill('engine')
    await send(1001, 2000)
    await database.query('create table counted (n integer primary key)')
    await until(heard)
    await send(2001, 3000)
    await site.kill('engine')
    await database.query('alter table counted rename to elsewhere')
    await send(3001, 4000)
    await until(heard)
    await send(4001, count)
    await site.kill('engine')
    await database.query('alter table elsewhere rename to counted')
    const total = async () => Number((await database.query<{ all: string }>('select count(*) as all from counted')).rows[0]!.all)
    await until(total, (all) => all === count, 60)
    const { rows: found } = await database.query<{ n: number }>('select n from counted order by ctid')
    const all = found.map(({ n }) => n)
    expect(all.toSorted((a, b) => a - b)).toEqual(Array.from({ length: count }, (_, i) => i + 1))
    // what a broker kept for us and what comes meanwhile it may send side by side, each in its order
    for (const from of [1, 2001]) {
      const block = all.filter((n) => n >= from && n < from + 1000)
      expect(block).toEqual(block.toSorted((a, b) => a - b))
    }
  }, 180_000)
})

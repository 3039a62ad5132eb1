import { Client } from 'pg'

/** The vessel call book: a database of its own, with an account of its own, in the cluster of the demo. */
export const callBook = { database: 'callbook', user: 'callbook', password: 'harrow-sound' } as const

const voyages = [
  ['HS-2217', 'Sound Runner', 'berth/1', 1500, '2026-11-26T05:40Z'],
  ['HS-2218', 'Harrow Maid', 'berth/2', 950, '2026-11-26T06:15Z'],
  ['HS-2219', 'Isle Ferry', 'berth/3', 680, '2026-11-26T07:05Z'],
] as const

/** Makes what is missing; safe to repeat. */
export const prepareCallBook = async (clusterUrl: string) => {
  const { database, user, password } = callBook
  await using(clusterUrl, async (admin) => {
    const { rows: roles } = await admin.query('select 1 from pg_roles where rolname = $1', [user])
    if (roles.length === 0) await admin.query(`create role ${user} login password '${password}'`)
    const { rows: databases } = await admin.query('select 1 from pg_database where datname = $1', [database])
    if (databases.length === 0) await admin.query(`create database ${database} owner ${user}`)
  })
  const url = Object.assign(new URL(clusterUrl), { pathname: `/${database}`, username: user, password })
  await using(url.toString(), async (book) => {
    await book.query(`
      create table if not exists voyage (
        number text primary key, ship text not null, berth text not null, limit_kw integer not null, arrived timestamptz not null
      );
      create table if not exists passengers (
        at timestamptz not null, gate text not null, aboard integer, ashore integer
      );
      create index if not exists passengers_at on passengers (at)`)
    for (const voyage of voyages)
      await book.query('insert into voyage values ($1, $2, $3, $4, $5) on conflict (number) do nothing', [...voyage])
  })
}

const using = async (connectionString: string, work: (client: Client) => Promise<void>) => {
  const client = new Client({ connectionString })
  await client.connect()
  try {
    await work(client)
  } finally {
    await client.end()
  }
}

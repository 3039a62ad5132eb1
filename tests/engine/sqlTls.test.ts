import { chownSync, statSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { Client } from 'pg'
import { afterEach, beforeAll, expect, inject, it } from 'vitest'
import { makeSelfSigned } from '#security/selfSigned'
import { otherDatabase } from '../support/bridgeSite'
import { closeAll, type Closing } from '../support/engineOn'
import { startMariadb } from '../support/mariadb'
import { profiles, recordSite } from '../support/recordSites'
import { until } from '../support/until'

/** A database that is asked over TLS: what passes is seen from the inside. */

const closing: Closing = []
afterEach(() => closeAll(closing))

let pair: Awaited<ReturnType<typeof makeSelfSigned>>

/** The cluster of the tests takes TLS from here on, from those who want it. */
beforeAll(async () => {
  const names = { commonName: 'Call book', organization: 'Harrow Sound', applicationUri: 'urn:call-book' }
  pair = await makeSelfSigned({ ...names, dns: ['localhost'], ip: ['127.0.0.1'] })
  const client = new Client({ connectionString: inject('clusterUrl') })
  await client.connect()
  const { rows } = await client.query<{ data_directory: string }>('show data_directory')
  const folder = rows[0]!.data_directory
  const { uid, gid } = statSync(folder)
  for (const [name, text] of [
    ['server.crt', pair.certificate],
    ['server.key', pair.key],
  ] as const) {
    writeFileSync(join(folder, name), text, { mode: 0o600 })
    chownSync(join(folder, name), uid, gid)
  }
  await client.query('alter system set ssl = on')
  await client.query('select pg_reload_conf()')
  await until(async () => (await client.query<{ ssl: string }>('show ssl')).rows[0]!.ssl === 'on')
  await client.end()
})

const seen = async ({ engine, linkId, set }: Awaited<ReturnType<typeof recordSite>>, last: string) => {
  const { tap } = engine.link(linkId)!.wire
  let at = tap.look(tap.end, 10).next
  const passed = { in: '', out: '' }
  await set({ how: { kind: 'snapshot', from: { kind: 'table', table: 'profile' }, key: 'voyage' } })
  await until(() => {
    const part = tap.look(at, 1000)
    at = part.next
    for (const { out, bytes } of part.frames) passed[out ? 'out' : 'in'] += Buffer.from(bytes, 'base64').toString('latin1')
    return passed.in.includes(last)
  })
  return passed
}
/** Has a table read over a link, and gives what was seen of that: until the last words came. */
const seenOf = async (book: object, last: string) => seen(await recordSite(closing, book as never), last)

it('shows statements and rows of PostgreSQL, though nobody on the way could read them', async () => {
  const book = await otherDatabase(closing)
  await book.query(profiles)
  const passed = await seenOf({ ...book, settings: { ...book.settings, tls: { mode: 'encrypted' } } }, 'Harrow Maid')
  expect(passed.out).toMatch(/select[\s\S]*profile/i)
  const encrypted = await book.query(
    "select count(*)::int as n from pg_stat_ssl join pg_stat_activity using (pid) where ssl and application_name = 'keen-conduit'",
  )
  expect((encrypted as { n: number }[])[0]!.n).toBeGreaterThan(0)
})

it('shows those of MariaDB as well', async () => {
  const mariadb = await startMariadb({ tls: pair })
  closing.push(() => mariadb.stop())
  await mariadb.asRoot(`use callbook; create table profile (voyage varchar(20) primary key, ship varchar(40));
    insert into profile values ('HS-2217', 'Sound Runner'), ('HS-2218', 'Harrow Maid');
    alter user 'conduit'@'%' require ssl`)
  const passed = await seenOf({ ...mariadb, settings: { ...mariadb.settings, tls: { mode: 'encrypted' } } }, 'Harrow Maid')
  expect(passed.out).toMatch(/select[\s\S]*profile/i)
}, 90_000)

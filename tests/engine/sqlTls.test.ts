import { chownSync, statSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { Client } from 'pg'
import { afterEach, beforeAll, expect, inject, it } from 'vitest'
import { makeSelfSigned } from '#security/selfSigned'
import { otherDatabase } from '../support/bridgeSite'
import { closeAll, type Closing } from '../support/engineOn'
import { profiles, recordSite } from '../support/recordSites'
import { until } from '../support/until'

/** A database that is asked over TLS: what passes is seen from the inside. */

const closing: Closing = []
afterEach(() => closeAll(closing))

/** The cluster of the tests takes TLS from here on, from those who want it. */
beforeAll(async () => {
  const client = new Client({ connectionString: inject('clusterUrl') })
  await client.connect()
  const { rows } = await client.query<{ data_directory: string }>('show data_directory')
  const folder = rows[0]!.data_directory
  const names = { commonName: 'Call book', organization: 'Harrow Sound', applicationUri: 'urn:call-book' }
  const { certificate, key } = await makeSelfSigned({ ...names, dns: ['localhost'], ip: ['127.0.0.1'] })
  const { uid, gid } = statSync(folder)
  for (const [name, text] of [
    ['server.crt', certificate],
    ['server.key', key],
  ] as const) {
    writeFileSync(join(folder, name), text, { mode: 0o600 })
    chownSync(join(folder, name), uid, gid)
  }
  await client.query('alter system set ssl = on')
  await client.query('select pg_reload_conf()')
  await until(async () => (await client.query<{ ssl: string }>('show ssl')).rows[0]!.ssl === 'on')
  await client.end()
})

it('shows statements and rows, though nobody on the way could read them', async () => {
  const book = await otherDatabase(closing)
  await book.query(profiles)
  const settings = { ...book.settings, tls: { mode: 'encrypted' } }
  const site = await recordSite(closing, { ...book, settings } as never)
  const { tap } = site.engine.link(site.linkId)!.wire
  const { next } = tap.look(tap.end, 10)
  await site.set({ how: { kind: 'snapshot', from: { kind: 'table', table: 'profile' }, key: 'voyage' } })
  const passed = { in: '', out: '' }
  let at = next
  await until(() => {
    const part = tap.look(at, 1000)
    at = part.next
    for (const { out, bytes } of part.frames) passed[out ? 'out' : 'in'] += Buffer.from(bytes, 'base64').toString('latin1')
    return passed.in.includes('Harrow Maid')
  })
  expect(passed.out).toMatch(/select[\s\S]*profile/i)
  const encrypted = await book.query(
    "select count(*)::int as n from pg_stat_ssl join pg_stat_activity using (pid) where ssl and application_name = 'keen-conduit'",
  )
  expect((encrypted as { n: number }[])[0]!.n).toBeGreaterThan(0)
})

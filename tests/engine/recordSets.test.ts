import { afterEach, describe, expect, it } from 'vitest'
import { quality } from '#core/tags/quality'
import { closeAll, type Closing } from '../support/engineOn'
import { recordSite } from '../support/recordSites'
import { until } from '../support/until'

/** Rows of a real database as tags. */

const closing: Closing = []
afterEach(() => closeAll(closing))

const profiles = `
  create table profile (
    voyage text primary key, ship text not null, volts integer not null, limit_kw numeric(12,4), changed_at timestamptz not null default now()
  );
  insert into profile values
    ('HS-2217', 'Sound Runner', 11000, 1500.5, '2026-11-20T03:10:00Z'),
    ('HS-2218', 'Harrow Maid', 690, 950, '2026-11-21T04:10:00Z'),
    ('HS-2219', 'Isle Ferry', 440, null, '2026-11-22T05:10:00Z')`
const table = { kind: 'table', table: 'profile' }

describe('a table snapshot', () => {
  it('makes a folder for each column and a tag for each row, and says what null is', async () => {
    const { query, set, settled, pathsIn, value, qualityAt } = await recordSite(closing)
    await query(profiles)
    const id = await set({ how: { kind: 'snapshot', from: table, key: 'voyage', again: { every: null } } })
    expect(await settled(id, 5 * 3 + 6)).toMatchObject({ changes: 1, count: 3, fault: null, sentence: '3 rows as tags' })
    expect(pathsIn('book').slice(0, 4)).toEqual(['voyage/HS-2217', 'voyage/HS-2218', 'voyage/HS-2219', 'ship/HS-2217'])
    expect(pathsIn('book').slice(-6)).toEqual(['state', 'error', 'read_again', 'count', 'change', 'stamp'])
    expect(value('book/ship/HS-2218')).toBe('Harrow Maid')
    expect(value('book/limit_kw/HS-2217')).toBe(1500.5)
    expect(value('book/changed_at/HS-2217')).toBe(Date.parse('2026-11-20T03:10:00Z'))
    expect(qualityAt('book/limit_kw/HS-2219')).toBe(quality.BadNoData)
    expect(value('book/change')).toBe(1)
  })

  it('follows rows and columns that come and go, and keeps the tags of a row that is gone', async () => {
    const { query, set, settled, pathsIn, value, qualityAt, statusOf, journal } = await recordSite(closing)
    await query(profiles)
    const again = { every: 100 }
    const id = await set({ how: { kind: 'snapshot', from: table, columns: ['ship', 'volts'], key: 'voyage', again } })
    await settled(id, 12)
    await query("insert into profile values ('HS-2220', 'Little Auk', 690, 800)")
    await settled(id, 14)
    expect(value('book/ship/HS-2220')).toBe('Little Auk')
    await query("delete from profile where voyage = 'HS-2218'")
    await until(() => qualityAt('book/ship/HS-2218') === quality.BadNoData)
    expect(statusOf(id)).toMatchObject({ count: 3, tags: 14 })
    await query('alter table profile alter column volts type bigint')
    await until(() => value('book/volts/HS-2217') === 11000n)
    expect(pathsIn('book')).toHaveLength(14)
    expect(journal.texts().join('\n')).toMatch(/made 2 tags[\s\S]*changed the type of 4 tags/)
  })

  it('is refused as a whole where there are more rows than may be, and takes none of them', async () => {
    const { query, set, settled, statusOf, alter, qualityAt } = await recordSite(closing)
    await query(profiles)
    const how = { kind: 'snapshot', from: table, columns: ['ship'], key: 'voyage', most: 3, again: { every: 100 } }
    const id = await set({ how })
    await settled(id, 9)
    await query("insert into profile values ('HS-2220', 'Little Auk', 690, 800)")
    await until(() => statusOf(id).flow === 'broken')
    expect(statusOf(id).fault).toMatchObject({ code: 'records.too-many' })
    expect(statusOf(id).tags).toBe(9)
    expect(qualityAt('book/ship/HS-2217')).toBe(quality.BadNoData)
    await alter(id, { how: { ...how, most: 4 } })
    await settled(id, 10)
  })

  it('reads again when its stamp moves, and on request', async () => {
    const { query, set, settled, value, write } = await recordSite(closing)
    await query(profiles)
    const again = { every: null, stamp: 'changed_at', look: 100 }
    const id = await set({ how: { kind: 'snapshot', from: table, columns: ['ship'], key: 'voyage', again } })
    await settled(id, 9)
    await query("update profile set ship = 'Grey Heron', changed_at = now() where voyage = 'HS-2218'")
    await until(() => value('book/ship/HS-2218') === 'Grey Heron')
    // without the stamp nobody notices, until somebody asks
    await query("update profile set ship = 'Storm Petrel' where voyage = 'HS-2217'")
    expect(await write('book/read_again', true)).toMatchObject({ ok: true })
    expect(value('book/ship/HS-2217')).toBe('Storm Petrel')
  })

  it('writes a value back into its row, and not over what somebody else wrote', async () => {
    const { query, set, settled, value, write } = await recordSite(closing)
    await query(profiles)
    const how = { kind: 'snapshot', from: table, key: 'voyage', writes: ['ship', 'limit_kw', 'changed_at'], again: { every: null } }
    await settled(await set({ how }), 21)
    expect(await write('book/ship/HS-2217', "O'Hara; drop table profile")).toMatchObject({ ok: true })
    expect(await write('book/limit_kw/HS-2219', 12.25)).toMatchObject({ ok: true, readBack: 12.25 })
    expect(await write('book/changed_at/HS-2219', '2026-11-27T05:00:00.123Z')).toMatchObject({ ok: true })
    expect(await write('book/changed_at/HS-2219', '2026-11-27T06:00:00Z')).toMatchObject({ ok: true })
    expect(await query("select ship, limit_kw from profile where voyage in ('HS-2217', 'HS-2219') order by voyage")).toEqual([
      { ship: "O'Hara; drop table profile", limit_kw: '1500.5000' },
      { ship: 'Isle Ferry', limit_kw: '12.2500' },
    ])
    await query("update profile set ship = 'Manx' where voyage = 'HS-2218'")
    expect(await write('book/ship/HS-2218', 'Grey Heron')).toMatchObject({ ok: false, fault: { code: 'records.moved-on' } })
    // what is there now has been read
    expect(value('book/ship/HS-2218')).toBe('Manx')
    expect(await write('book/volts/HS-2217', 400)).toMatchObject({ ok: false, fault: { code: 'write.not-writable' } })
  })

  it('tells which key is none, and which column is not there', async () => {
    const { query, set, statusOf } = await recordSite(closing)
    await query("create table gate (name text, side text); insert into gate values ('north', 'a'), ('north', 'b'), (null, 'c')")
    const from = { kind: 'query', statement: "select * from gate where name <> ''" }
    const same = await set({ folder: 'a', how: { kind: 'snapshot', from, key: 'name' } })
    const none = await set({ name: 'B', folder: 'b', how: { kind: 'snapshot', from: { kind: 'table', table: 'gate' }, key: 'name' } })
    const gone = await set({ name: 'C', folder: 'c', how: { kind: 'snapshot', from, columns: ['depth'] } })
    const away = await set({ name: 'D', folder: 'd', how: { kind: 'snapshot', from: { kind: 'table', table: 'nowhere' } } })
    await until(() => [same, none, gone, away].every((id) => statusOf(id).flow === 'broken'))
    expect([same, none, gone, away].map((id) => statusOf(id).fault!.code)).toEqual([
      ...['records.same-key', 'records.no-key', 'records.no-column', 'sql.statement'],
    ])
  })

  it('is not good while its database is away, and all of it is again', async () => {
    const { query, set, settled, qualityAt, change, linkId, statusOf } = await recordSite(closing)
    await query(profiles)
    await settled(await set({ how: { kind: 'snapshot', from: table, columns: ['ship'], key: 'voyage', again: { every: null } } }), 9)
    const off = (on: boolean) =>
      change(async (editor) => editor.update('link', (await editor.row('link', linkId))! as never, { on } as never))
    await off(false)
    await until(() => qualityAt('book/ship/HS-2217') === quality.BadNoCommunication || statusOf(1).flow === 'broken')
    expect(qualityAt('book/ship/HS-2217')).not.toBe(quality.Good)
    await off(true)
    await until(() => qualityAt('book/ship/HS-2217') === quality.Good)
  })
})

import { afterEach, describe, expect, it } from 'vitest'
import { recordSetContract } from '#core/records/settings'
import { quality } from '#core/tags/quality'
import type { RowStore } from '#engine/links/receiving'
import { previewOf } from '#engine/records/preview'
import { closeAll, type Closing } from '../support/engineOn'
import { bridgeSite } from '../support/bridgeSite'
import { profiles, recordSite } from '../support/recordSites'
import { until } from '../support/until'

/** Rows of a real database as tags. */

const closing: Closing = []
afterEach(() => closeAll(closing))

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
    expect(journal.entries.map(({ text }) => text).join('\n')).toMatch(/made 2 tags[\s\S]*changed the type of 3 tags/)
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

  it('is told before it is saved what it would come to, and that this is too much', async () => {
    const { query, engine, linkId } = await recordSite(closing)
    await query(profiles)
    const looked = async (most: number) => {
      const set = recordSetContract.parse({
        name: 'All',
        linkId,
        folder: 'all',
        how: { kind: 'snapshot', from: table, key: 'voyage', most },
      })
      return previewOf({ set, key: null, last: null, run: null }, engine.link(linkId)!.receiver() as RowStore, engine)
    }
    const preview = await looked(10)
    expect(preview).toMatchObject({ fault: null, total: 3, tagCount: 21, at: null })
    expect(preview.rows[2]).toEqual(['HS-2219', 'Isle Ferry', '440', null, '2026-11-22T05:10:00.000Z'])
    expect(preview.columns[3]).toMatchObject({ name: 'limit_kw', declared: 'numeric(12,4)', type: 'float64' })
    expect(await looked(2)).toMatchObject({ fault: { code: 'records.too-many' }, total: 3 })
    expect(engine.tags.size).toBe(0)
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
      ...['records.same-key', 'records.no-key', 'sql.statement', 'sql.statement'],
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

describe('a row cursor', () => {
  const cursor = { kind: 'cursor', from: table, columns: ['ship', 'volts', 'limit_kw'], key: 'voyage', again: { every: null } }

  it('has a tag for each column of the row pointed at, and moves as consumers want it', async () => {
    const { query, set, settled, pathsIn, value, write, statusOf } = await recordSite(closing)
    await query(profiles)
    const id = await set({ how: cursor })
    expect(await settled(id, 3 + 3 + 2 + 6 + 2)).toMatchObject({ position: 1, key: 'HS-2217', count: 3, sentence: 'row 1 of 3' })
    expect(pathsIn('book')).toContain('move/key')
    const ship = () => value('book/ship')
    expect([ship(), value('book/move/key'), value('book/move/number')]).toEqual(['Sound Runner', 'HS-2217', 1])
    await write('book/move/next', true)
    expect([ship(), value('book/position'), value('book/change')]).toEqual(['Harrow Maid', 2, 2])
    await write('book/move/last', true)
    expect(ship()).toBe('Isle Ferry')
    expect(await write('book/move/next', true)).toMatchObject({ ok: true })
    expect([ship(), value('book/state'), value('book/change')]).toEqual(['Isle Ferry', 'at the last row: it stays there', 3])
    await write('book/move/number', 2)
    expect([ship(), value('book/state')]).toEqual(['Harrow Maid', 'row 2 of 3'])
    await write('book/move/key', 'HS-2217')
    expect([ship(), value('book/limit_kw')]).toEqual(['Sound Runner', 1500.5])
    await write('book/move/previous', true)
    expect([ship(), value('book/state')]).toEqual(['Sound Runner', 'at the first row: it stays there'])
    await write('book/move/previous', false)
    for (const [path, to] of [['book/move/number', 9] as const, ['book/move/key', 'HS-9999'] as const]) {
      expect(await write(path, to)).toMatchObject({ ok: false, fault: { code: 'records.no-row' } })
      expect(ship()).toBe('Sound Runner')
    }
    expect(value('book/error')).toMatch(/no row HS-9999/)
    expect(statusOf(id).position).toBe(1)
  })

  it('never takes another row for one that is gone, and follows its row where others come before it', async () => {
    const { query, set, settled, value, write, qualityAt, statusOf } = await recordSite(closing)
    await query(profiles)
    const id = await set({ how: { ...cursor, again: { every: 100 } } })
    await settled(id, 16)
    await write('book/move/key', 'HS-2218')
    await query("insert into profile values ('HS-2200', 'Little Auk', 690, 800)")
    await until(() => value('book/position') === 3)
    expect(value('book/ship')).toBe('Harrow Maid')
    await query("delete from profile where voyage = 'HS-2218'")
    await until(() => qualityAt('book/ship') === quality.BadNoData)
    expect(statusOf(id)).toMatchObject({ position: 0, sentence: 'the row HS-2218 is gone', count: 3 })
    await write('book/move/next', true)
    expect(value('book/ship')).toBe('Isle Ferry')
  })

  it('points where it did before a restart, where that was chosen', async () => {
    const { query, set, settled, write, engine, value, alter } = await recordSite(closing)
    await query(profiles)
    const id = await set({ how: cursor })
    await settled(id, 16)
    await write('book/move/key', 'HS-2219')
    await alter(id, { on: false })
    expect(engine.table.quality[engine.tags.byPath('book/ship')!.handle]).toBe(quality.BadOutOfService)
    await alter(id, { on: true })
    await until(() => value('book/ship') === 'Isle Ferry')
    // rows of another table are others, though they are called the same
    await query('create table other as select * from profile')
    await alter(id, { how: { ...cursor, from: { kind: 'table', table: 'other' } } })
    await until(() => value('book/ship') === 'Sound Runner')
  })

  it('points where it does while other things of it, or of its link, are changed', async () => {
    const { query, set, settled, write, change, value, qualityAt, alter, linkId } = await recordSite(closing)
    await query(profiles)
    const id = await set({ how: { ...cursor, starts: 'first' } })
    await settled(id, 16)
    await write('book/move/key', 'HS-2219')
    await alter(id, { name: 'Another name', how: { ...cursor, starts: 'first', writes: ['volts'] } })
    await until(() => qualityAt('book/ship') === quality.Good)
    expect(value('book/ship')).toBe('Isle Ferry')
    await change(async (editor) => editor.update('link', (await editor.row('link', linkId))! as never, { name: 'Another book' } as never))
    await until(() => qualityAt('book/ship') === quality.Good)
    expect(value('book/ship')).toBe('Isle Ferry')
  })

  it('writes a value back, and reads the row once more', async () => {
    const { query, set, settled, write, value } = await recordSite(closing)
    await query(profiles)
    await settled(await set({ how: { ...cursor, writes: ['volts'] } }), 16)
    expect(await write('book/volts', 6600)).toMatchObject({ ok: true, readBack: 6600 })
    expect(await query("select volts from profile where voyage = 'HS-2217'")).toEqual([{ volts: 6600 }])
    await query("update profile set volts = 400 where voyage = 'HS-2217'")
    expect(await write('book/volts', 690)).toMatchObject({ ok: false, fault: { code: 'records.moved-on' } })
    expect(value('book/volts')).toBe(400)
  })
})

describe('an engine that starts again', () => {
  it('has the sets with their tags, and makes none of them twice', async () => {
    const first = await recordSite(closing)
    await first.query(profiles)
    const how = { kind: 'cursor', from: table, columns: ['ship'], key: 'voyage', again: { every: 200 } }
    await first.settled(await first.set({ how }), 14)
    await first.write('book/move/key', 'HS-2219')
    const before = first.pathsIn('book')
    await first.engine.close()
    const again = await bridgeSite(closing, first.base, first.stateFolder)
    await until(() => again.engine.tags.byPath('book/ship') !== undefined && again.value('book/ship') === 'Isle Ferry')
    await until(() => again.engine.records.status()[0]!.goodTags === 14)
    expect([...again.engine.tags.all()].map(({ path }) => path.slice('book/'.length))).toEqual(before)
    const revisions = await first.base.db.selectFrom('revision').select('what').where('what', 'like', '%: made%').execute()
    expect(revisions).toHaveLength(1)
  })
})

describe('what is not known', () => {
  it('is told for as long as it is so: a set with more tags than may be makes none', async () => {
    const { query, set, statusOf, engine } = await recordSite(closing)
    const names = Array.from({ length: 1000 }, (_, i) => `c${i}`)
    await query(`create table wide (${names.map((name) => `${name} integer`).join(', ')});
      insert into wide (c0) select n from generate_series(1, 101) n`)
    const id = await set({ how: { kind: 'snapshot', from: { kind: 'table', table: 'wide' }, again: { every: 100 } } })
    await until(() => statusOf(id).fault?.code === 'records.too-wide')
    for (let i = 0; i < 3; i++) {
      await engine.records.get(id)!.readNow()
      expect(statusOf(id).fault?.code).toBe('records.too-wide')
    }
    expect(engine.tags.size).toBe(0)
  })
})

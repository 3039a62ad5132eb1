import { afterEach, describe, expect, it } from 'vitest'
import { quality } from '#core/tags/quality'
import { otherDatabase } from '../support/bridgeSite'
import { closeAll, type Closing } from '../support/engineOn'
import { profiles, recordSite } from '../support/recordSites'
import { until } from '../support/until'

/** Procedures and statements of a real database as tags. */

const closing: Closing = []
afterEach(() => closeAll(closing))
const table = { kind: 'table', table: 'profile' }

describe('a procedure call', () => {
  const routines = `
    ${profiles};
    create function profile_of(wanted text, most integer) returns table (ship text, volts integer) language sql as $$
      select ship, volts from profile where voyage = wanted and volts <= most $$;
    create function double_of(n bigint) returns bigint language sql as $$ select n * 2 $$;
    create procedure reserve(wanted text, inout kw double precision, out place text) language plpgsql as $$
      begin kw := kw * 2; place := 'berth of ' || wanted; end $$;
    create procedure for_ever() language plpgsql as $$ begin perform pg_sleep(60); end $$;
    create procedure fails() language plpgsql as $$ begin raise exception 'the tide is out'; end $$`

  it('waits for its first run, gives what came of it, and says when that has grown old', async () => {
    const { query, set, settled, pathsIn, value, write, qualityAt, statusOf } = await recordSite(closing)
    await query(routines)
    const start = [{ parameter: 'most', value: 20000 }]
    const id = await set({ how: { kind: 'procedure', routine: 'profile_of', start } })
    await settled(id, 7)
    expect(pathsIn('book')).toEqual(['with/wanted', 'with/most', 'state', 'error', 'run', 'change', 'stamp'])
    expect([value('book/with/most'), qualityAt('book/with/wanted'), value('book/state')]).toEqual([
      ...[20000, quality.BadWaitingForInitialData, 'waiting for the first run'],
    ])
    expect(await write('book/run', true)).toMatchObject({ ok: false, fault: { code: 'records.no-parameter' } })
    await write('book/with/wanted', 'HS-2218')
    expect(await write('book/run', true)).toMatchObject({ ok: true })
    await settled(id, 9)
    expect([value('book/ship'), value('book/volts'), value('book/state'), value('book/change')]).toEqual(['Harrow Maid', 690, 'done', 1])
    await write('book/with/wanted', 'HS-2219')
    expect([value('book/ship'), qualityAt('book/ship'), value('book/state')]).toEqual([
      ...['Harrow Maid', quality.UncertainLastUsableValue, 'old'],
    ])
    await write('book/run', true)
    expect([value('book/ship'), qualityAt('book/ship')]).toEqual(['Isle Ferry', quality.Good])
    await write('book/with/most', 1)
    await write('book/run', true)
    expect([qualityAt('book/ship'), statusOf(id).sentence]).toEqual([quality.BadNoData, 'done'])
  })

  it('gives what goes out of procedures and what functions return', async () => {
    const { query, set, settled, value, write } = await recordSite(closing)
    await query(routines)
    const reserve = await set({ how: { kind: 'procedure', routine: 'reserve', atOnce: true, start: [{ parameter: 'kw', value: 4.5 }] } })
    const double = await set({ name: 'Double', folder: 'double', how: { kind: 'procedure', routine: 'double_of', atOnce: true } })
    await settled(reserve, 7)
    await settled(double, 6)
    expect(await write('book/with/wanted', 'HS-2217')).toMatchObject({ ok: true })
    await settled(reserve, 9)
    expect([value('book/kw'), value('book/place')]).toEqual([9, 'berth of HS-2217'])
    await write('double/with/n', '4611686018427387903')
    await settled(double, 7)
    expect(value('double/return')).toBe(9223372036854775806n)
  })

  it('is no reading: a parameter that is written while the database is away says nothing of it', async () => {
    const { query, set, settled, write, change, linkId, statusOf, qualityAt } = await recordSite(closing)
    await query(`${profiles}; create function double_of(n bigint) returns bigint language sql as $$ select n * 2 $$`)
    const id = await set({ how: { kind: 'procedure', routine: 'double_of', start: [{ parameter: 'n', value: 4 }] } })
    await settled(id, 6)
    await write('book/run', true)
    await settled(id, 7)
    const turn = (on: boolean) =>
      change(async (editor) => editor.update('link', (await editor.row('link', linkId))! as never, { on } as never))
    await turn(false)
    await until(() => statusOf(id).flow === 'broken')
    expect(await write('book/with/n', 5)).toMatchObject({ ok: true })
    expect(statusOf(id)).toMatchObject({ flow: 'broken', fault: { code: 'link.off' } })
    expect(await write('book/run', true)).toMatchObject({ ok: false, fault: { code: 'link.off' } })
    expect(qualityAt('book/return')).not.toBe(quality.Good)
    // what it gave keeps its tag, also where nothing has run since
    await turn(true)
    await until(() => statusOf(id).flow === 'flowing')
    expect(await write('book/run', true)).toMatchObject({ ok: true })
    expect(qualityAt('book/return')).toBe(quality.Good)
  })

  it('tells what failed, ends what never does, and holds up nobody', async () => {
    const book = await otherDatabase(closing)
    book.settings.patience.answer = 500
    const { query, set, settled, value, write, statusOf } = await recordSite(closing, book)
    await query(routines)
    const fails = await set({ how: { kind: 'procedure', routine: 'fails' } })
    const ever = await set({ name: 'Ever', folder: 'ever', how: { kind: 'procedure', routine: 'for_ever' } })
    const none = await set({ name: 'None', folder: 'none', how: { kind: 'procedure', routine: 'nowhere' } })
    const other = await set({ name: 'Rows', folder: 'rows', how: { kind: 'snapshot', from: table, columns: ['ship'], key: 'voyage' } })
    await settled(fails, 5)
    await settled(ever, 5)
    await settled(other, 9)
    expect(statusOf(none).fault).toMatchObject({ code: 'records.no-routine' })
    expect(await write('book/run', true)).toMatchObject({ ok: false, fault: { code: 'sql.statement' } })
    expect([value('book/state'), value('book/error')]).toEqual(['failed', expect.stringContaining('the tide is out')])
    const slow = write('ever/run', true)
    expect(await write('rows/read_again', true)).toMatchObject({ ok: true })
    expect(await slow).toMatchObject({ ok: false, fault: { code: 'records.slow' } })
  })
})

describe('a timed query', () => {
  it('asks with what tags have, when they change, and says which of them has nothing', async () => {
    const { query, tags, set, settled, value, write, qualityAt, statusOf } = await recordSite(closing)
    await query(profiles)
    await tags([
      { path: 'berth/voyage', type: 'string', access: 'readwrite', source: { kind: 'memory' } },
      { path: 'berth/most', type: 'int32', access: 'readwrite', source: { kind: 'memory', start: '20000' } },
    ])
    const how = {
      ...{ kind: 'query', statement: 'select ship, volts from profile where voyage = {v} and volts < {most}' },
      take: [
        { name: 'v', path: 'berth/voyage' },
        { name: 'most', path: 'berth/most' },
      ],
      when: [{ kind: 'change', tag: 'berth/*' }],
    }
    const id = await set({ how })
    await until(() => statusOf(id).fault?.code === 'records.no-parameter')
    await write('berth/voyage', "HS-2218' or 'a' = 'a")
    await settled(id, 7)
    expect([qualityAt('book/ship'), statusOf(id).sentence]).toEqual([quality.BadNoData, 'the statement gave no row'])
    await write('berth/voyage', 'HS-2218')
    await until(() => value('book/ship') === 'Harrow Maid')
    await write('berth/most', 1)
    await until(() => qualityAt('book/ship') === quality.BadNoData)
  })

  it('gives several rows, numbered or by a key, and at a period', async () => {
    const { query, set, settled, pathsIn, value, qualityAt } = await recordSite(closing)
    await query(profiles)
    const statement = 'select voyage, volts from profile order by volts desc'
    const when = [{ kind: 'period', every: 100 }]
    const numbered = await set({ how: { kind: 'query', statement, rows: 4, when } })
    const keyed = await set({ name: 'Keyed', folder: 'keyed', how: { kind: 'query', statement, rows: 4, key: 'voyage', when } })
    await settled(numbered, 2 * 4 + 6)
    await settled(keyed, 2 * 3 + 6)
    expect(pathsIn('keyed')).toContain('volts/HS-2219')
    expect([value('book/voyage/1'), value('book/count'), qualityAt('book/voyage/4')]).toEqual(['HS-2217', 3, quality.BadNoData])
    await query("insert into profile values ('HS-2300', 'Manx', 22000, 1)")
    await until(() => value('book/voyage/1') === 'HS-2300' && value('book/voyage/4') === 'HS-2219')
    await settled(keyed, 14)
  })
})

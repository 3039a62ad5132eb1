import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest'
import { quality } from '#core/tags/quality'
import { closeAll, type Closing } from '../support/engineOn'
import { startMariadb } from '../support/mariadb'
import { recordSite } from '../support/recordSites'
import { until } from '../support/until'

/** The same against a real MariaDB: its types, its procedures, its ways to write. */

let mariadb: Awaited<ReturnType<typeof startMariadb>>
const closing: Closing = []
beforeAll(async () => (mariadb = await startMariadb()), 60_000)
afterEach(() => closeAll(closing))
afterAll(() => mariadb.stop())

const site = async (patience: object = {}) => {
  const settings = { ...mariadb.settings, patience: { retryFirst: 100, retryMost: 300, answer: 3000, ...patience } }
  const asRoot = (text: string) => mariadb.asRoot(`use callbook; ${text}`)
  return { ...(await recordSite(closing, { settings, query: mariadb.query } as never)), asRoot }
}

describe('record sets over MariaDB', () => {
  it('have the types of the columns, without loss', async () => {
    const { asRoot, set, settled, value, engine } = await site()
    await asRoot(`
      create table kinds (
        id int primary key, small smallint unsigned, wide bigint unsigned, tiny tinyint, flag boolean, rate decimal(12,4), huge decimal(40,10),
        real_4 float, real_8 double, day date, at datetime(6), note varchar(40), body blob
      );
      insert into kinds values
        (1, 65535, 18446744073709551615, -128, true, 0.1250, 123456789012345678901234567890.0123456789, 1.5, 0.1, '2026-11-27', '2026-11-27 05:00:00.123456', 'Ångström', x'00ff')`)
    await settled(await set({ how: { kind: 'snapshot', from: { kind: 'table', table: 'kinds' }, key: 'id' } }), 13 + 6)
    const typeOf = (column: string) => engine.tags.byPath(`book/${column}/1`)!.type
    expect(
      Object.fromEntries(['small', 'wide', 'tiny', 'flag', 'rate', 'huge', 'real_4', 'day', 'at', 'body'].map((c) => [c, typeOf(c)])),
    ).toEqual({
      ...{ small: 'uint16', wide: 'uint64', tiny: 'int8', flag: 'bool', rate: 'float64', huge: 'string', real_4: 'float32' },
      ...{ day: 'string', at: 'datetime', body: 'string' },
    })
    expect([value('book/wide/1'), value('book/flag/1'), value('book/rate/1'), value('book/huge/1')]).toEqual([
      ...[18446744073709551615n, true, 0.125, '123456789012345678901234567890.0123456789'],
    ])
    expect([value('book/day/1'), value('book/at/1'), value('book/note/1'), value('book/body/1')]).toEqual([
      ...['2026-11-27', Date.parse('2026-11-27T05:00:00.123Z'), 'Ångström', 'AP8='],
    ])
  })

  it('move through rows, and write back where nobody else did', async () => {
    const { asRoot, query, set, settled, value, write } = await site()
    await asRoot(`
      create table voyage (number int primary key, ship varchar(40), arrived datetime(6), kw decimal(10,2));
      insert into voyage values (1, 'Manx', '2026-11-27 05:00:00.123456', 10.50), (2, 'Little Auk', null, null)`)
    const how = { kind: 'cursor', from: { kind: 'table', table: 'voyage' }, key: 'number', writes: ['ship', 'arrived', 'kw'] }
    await settled(await set({ how }), 4 + 3 + 2 + 6 + 2)
    expect(await write('book/arrived', '2026-11-28T06:00:00Z')).toMatchObject({ ok: true })
    expect(await write('book/kw', 11.25)).toMatchObject({ ok: true })
    await write('book/move/next', true)
    expect(await write('book/ship', "O'Hara")).toMatchObject({ ok: true })
    expect(await write('book/kw', 3)).toMatchObject({ ok: true, readBack: 3 })
    expect(await query('select ship, kw from voyage order by number')).toEqual([
      { ship: 'Manx', kw: '11.25' },
      { ship: "O'Hara", kw: '3.00' },
    ])
    await query('update voyage set kw = 4 where number = 2')
    expect(await write('book/kw', 5)).toMatchObject({ ok: false, fault: { code: 'records.moved-on' } })
    expect(value('book/kw')).toBe(4)
  })

  it('call procedures and functions, with results, parameters that go out, and what is returned', async () => {
    const { asRoot, set, settled, value, write } = await site()
    await asRoot(`
      create procedure reserve(in wanted varchar(20), inout kw decimal(10,2), out place varchar(40), out at datetime(3))
        begin select wanted as voyage, 7 as berths; set kw = kw * 2; set place = concat('berth of ', wanted); set at = '2026-11-27 05:00:00.5'; end;
      create function double_of(n bigint) returns bigint deterministic return n * 2`)
    const start = [
      { parameter: 'kw', value: 4.25 },
      { parameter: 'wanted', value: 'HS-2217' },
    ]
    const reserve = await set({ how: { kind: 'procedure', routine: 'reserve', start } })
    const double = await set({ name: 'Double', folder: 'double', how: { kind: 'procedure', routine: 'double_of', atOnce: true } })
    await settled(reserve, 7)
    await settled(double, 6)
    expect(await write('book/run', true)).toMatchObject({ ok: true })
    await settled(reserve, 12)
    expect(['voyage', 'berths', 'kw', 'place', 'at'].map((name) => value(`book/${name}`))).toEqual([
      ...['HS-2217', 7, 8.5, 'berth of HS-2217', Date.parse('2026-11-27T05:00:00.500Z')],
    ])
    await write('double/with/n', '4611686018427387903')
    await settled(double, 7)
    expect(value('double/return')).toBe(9223372036854775806n)
  })

  it('end a procedure that never does, and ask on meanwhile', async () => {
    const { asRoot, set, settled, write, query, qualityAt } = await site({ answer: 500 })
    await asRoot(
      "create procedure for_ever() begin do sleep(60); end; create table gate (name varchar(20) primary key); insert into gate values ('north')",
    )
    const ever = await set({ name: 'Ever', folder: 'ever', how: { kind: 'procedure', routine: 'for_ever' } })
    const gates = await set({ how: { kind: 'snapshot', from: { kind: 'table', table: 'gate' }, key: 'name' } })
    await settled(ever, 5)
    await settled(gates, 7)
    const slow = write('ever/run', true)
    expect(await write('book/read_again', true)).toMatchObject({ ok: true })
    expect(await slow).toMatchObject({ ok: false, fault: { code: 'records.slow' } })
    expect(qualityAt('book/name/north')).toBe(quality.Good)
    // nothing of it goes on there
    await until(
      async () =>
        (
          await query("select count(*) as n from information_schema.processlist where info like '%sleep(60)%' and id <> connection_id()")
        )[0]!.n === 0,
    )
  })

  it('say that the database is away when it hangs, and go on when it is back', async () => {
    const { asRoot, set, settled, qualityAt, statusOf } = await site({ answer: 500 })
    await asRoot("create table buoy (name varchar(20) primary key); insert into buoy values ('west')")
    const id = await set({ how: { kind: 'snapshot', from: { kind: 'table', table: 'buoy' }, key: 'name', again: { every: 200 } } })
    await settled(id, 7)
    mariadb.halt('SIGSTOP')
    try {
      await until(() => qualityAt('book/name/west') === quality.BadNoCommunication, Boolean, 20)
      expect(statusOf(id).fault).not.toBeNull()
    } finally {
      mariadb.halt('SIGCONT')
    }
    await until(() => qualityAt('book/name/west') === quality.Good, Boolean, 30)
  }, 60_000)
})

import { appendFileSync, mkdirSync, readFileSync, renameSync, symlinkSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest'
import { linkContract } from '#shared/links/link'
import { sqlDriver } from '../../engine/links/sql/driver'
import { Wire } from '../../engine/wire/wire'
import { bridgeDraft, bridgeSite, memoryTag, otherDatabase } from '../support/bridgeSite'
import { closeAll, databaseFor, stateFolderFor, type Closing } from '../support/engineOn'
import { createStatements } from '#core/sql/createTable'
import { startMariadb } from '../support/mariadb'
import { testSecurity } from '../support/security'
import { until } from '../support/until'

/** What bridges read: files as they grow, rows of databases; and what of a database they use besides tables. */

const closing: Closing = []
afterEach(() => closeAll(closing))

let maria: Awaited<ReturnType<typeof startMariadb>>
beforeAll(async () => {
  maria = await startMariadb()
})
afterAll(() => maria.stop())

const field = (name: string, from = name) => ({ into: name, from })
const csvOut = (linkId: number, fields: object[], name = 'out/lines.csv') => ({ kind: 'file', number: 1, linkId, name, fields })

/** A site with a folder, and the folder itself. */
const folderSite = async (base?: Awaited<ReturnType<typeof databaseFor>>, ends = closing) => {
  const state = stateFolderFor(closing)
  const site = await bridgeSite(ends, base, state)
  const folder = join(state, 'files', 'exchange')
  mkdirSync(join(folder, 'in'), { recursive: true })
  const read = (name: string) => readFileSync(join(folder, name), 'utf8').trimEnd().split('\r\n')
  return { ...site, state, folder, read }
}
const exchange = { name: 'Exchange', kind: 'files', settings: { folder: 'exchange' } }
const countTrigger = (linkId: number, more: object = {}) => ({ kind: 'file', linkId, files: 'in/*.csv', first: 'all', every: 100, ...more })
const countFields = [field('gate', 'line_gate'), field('people', 'line_people'), field('file')]
const line = { name: 'line', kind: 'member', path: '$' }

describe('lines of files', () => {
  it('are each taken once, whole, and over restarts of the engine', async () => {
    const base = await databaseFor(closing)
    const ends: Closing = []
    const first = await folderSite(base, ends)
    const file = join(first.folder, 'in', 'a.csv')
    writeFileSync(file, 'gate,people\nG1,4\nG2,')
    const linkId = await first.link(exchange)
    const id = await first.bridge(bridgeDraft({ when: [countTrigger(linkId)], take: [line], send: [csvOut(linkId, countFields)] }))
    await until(() => first.status(id).destinations[0]!.delivered === 1)
    appendFileSync(file, '7\nG3,9\n')
    await until(() => first.status(id).destinations[0]!.delivered === 3)
    await closeAll(ends)

    appendFileSync(file, 'G4,1\n')
    writeFileSync(join(first.folder, 'in', 'b.csv'), 'people,gate\n5,G9\n')
    const again = await bridgeSite(closing, base, first.state)
    await until(() => again.status(id)?.destinations[0]?.delivered === 2)
    // another file of the same name, shorter than the one before
    renameSync(file, join(first.folder, 'in', 'a.old'))
    writeFileSync(file, 'gate,people\nG1,8\n')
    await until(() => again.status(id).destinations[0]!.delivered === 3)
    expect(first.read('out/lines.csv')).toEqual([
      'gate,people,file',
      ...['G1,4,in/a.csv', 'G2,7,in/a.csv', 'G3,9,in/a.csv', 'G4,1,in/a.csv', 'G9,5,in/b.csv', 'G1,8,in/a.csv'],
    ])
  })

  it('that were there before the bridge was are left out, where only new ones are wanted', async () => {
    const site = await folderSite()
    const file = join(site.folder, 'in', 'a.csv')
    writeFileSync(file, 'gate,people\nold,1\nhal')
    const linkId = await site.link(exchange)
    const id = await site.bridge(
      bridgeDraft({ when: [countTrigger(linkId, { first: 'new' })], take: [line], send: [csvOut(linkId, countFields)] }),
    )
    const noted = async () => {
      const keys = []
      for await (const key of site.spool.keys('f/')) keys.push(key)
      return keys.length
    }
    await until(noted, (count) => count > 1)
    appendFileSync(file, 'f,2\nnew,3\n')
    await until(() => site.status(id).destinations[0]!.delivered === 2)
    expect(site.read('out/lines.csv').slice(1)).toEqual(['half,2,in/a.csv', 'new,3,in/a.csv'])
  })

  it('stay old when another pattern is chosen, and a file may be taken line by line and as a whole', async () => {
    const site = await folderSite()
    mkdirSync(join(site.folder, 'later'))
    writeFileSync(join(site.folder, 'later', 'old.csv'), 'gate,people\nold,1\n')
    const linkId = await site.link(exchange)
    const both = (files: string) => [
      countTrigger(linkId, { first: 'new', files }),
      countTrigger(linkId, { first: 'new', files, by: 'whole' }),
    ]
    const fields = [field('what', 'line'), field('file')]
    const draft = bridgeDraft({ when: both('in/*.csv'), take: [line], send: [csvOut(linkId, fields)] })
    const id = await site.bridge(draft)
    const begun = async (count: number) => {
      let found = 0
      for await (const key of site.spool.keys('f/')) if (key.includes('/begun ')) found++
      return found === count
    }
    await until(() => begun(2))
    writeFileSync(join(site.folder, 'in', 'a.csv'), 'gate,people\nG1,4\n')
    await until(() => site.status(id).destinations[0]!.delivered === 2)
    appendFileSync(join(site.folder, 'in', 'a.csv'), 'G2,5\n')
    await until(() => site.status(id).destinations[0]!.delivered === 4)
    const row = (await site.base.db.selectFrom('bridge').selectAll().where('id', '=', id).executeTakeFirstOrThrow()) as { revision: number }
    await site.change((editor) => editor.update('bridge', { id, revision: row.revision } as never, { when: both('later/*.csv') } as never))
    await until(() => begun(4))
    writeFileSync(join(site.folder, 'later', 'new.csv'), 'gate,people\nG9,1\n')
    await until(() => site.status(id).destinations[0]!.delivered === 6)
    expect(site.read('out/lines.csv').join()).not.toContain('old')
  })

  it('that are too long are passed over and told, and those behind them come', async () => {
    const site = await folderSite()
    writeFileSync(join(site.folder, 'in', 'a.csv'), `gate,people\nG1,1\n${'x'.repeat(2_500_000)}\nG2,2\n`)
    const linkId = await site.link(exchange)
    const id = await site.bridge(bridgeDraft({ when: [countTrigger(linkId)], take: [line], send: [csvOut(linkId, countFields)] }))
    await until(() => site.status(id).destinations[0]!.delivered === 2)
    expect(site.read('out/lines.csv').slice(1)).toEqual(['G1,1,in/a.csv', 'G2,2,in/a.csv'])
    expect(site.journal.entries.some(({ text }) => text.includes('A line of in/a.csv is longer than 1 MB'))).toBe(true)
  })

  it('are not looked for behind links of the file system', async () => {
    const site = await folderSite()
    writeFileSync(join(site.state, 'secret.csv'), 'gate,people\nsecret,1\n')
    symlinkSync(join(site.state, 'secret.csv'), join(site.folder, 'in', 'linked.csv'))
    symlinkSync(site.state, join(site.folder, 'way'))
    writeFileSync(join(site.folder, 'in', 'own.csv'), 'gate,people\nown,1\n')
    const linkId = await site.link(exchange)
    const when = [countTrigger(linkId), countTrigger(linkId, { files: 'way/*.csv' })]
    const id = await site.bridge(bridgeDraft({ when, take: [line], send: [csvOut(linkId, countFields)] }))
    await until(() => site.status(id).destinations[0]!.delivered === 1)
    expect(site.read('out/lines.csv').slice(1)).toEqual(['own,1,in/own.csv'])
  })
})

describe('a file as a whole', () => {
  it('is one run, each of its elements a row, once it no longer grows', async () => {
    const site = await folderSite()
    const linkId = await site.link(exchange)
    const id = await site.bridge(
      bridgeDraft({
        when: [{ ...countTrigger(linkId), files: 'in/*.json', by: 'whole', form: 'json' }],
        take: [{ name: 'lamp', kind: 'member', path: '$.lamps', each: true }],
        lookUps: [{ name: 'stage', rows: [{ is: '1', becomes: 'landing' }], otherwise: 'apron' }],
        send: [csvOut(linkId, [field('row'), field('id', 'lamp_id'), field('where', 'stage(lamp_stage)'), field('site')])],
      }),
    )
    writeFileSync(
      join(site.folder, 'in', 'x.json'),
      JSON.stringify({
        lamps: [
          { id: 'L1', stage: 1 },
          { id: 'L2', stage: 2 },
        ],
      }),
    )
    await until(() => site.status(id).destinations[0]!.delivered === 2)
    expect(site.read('out/lines.csv')).toEqual(['row,id,where,site', '1,L1,landing,New site', '2,L2,apron,New site'])
    expect(site.engine.bridges.runs(id)!.at(-1)).toMatchObject({ by: 'in/x.json', outcome: 'sent' })
  })
})

describe.each(['postgresql', 'mysql'] as const)('rows of a query (%s)', (dialect) => {
  const databaseOf = async () => (dialect === 'mysql' ? maria : await otherDatabase(closing))
  const asked = async (statement: string, fields: object[], more: object = {}) => {
    const { settings, query } = await databaseOf()
    await query('drop table if exists berth_call')
    await query(
      'create table berth_call (id bigint primary key, berth int, vessel varchar(40), draught numeric(20,10), eta timestamp null)',
    )
    await query(
      "insert into berth_call values (9007199254740993, 2, 'Merlin', 4.1234567891, '2026-11-26 14:06:45'), (2, 3, 'Tern', null, null)",
    )
    const site = await folderSite()
    const book = await site.link({ name: 'Call book', kind: 'sql', settings })
    const files = await site.link(exchange)
    await site.tags([memoryTag('berth', 2, 'int32')])
    await until(() => site.engine.link(book)!.status().flow === 'flowing')
    const id = await site.bridge(
      bridgeDraft({
        take: [
          { name: 'berth', kind: 'tag', path: 'berth' },
          { name: 'call', kind: 'query', linkId: book, statement, ...more },
        ],
        send: [csvOut(files, fields)],
      }),
    )
    await site.engine.bridges.get(id)!.runByHand()
    await until(() => site.status(id).destinations[0]!.delivered + site.status(id).skipped + site.status(id).failed > 0)
    return { site, id, query, run: site.engine.bridges.runs(id)!.at(-1)! }
  }

  it('are taken exactly as they are, by what other inputs have', async () => {
    const fields = ['id', 'vessel', 'draught', 'eta'].map((name) => field(name, `call_${name}`))
    const { site } = await asked('select id, vessel, draught, eta from berth_call where berth = {berth}', fields)
    expect(site.read('out/lines.csv')[1]).toBe('9007199254740993,Merlin,4.1234567891,2026-11-26T14:06:45.000Z')
  })
  it('make a record each where that is wanted; a single column is the value itself', async () => {
    const { site } = await asked(
      'select vessel from berth_call where berth > {berth - 1} order by berth',
      [field('row'), field('vessel', 'call')],
      {
        each: true,
      },
    )
    expect(site.read('out/lines.csv').slice(1)).toEqual(['1,Merlin', '2,Tern'])
  })
  it('that are not there skip the run, and say so', async () => {
    const { run } = await asked('select vessel from berth_call where berth = {berth + 40}', [field('vessel', 'call')])
    expect(run).toMatchObject({ outcome: 'skipped', fault: { what: 'Input “call” has nothing: the statement gave no row.' } })
  })
  it('that the database refuses are told in its words', async () => {
    const { run } = await asked('select pilot from berth_call', [field('vessel', 'call')])
    expect(run.fault!.what).toMatch(/there is no such column \(SQLSTATE 42(703|S22)\)/)
  })
  it('change nothing, whatever the statement says', async () => {
    const sneaky =
      dialect === 'mysql'
        ? "select * from berth_call into outfile '/tmp/conduit-stolen'"
        : 'with gone as (delete from berth_call returning vessel) select vessel from gone'
    const { run, query } = await asked(sneaky, [field('vessel', 'call')])
    expect(run.outcome).toBe('skipped')
    expect(await query('select * from berth_call')).toHaveLength(2)
  })
})

describe.each(['postgresql', 'mysql'] as const)('procedures and rights (%s)', (dialect) => {
  it('a procedure is called with each record, and offered among the tables', async () => {
    const { settings, query } = dialect === 'mysql' ? maria : await otherDatabase(closing)
    await query('drop table if exists mooring')
    await query('create table mooring (vessel varchar(40), berth int)')
    await query(
      dialect === 'mysql'
        ? 'create or replace procedure moor(in berth_no int, in ship varchar(40)) insert into mooring values (ship, berth_no)'
        : "create procedure moor(berth_no int, ship text) language sql as 'insert into mooring values (ship, berth_no)'",
    )
    const site = await folderSite()
    const book = await site.link({ name: 'Call book', kind: 'sql', settings })
    await until(() => site.engine.link(book)!.status().flow === 'flowing')
    const store = site.engine.link(book)!.receiver()
    if (!('takes' in store) || store.takes !== 'table') throw new Error('no table')
    expect(await store.tables()).toContainEqual(expect.objectContaining({ table: 'moor', kind: 'procedure' }))
    const id = await site.bridge(
      bridgeDraft({
        take: [{ name: 'ship', kind: 'constant', value: 'Merlin' }],
        send: [{ kind: 'table', number: 1, linkId: book, table: 'moor', how: 'call', fields: [field('ship'), field('berth_no', '2')] }],
      }),
    )
    await site.engine.bridges.get(id)!.runByHand()
    await until(() => site.status(id).destinations[0]!.delivered === 1)
    expect(await query('select vessel, berth from mooring')).toEqual([{ vessel: 'Merlin', berth: 2 }])
    expect((await store.describe({ schema: '', table: 'moor' }, 'procedure')).columns.map(({ name }) => name)).toEqual(['berth_no', 'ship'])
  })

  it('the check names what our account may not do on tables that bridges use', async () => {
    const { settings, query } = dialect === 'mysql' ? maria : await otherDatabase(closing)
    await query('drop table if exists readable')
    await query('create table readable (v int)')
    const account = await readerOf(dialect, settings)
    const uses = [
      { schema: '', table: 'readable', how: 'insert' as const },
      { schema: '', table: 'gone', how: 'update' as const },
    ]
    const steps = []
    const around = { wire: new Wire(), security: await testSecurity(), uses, roots: () => [], beside: [] }
    for await (const step of sqlDriver.check(account, new AbortController().signal, around)) steps.push(step)
    const rights = steps.at(-1)!
    expect(rights).toMatchObject({ step: 'rights', flow: 'broken' })
    expect(JSON.stringify(rights)).toContain('no right to INSERT on readable; gone is not there')
  })
})

/** An account that may read the one table, and no more. */
const readerOf = async (dialect: 'postgresql' | 'mysql', settings: Record<string, unknown>) => {
  const given = { ...settings, user: 'reader', password: { plain: 'reader' } }
  if (dialect === 'mysql')
    await maria.asRoot("create or replace user reader@'%' identified by 'reader'; grant select on callbook.readable to reader@'%'")
  else {
    const { Client } = await import('pg').then(({ default: pg }) => pg)
    const client = new Client({ ...settings, password: (settings.password as { plain: string }).plain } as never)
    await client.connect()
    await client.query("do $$ begin create role reader login password 'reader'; exception when duplicate_object then null; end $$")
    await client.query('grant select on readable to reader')
    await client.end()
  }
  const { settings: parsed } = linkContract.parse({ name: 'Reader', kind: 'sql', settings: given })
  return parsed as Parameters<typeof sqlDriver.check>[0]
}

describe('a table that is parted by time', () => {
  it('gets its parts ahead and for what comes late, and loses old ones', async () => {
    const { settings, query } = await otherDatabase(closing)
    await query('create table count (at timestamptz not null, people int) partition by range (at)')
    await query("create table count_2019_01 partition of count for values from ('2019-01-01') to ('2019-02-01')")
    const site = await folderSite()
    const book = await site.link({ name: 'Call book', kind: 'sql', settings })
    await until(() => site.engine.link(book)!.status().flow === 'flowing')
    await site.tags([memoryTag('late', '2025-03-05T00:00:00Z', 'string')])
    const id = await site.bridge(
      bridgeDraft({
        take: [{ name: 'late', kind: 'tag', path: 'late' }],
        send: [
          {
            ...{ kind: 'table', number: 1, linkId: book, table: 'count', parts: { column: 'at', per: 'month', ahead: 2, keep: 730 } },
            fields: [field('at', 'late'), field('people', '4')],
          },
        ],
      }),
    )
    await site.engine.bridges.get(id)!.runByHand()
    await until(() => site.status(id).destinations[0]!.delivered === 1)
    const parts = (
      await query("select inhrelid::regclass::text as part from pg_inherits where inhparent = 'count'::regclass order by 1")
    ).map(({ part }) => part)
    expect(parts).toContain('count_2025_03')
    expect(parts).toHaveLength(4)
    expect(parts).not.toContain('count_2019_01')
    // an hour of the database without them is no reason to lose a row
    await query('drop table count_2025_03')
    await site.engine.bridges.get(id)!.runByHand()
    await until(() => site.status(id).destinations[0]!.delivered === 2)
  })

  it('gets its parts in MariaDB one behind the other; what is late has a place, and what no clock says goes aside', async () => {
    const maria = await startMariadb()
    closing.push(() => maria.stop())
    const columns = [
      { name: 'at', type: 'datetime(3)', nullable: false },
      { name: 'people', type: 'integer', nullable: true },
    ]
    const table = { ...{ schema: '', table: 'count', columns, key: [], indexed: 'at' }, parted: 'at', partedPer: 'day' as const }
    const longAgo = Date.now() - 40 * 86_400_000
    for (const statement of createStatements(table, 'mysql', longAgo)) await maria.query(statement)
    const site = await folderSite()
    const book = await site.link({ name: 'Call book', kind: 'sql', settings: maria.settings })
    await until(() => site.engine.link(book)!.status().flow === 'flowing')
    await site.tags([memoryTag('at', '2019-03-05T00:00:00Z', 'string')])
    const id = await site.bridge(
      bridgeDraft({
        when: [{ kind: 'change', tag: 'at' }],
        take: [{ name: 'at', kind: 'tag', path: 'at' }],
        send: [
          {
            ...{ kind: 'table', number: 1, linkId: book, table: 'count', parts: { column: 'at', per: 'day', ahead: 3, keep: 30 } },
            fields: [field('at', 'at'), field('people', '4')],
          },
        ],
      }),
    )
    const delivered = () => site.status(id).destinations[0]!.delivered
    const day = (ahead: number) => new Date(Date.now() + ahead * 86_400_000).toISOString()
    const parts = async () =>
      (
        await maria.query(
          "select partition_name as part from information_schema.partitions where table_name = 'count' order by partition_ordinal_position",
        )
      ).map(({ part }) => part)
    await site.engine.bridges.get(id)!.runByHand()
    await until(() => delivered() === 1)
    const suffixOf = (ahead: number) => `p${day(ahead).slice(0, 10).replaceAll('-', '_')}`
    expect(await parts()).toEqual([0, 1, 2, 3].map(suffixOf))
    await site.write('at', day(5))
    await until(() => delivered() === 2)
    expect(await parts()).toEqual([0, 1, 2, 3, 4, 5].map(suffixOf))
    await site.write('at', '9999-03-05T00:00:00Z')
    await until(() => site.status(id).destinations[0]!.aside === 1)
    await site.write('at', day(0))
    await until(() => delivered() === 3)
    expect(await maria.query('select count(*) as n from count')).toEqual([{ n: 3 }])
  })
})

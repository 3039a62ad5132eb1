import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { Carried } from '#core/messages/carried'
import { fitInto, type FieldType } from '#core/bridges/fit'
import { bridgeProblems } from '#core/bridges/problems'
import { bridgeContract } from '#core/bridges/settings'
import { wayProblem } from '#core/files/settings'
import { covers, matcherOf } from '#core/mqtt/topic'
import { fieldTypeOf, proposedFor, type CatalogueColumn } from '#core/sql/columnTypes'
import { createStatements, newTableProblems } from '#core/sql/createTable'
import { quotedName } from '#core/sql/quoted'
import { isForGood, stateText } from '#core/sql/states'

/** How values fit into the fields of receivers, and what is wrong with a bridge. */

const column = (type: string, more: Partial<CatalogueColumn> = {}): CatalogueColumn => ({
  ...{ name: 'c', type, declared: '', length: null, digits: null, decimals: null },
  ...{ nullable: true, hasDefault: false, isGenerated: false, isKey: false, ...more },
})
const into = (type: string, value: Carried, more: Partial<CatalogueColumn> = {}) => {
  const fit = fitInto(fieldTypeOf(column(type, more), 'postgresql'), value)
  return fit.ok ? [fit.how, fit.value] : [fit.how, fit.text]
}

describe('the fit of a value', () => {
  it.each<[string, Carried, unknown[], Partial<CatalogueColumn>?]>([
    ['bigint', 48_211_410.2, ['rounds', 48_211_410n]],
    ['bigint', 2n ** 63n - 1n, ['exact', 2n ** 63n - 1n]],
    ['bigint', 2n ** 63n, ['range', '9223372036854775808 is out of range of bigint']],
    ['smallint', 70_000, ['range', '70000 is out of range of smallint']],
    ['integer', '42', ['exact', 42n]],
    ['integer', 'x', ['type', 'x is no integer']],
    ['integer', true, ['exact', 1n]],
    ['integer', NaN, ['range', 'NaN is out of range of integer']],
    ['int', -1, ['range', '-1 is out of range of int unsigned'], { declared: 'int unsigned' }],
    ['numeric', 0.18715, ['rounds', '0.1872'], { digits: 8, decimals: 4 }],
    ['numeric', 12_345.5, ['range', '12345.5 is out of range of numeric(8,4)'], { digits: 8, decimals: 4 }],
    ['numeric', 2n ** 70n, ['exact', '1180591620717411303424']],
    ['numeric', 1e-7, ['exact', '0.0000001']],
    ['numeric', -0.5, ['rounds', '-1'], { digits: 3, decimals: 0 }],
    ['double precision', 2n ** 60n + 1n, ['rounds', 2 ** 60]],
    ['real', 16_777_217, ['rounds', 16_777_216]],
    ['real', 0.1, ['exact', 0.1]],
    ['real', 1e300, ['range', '1e+300 is out of range of real']],
    ['character varying', 'HS-2217', ['cut', 'HS-22'], { length: 5 }],
    ['text', { a: 1 }, ['exact', '{"a":1}']],
    ['text', null, ['null', 'there is no value, and the field takes none without'], { nullable: false }],
    ['boolean', 'yes', ['type', 'yes is no boolean']],
    ['boolean', 1, ['exact', true]],
    ['timestamp with time zone', '2026-11-23T14:06:45Z', ['exact', new Date('2026-11-23T14:06:45Z')]],
    ['timestamp with time zone', 'soon', ['type', 'soon is no timestamptz']],
    ['date', new Date('2026-11-23T14:06:45Z'), ['cut', '2026-11-23']],
    ['jsonb', 'plain', ['exact', '"plain"']],
    ['jsonb', '{"a":1}', ['exact', '{"a":1}']],
    ['bytea', new Uint8Array([1]), ['exact', new Uint8Array([1])]],
    ['point', 5, ['exact', '5']],
  ])('into %s of %s is told', (type, value, expected, more) => expect(into(type, value, more)).toEqual(expected))

  it('never changes a value without saying so', () => {
    const types: FieldType[] = ['smallint', 'bigint', 'real', 'double precision'].map((type) => fieldTypeOf(column(type), 'postgresql'))
    fc.assert(
      fc.property(
        fc.constantFrom(...types),
        fc.oneof(fc.double({ noNaN: true }), fc.bigInt({ min: -(2n ** 70n), max: 2n ** 70n })),
        (type, value) => {
          const fit = fitInto(type, value)
          // a real holds about seven digits: what is called exact there is so to them
          if (!fit.ok || fit.how !== 'exact' || type.holds === 'float32') return true
          return Number(fit.value) === Number(value)
        },
      ),
    )
  })

  it('rounds decimals as one does by hand, digit by digit', () => {
    fc.assert(
      fc.property(fc.bigInt({ min: -(10n ** 12n), max: 10n ** 12n }), fc.integer({ min: 0, max: 4 }), (units, decimals) => {
        const value = Number(units) / 10 ** 4
        const fit = fitInto({ name: 'd', holds: 'decimal', digits: 30, decimals, nullable: true }, value)
        return fit.ok && Math.abs(Number(fit.value) - value) <= 0.5 / 10 ** decimals + 1e-6
      }),
    )
  })
})

describe('a table that a sheet makes', () => {
  it('has types that hold whatever the tag may have', () => {
    expect(
      (['bool', 'int16', 'uint16', 'uint32', 'int64', 'uint64', 'float32', 'datetime', 'string', 'int16[]'] as const).map((type) =>
        proposedFor(type, 'postgresql'),
      ),
    ).toEqual(['boolean', 'smallint', 'integer', 'bigint', 'bigint', 'numeric(20,0)', 'real', 'timestamptz', 'text', 'jsonb'])
    expect((['uint64', 'datetime', 'string'] as const).map((type) => proposedFor(type, 'mysql'))).toEqual([
      'bigint unsigned',
      'datetime(3)',
      'varchar(255)',
    ])
  })
  const table = {
    schema: 'billing',
    table: 'en"ergy',
    columns: [
      { name: 'at', type: 'timestamptz', nullable: false },
      { name: 'kwh', type: 'bigint', nullable: true },
    ],
    key: ['kwh'],
    parted: '',
    partedPer: 'month' as const,
    indexed: 'at',
  }
  it('is one statement, whatever is in its names', () => {
    expect(createStatements(table, 'postgresql')).toEqual([
      'create table "billing"."en""ergy" (\n  "at" timestamptz not null,\n  "kwh" bigint not null,\n  primary key ("kwh")\n)',
      'create index "en""ergy_at" on "billing"."en""ergy" ("at")',
    ])
    expect(quotedName('a`b', 'mysql')).toBe('`a``b`')
  })
  it('is parted by a column of times, as each database has it', () => {
    const parted = { ...table, schema: '', table: 'count', key: [], parted: 'at', indexed: '' }
    expect(createStatements(parted, 'postgresql')).toEqual([
      'create table "count" (\n  "at" timestamptz not null,\n  "kwh" bigint\n) partition by range ("at")',
    ])
    const columns = [{ name: 'at', type: 'datetime(3)', nullable: true }]
    expect(createStatements({ ...parted, columns }, 'mysql', Date.UTC(2026, 10, 27, 2))).toEqual([
      'create table `count` (\n  `at` datetime(3) not null\n) partition by range columns (`at`) (\n' +
        "  partition `p_earlier` values less than ('2026-11-01 00:00:00'),\n" +
        "  partition `p2026_11` values less than ('2026-12-01 00:00:00')\n)",
    ])
    const byDay = { ...parted, columns: [{ name: 'at', type: 'date', nullable: false }] }
    expect(newTableProblems(byDay, 'mysql')).toEqual(['A table is parted by times, and “at” is to be of type date.'])
    expect(newTableProblems({ ...parted, key: ['kwh'] }, 'postgresql')).toEqual(['The key has to hold “at”, by which the table is parted.'])
  })
  it('takes no type of somebody’s own, and names what is wrong', () => {
    const wrong = {
      ...table,
      columns: [
        { name: 'a', type: 'int); drop table x', nullable: true },
        { name: 'A', type: 'text', nullable: true },
      ],
      key: ['b'],
      parted: '',
      indexed: '',
    }
    expect(newTableProblems(wrong, 'postgresql')).toEqual([
      'There are two columns “A”.',
      '“int); drop table x” is no type that column “a” could be made with.',
      'There is no column “b”.',
    ])
    expect(newTableProblems(table, 'postgresql')).toEqual([])
  })
  it('knows which refusals stay whatever one does', () => {
    expect(['22003', '23505', '23514'].every(isForGood)).toBe(true)
    expect(['08006', '40001', '42P01', '42703', '53100', '57P03', '42501'].some(isForGood)).toBe(false)
    expect([stateText('22003'), stateText('23999'), stateText('ZZ000')]).toEqual([
      ...['a number is out of the range of its column', 'a rule of the table says no', 'a reason of its own'],
    ])
  })
})

describe('the way to a file', () => {
  it.each(['../a', 'a/../b', '/a', 'a\\b', 'C:a', 'a//b', 'a\0', './a', 'x'.repeat(201)])('goes down only: %s', (way) =>
    expect(wayProblem(way)).not.toBe(null),
  )
  it.each(['', 'a', 'meters/2026/a.csv', '..a/b..'])('is taken: %s', (way) => expect(wayProblem(way)).toBe(null))
})

describe('a filter that covers another', () => {
  it.each([
    ['#', 'a/b', true],
    ['#', '$SYS/x', false],
    ['a/#', 'a', true],
    ['a/#', 'a/+/c', true],
    ['a/+', 'a/#', false],
    ['+/b', 'a/b', true],
    ['+/b', 'a/+', false],
    ['a/+/c', 'a/b/c', true],
    ['a/b', 'a/b/c', false],
  ])('%s covers %s: %s', (outer, inner, expected) => expect(covers(outer, inner)).toBe(expected))

  it('brings every topic that the other brings', () => {
    const level = fc.constantFrom('a', 'b', '+')
    const filter = fc
      .tuple(fc.array(level, { minLength: 1, maxLength: 3 }), fc.boolean())
      .map(([levels, open]) => [...levels, ...(open ? ['#'] : [])].join('/'))
    const topic = fc.array(fc.constantFrom('a', 'b', 'c'), { minLength: 1, maxLength: 4 }).map((levels) => levels.join('/'))
    fc.assert(
      fc.property(
        filter,
        filter,
        topic,
        (outer, inner, name) => !covers(outer, inner) || !matcherOf(inner)(name) || matcherOf(outer)(name),
      ),
    )
  })
})

describe('what is wrong with a bridge', () => {
  const link = (id: number) =>
    ({
      1: { name: 'Quay', kind: 'mqtt' as const, settings: {}, nodeId: null },
      2: { name: 'Book', kind: 'sql' as const, settings: {}, nodeId: null },
    })[id]
  const wrongIn = (more: object) => {
    const draft = bridgeContract.parse({ name: 'b', send: [{ kind: 'tags', number: 1, fields: [{ into: 'a', from: 'run' }] }], ...more })
    return Object.fromEntries(bridgeProblems(draft, { link, outlet: () => undefined }).map(({ path, message }) => [path, message]))
  }
  const table = (more: object = {}) => ({ kind: 'table', number: 1, linkId: 2, table: 't', fields: [{ into: 'a', from: 'run' }], ...more })

  it('is nothing where all is as it should be', () => {
    expect(wrongIn({})).toEqual({})
    expect(wrongIn({ send: [table({ how: 'upsert', key: ['a'] })] })).toEqual({})
  })
  it.each<[object, string]>([
    [{ when: [{ kind: 'message', linkId: 2, filter: 'a' }] }, 'when.0.linkId'],
    [{ when: [{ kind: 'message', linkId: 9, filter: 'a' }] }, 'when.0.linkId'],
    [{ take: [{ name: 'value', kind: 'constant', value: 1 }] }, 'take.0.name'],
    [
      {
        take: [
          { name: 'a', kind: 'constant', value: 1 },
          { name: 'a', kind: 'constant', value: 2 },
        ],
      },
      'take.1.name',
    ],
    [
      {
        take: [
          { name: 'a', kind: 'constant', value: 1 },
          { name: 'a_time', kind: 'constant', value: 2 },
        ],
      },
      'take.1.name',
    ],
    [{ take: [{ name: 'a', kind: 'member', path: '$.x' }] }, 'take.0.path'],
    [{ when: [{ kind: 'message', linkId: 1, filter: 'a' }], take: [{ name: 'a', kind: 'member', path: 'x' }] }, 'take.0.path'],
    [{ send: [table({ linkId: 1 })] }, 'send.0.linkId'],
    [{ send: [table({ fields: [{ into: 'a', from: 'nobody' }] })] }, 'send.0.fields.0.from'],
    [
      {
        send: [
          table({
            fields: [
              { into: 'a', from: 'run' },
              { into: 'a', from: 'now' },
            ],
          }),
        ],
      },
      'send.0.fields.1.into',
    ],
    [{ send: [table({ how: 'upsert' })] }, 'send.0.key'],
    [{ send: [table({ how: 'update', key: ['a'] })] }, 'send.0.key'],
    [{ send: [table({ how: 'upsert', key: ['b'] })] }, 'send.0.key'],
    [{ send: [{ kind: 'topic', number: 1, linkId: 1, topic: 'a/+', fields: [{ into: 'a', from: 'run' }] }] }, 'send.0.topic'],
    [
      {
        send: [
          {
            kind: 'topic',
            number: 1,
            linkId: 1,
            topic: 'a',
            form: 'plain',
            fields: [
              { into: 'a', from: 'run' },
              { into: 'b', from: 'now' },
            ],
          },
        ],
      },
      'send.0.fields.1.into',
    ],
    [{ send: [{ kind: 'file', number: 1, linkId: 2, name: '../x', fields: [{ into: 'a', from: 'run' }] }] }, 'send.0.name'],
    [{ send: [{ kind: 'tags', number: 1, fields: [{ into: 'a/{b', from: 'run' }] }] }, 'send.0.fields.0.into'],
    [{ send: [table(), table()] }, 'send.1.number'],
  ])('is named at its field: %j', (more, path) => expect(Object.keys(wrongIn(more))).toContain(path))
})

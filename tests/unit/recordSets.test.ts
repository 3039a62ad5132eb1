import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { carriedFor, readerOf, setColumnOf, type AskedColumn } from '#core/records/columns'
import { followPlan, isNothing, type KnownTag } from '#core/records/follow'
import { itemKey, itemText, tagsOf, type SetShape } from '#core/records/items'
import { setProblems } from '#core/records/problems'
import { recordSetContract, type RecordSetDraft } from '#core/records/settings'
import { SetStatements } from '#core/records/statements'
import { pathProblem } from '#core/tags/path'

const column = (type: string, more: Partial<AskedColumn> = {}): AskedColumn => ({
  ...{ name: 'c', type, declared: '', length: null, digits: null, decimals: null },
  ...more,
})
const made = (type: string, more: Partial<AskedColumn> = {}) => setColumnOf(column(type, more), 'postgresql')
const set = (how: object, more: object = {}): RecordSetDraft =>
  recordSetContract.parse({ name: 'Profile', linkId: 1, folder: 'book', how, ...more })
const shape = (names: string[], rows: string[] | null): SetShape => ({
  columns: names.map((name) => ({ name, declared: 'text', type: 'string', note: '' })),
  ...{ rows, parameters: [], key: null },
})
const table = { kind: 'table', table: 'profile' }
const snapshot = set({ kind: 'snapshot', from: table, key: 'voyage' })

describe('what a column becomes', () => {
  it.each([
    ['smallint', {}, 'int16'],
    ['integer', {}, 'int32'],
    ['bigint', {}, 'int64'],
    ['real', {}, 'float32'],
    ['double precision', {}, 'float64'],
    ['boolean', {}, 'bool'],
    ['numeric', { digits: 15, decimals: 4 }, 'float64'],
    ['numeric', { digits: 16, decimals: 4 }, 'string'],
    ['numeric', { digits: 18, decimals: 0 }, 'int64'],
    ['numeric', { digits: 19, decimals: 0 }, 'string'],
    ['numeric', {}, 'string'],
    ['timestamp with time zone', {}, 'datetime'],
    ['timestamp without time zone', {}, 'datetime'],
    ['date', {}, 'string'],
    ['interval', {}, 'string'],
    ['uuid', {}, 'string'],
    ['jsonb', {}, 'string'],
    ['type 600', {}, 'string'],
  ])('of %s %o is %s', (type, more, tagType) => expect(made(type, more).type).toBe(tagType))

  it('says what is to be known of it', () => {
    expect(made('numeric', { digits: 12, decimals: 4 }).note).toBe('numeric(12,4) is passed on as float64: exact here')
    expect(made('numeric').note).toMatch(/more digits than a float64/)
    expect(made('timestamp without time zone').note).toMatch(/no zone/)
    expect(made('timestamp with time zone').note).toBe('')
    expect(made('type 600').note).toMatch(/as text/)
    expect(made('uuid').note).toBe('')
  })

  it('keeps every digit of what fits a float64', () => {
    const read = readerOf(made('numeric', { digits: 15, decimals: 5 }), null)
    fc.assert(
      fc.property(fc.bigInt({ min: -(10n ** 15n) + 1n, max: 10n ** 15n - 1n }), (whole) => {
        const text = `${whole < 0n ? '-' : ''}${String(whole < 0n ? -whole : whole)
          .padStart(6, '0')
          .replace(/(\d{5})$/, '.$1')}`
        const value = read(text) as number
        expect(BigInt(value.toFixed(5).replace('.', ''))).toBe(whole)
      }),
    )
  })

  it('reads null as nothing, or as what was chosen where that fits', () => {
    expect(readerOf(made('integer'), null)(null)).toBeUndefined()
    expect(readerOf(made('integer'), '0')(null)).toBe(0)
    expect(readerOf(made('boolean'), '0')(null)).toBe(false)
    expect(readerOf(made('integer'), 'none')(null)).toBeUndefined()
    expect(readerOf(made('text'), 'none')(null)).toBe('none')
    expect(readerOf(made('timestamp with time zone'), null)('infinity')).toBeUndefined()
    expect(readerOf(made('jsonb'), null)({ a: [1n] })).toBe('{"a":[1]}')
    expect(readerOf(made('numeric', { digits: 4, decimals: 0 }), null)('12')).toBe(12n)
    expect(readerOf(made('double precision'), null)(NaN)).toBeNaN()
  })

  it('goes back as the database takes it', () => {
    expect(carriedFor(1_764_000_000_000, made('timestamp with time zone'))).toEqual(new Date(1_764_000_000_000))
    expect(carriedFor(5n, made('bigint'))).toBe(5n)
  })
})

describe('the tags of a set', () => {
  it('end with the number of the change and the stamp', () => {
    const tags = tagsOf(snapshot, shape(['ship', 'volts'], ['HS-1', 'HS-2']))
    expect(tags.map(({ path }) => path)).toEqual([
      ...['book/ship/HS-1', 'book/ship/HS-2', 'book/volts/HS-1', 'book/volts/HS-2'],
      ...['book/state', 'book/error', 'book/read_again', 'book/count', 'book/change', 'book/stamp'],
    ])
  })

  it('have paths of their own, whatever columns and rows are called', () => {
    const name = fc.oneof(
      fc.string({ maxLength: 80 }),
      fc.constantFrom('stamp', 'state', 'a/b', 'a_b', ' ', '', '\u0000', 'é\u200b', '/', '..'),
    )
    fc.assert(
      fc.property(fc.uniqueArray(name, { maxLength: 6 }), fc.option(fc.uniqueArray(name, { maxLength: 6 })), (columns, rows) => {
        const tags = tagsOf(snapshot, shape(columns, rows))
        expect(new Set(tags.map(({ path }) => path)).size).toBe(tags.length)
        expect(tags.map(({ path }) => pathProblem(path)).filter(Boolean)).toEqual([])
        expect(new Set(tags.map(itemKey)).size).toBe(tags.length)
      }),
    )
  })

  it('of a cursor are those that move it as was chosen, the key as the key is', () => {
    const cursor = set({ kind: 'cursor', from: table, key: 'number', moves: ['next', 'key'], writes: ['volts'] })
    const key = { name: 'number', declared: 'integer', type: 'int32', note: '' } as const
    const tags = tagsOf(cursor, { ...shape(['ship', 'volts'], null), key })
    expect(tags.filter(({ path }) => path.startsWith('book/move/'))).toMatchObject([
      { path: 'book/move/next', type: 'bool', access: 'readwrite' },
      { path: 'book/move/key', type: 'int32', access: 'readwrite' },
    ])
    expect(tags.find(({ column }) => column === 'volts')!.access).toBe('readwrite')
    expect(tags.find(({ column }) => column === 'ship')!.access).toBe('read')
    expect(itemText(tags[0]!)).toBe('ship')
  })
})

describe('following', () => {
  const known = (tags: ReturnType<typeof tagsOf>): KnownTag[] => tags.map((tag, i) => ({ ...tag, id: i + 1 }))
  const before = shape(['ship', 'volts'], ['HS-1', 'HS-2'])

  it('has nothing to do where all is as it was', () => {
    expect(isNothing(followPlan(snapshot, before, known(tagsOf(snapshot, before))))).toBe(true)
  })

  it('makes what came, keeps the tags of rows that went, and removes those of columns that went', () => {
    const after = { ...shape(['ship', 'ramp'], ['HS-2', 'HS-3']) }
    const plan = followPlan(snapshot, after, known(tagsOf(snapshot, before)))
    expect(plan.make.map(({ path }) => path)).toEqual(['book/ship/HS-3', 'book/ramp/HS-2', 'book/ramp/HS-3'])
    // volts of both rows; ship of HS-1 stays
    expect(plan.remove).toEqual([3, 4])
    const strict = set({ kind: 'snapshot', from: table, key: 'voyage', gone: 'remove' })
    expect(followPlan(strict, after, known(tagsOf(strict, before))).remove).toEqual([1, 3, 4])
  })

  it('keeps what a procedure gave while nobody knows what it gives', () => {
    const call = set({ kind: 'procedure', routine: 'power_plan' })
    const tags = known(tagsOf(call, shape(['ship'], null)))
    expect(isNothing(followPlan(call, { ...shape([], null), columns: null }, tags))).toBe(true)
    expect(followPlan(call, shape(['berth'], null), tags)).toMatchObject({ make: [{ path: 'book/berth' }], remove: [1] })
  })

  it('changes types and access, and keeps one tag of each', () => {
    const wide = { ...before, columns: before.columns!.map((one) => ({ ...one, type: 'int64' as const })) }
    const tags = known(tagsOf(snapshot, before))
    const twice = [...tags, { ...tags[0]!, id: 99 }]
    const plan = followPlan(snapshot, wide, twice)
    expect(plan.change.map(({ id, type }) => [id, type])).toEqual([1, 2, 3, 4].map((id) => [id, 'int64']))
    expect(plan.remove).toEqual([99])
  })
})

describe('what is wrong with a set', () => {
  const around = {
    link: (id: number) => ({ 1: { name: 'Call book', kind: 'sql' as const }, 2: { name: 'Meters', kind: 'modbus-tcp' as const } })[id],
    others: [{ name: 'Tariff', folder: 'office/tariff' }],
  }
  const problems = (how: object, more: object = {}) => setProblems(set(how, more), around).map(({ path }) => path)

  it('is told at its place', () => {
    expect(problems({ kind: 'snapshot', from: table })).toEqual([])
    expect(problems({ kind: 'snapshot', from: table }, { linkId: 2 })).toEqual(['linkId'])
    expect(problems({ kind: 'snapshot', from: table }, { linkId: 9, folder: 'office' })).toEqual(['linkId', 'folder'])
    expect(problems({ kind: 'snapshot', from: table, writes: ['volts'] })).toEqual(['how.writes'])
    expect(problems({ kind: 'snapshot', from: { kind: 'query', statement: 'delete from profile' } })).toEqual(['how.from.statement'])
    expect(problems({ kind: 'cursor', from: table, key: 'k', columns: ['a', 'a'], writes: ['k', 'b'] })).toEqual([
      ...['how.writes.0', 'how.writes.1', 'how.columns.1'],
    ])
    expect(problems({ kind: 'query', statement: 'select {a} + {b}', take: [{ name: 'a', path: 'x' }], when: [] })).toEqual([
      ...['how.statement', 'how.when'],
    ])
  })
})

describe('statements', () => {
  it('quote every name, and hand keys over beside the text', () => {
    const how = set({
      kind: 'cursor',
      from: { kind: 'table', schema: 'own"er', table: 'pro`file' },
      key: 'k"; drop table x',
      columns: ['a'],
    }).how
    if (how.kind !== 'cursor') throw new Error('no cursor')
    const of = (dialect: 'postgresql' | 'mysql') => new SetStatements(how, dialect).rowOf("x' or 1 = 1")
    expect(of('postgresql').parts[0]).toBe('select "a", "k""; drop table x" from "own""er"."pro`file" where "k""; drop table x" = ')
    expect(of('mysql').parts[0]).toBe('select `a`, `k"; drop table x` from `own"er`.`pro``file` where `k"; drop table x` = ')
    expect(of('mysql').parameters).toEqual(["x' or 1 = 1"])
  })

  it('ask for one row more than may be, in the order that was chosen', () => {
    const from = { kind: 'query', statement: 'select * from voyage;' }
    const { how } = set({ kind: 'snapshot', from, key: 'number', order: 'arrived', most: 10 })
    if (how.kind !== 'snapshot') throw new Error('no snapshot')
    const query = new SetStatements(how, 'postgresql').rows()
    expect(query.parts.join('')).toBe('select * from (\nselect * from voyage\n) as "rows_asked" order by "arrived" limit 11')
    expect(query.isPlain).toBe(false)
    // a table of any size is counted only as far as it matters
    expect(new SetStatements(how, 'postgresql').count().parts[0]).toContain('limit 11) as counted')
  })
})

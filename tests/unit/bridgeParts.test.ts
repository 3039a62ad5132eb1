import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { jsonOf, textOf, type Carried } from '#core/messages/carried'
import { comesAs } from '#core/bridges/comes'
import { shapersOf } from '#core/bridges/compiled'
import { csvHeader, csvLine } from '#core/bridges/csvLine'
import { readExpression } from '#core/bridges/expression'
import { withSuffix } from '#core/bridges/fileName'
import { parcelText, readParcel } from '#core/bridges/parcel'
import type { Scope } from '#core/bridges/names'
import { pathMatcher, patternProblem } from '#core/tags/pattern'
import { payloadOf } from '#core/bridges/payload'
import { renamedIn } from '#core/bridges/renamed'
import { nothingBut, type InputValue, type RunFacts } from '#core/bridges/run'
import { cronProblem, zoneProblem } from '#core/bridges/schedule'
import { bridgeContract, csvWayContract, type BridgeDraft } from '#core/bridges/settings'
import { readTemplate } from '#core/bridges/template'
import { watchFor, type TagTrigger } from '#core/bridges/triggers'
import { Payload } from '#core/messages/payload'
import { quality } from '#core/tags/quality'

/** The parts that bridges are made of, each by itself. */

const input = (value: Carried, more: Partial<InputValue> = {}): InputValue => ({ value, quality: 0, at: 1000, unit: 'kW', ...more })
const runWith = (inputs: InputValue[], occasion: object = {}): RunFacts => ({
  ...{
    occasion: { ...nothingBut('clock', 0, Date.UTC(2026, 10, 26, 14, 6, 45)), ...occasion },
    now: 5000,
    number: 17,
    row: 1,
    site: 'Harrow Sound',
    bridge: 'Rows',
    inputs,
  },
})
const scope = (names: string[]): Scope => ({ inputs: names.map((name) => ({ name, hasParts: false })), lookUps: [] })
const worked = (text: string, names: string[], run: RunFacts) => {
  const read = readExpression(text, scope(names))
  if (!read.ok) throw new Error(read.problem)
  return read.work(run)
}

describe('what a field comes from', () => {
  it('hands on exactly what a name stands for', () => {
    const wide = 2n ** 63n - 1n
    expect(worked('energy', ['energy'], runWith([input(wide)]))).toBe(wide)
    expect(worked('list', ['list'], runWith([input([1, null, 'x'])]))).toEqual([1, null, 'x'])
    expect(worked('run', [], runWith([]))).toBe(17)
    expect(worked('time', [], runWith([]))).toEqual(new Date(Date.UTC(2026, 10, 26, 14, 6, 45)))
  })

  it('knows what else an input has, and the parts of the path or topic', () => {
    const run = runWith([input(7, { quality: quality.UncertainLastUsableValue })], { by: 'tag', path: 'berth/2/power' })
    expect(worked('a_quality', ['a'], run)).toBe(quality.UncertainLastUsableValue)
    expect(worked('a_unit', ['a'], run)).toBe('kW')
    expect(worked('a_time', ['a'], run)).toEqual(new Date(1000))
    expect(worked('part2', ['a'], run)).toBe('2')
    expect(worked('part9', ['a'], run)).toBe(null)
    expect(worked('worst', ['a'], run)).toBe(quality.UncertainLastUsableValue)
    expect(worked('topic', [], runWith([], { by: 'message', topic: 'quay/1' }))).toBe('quay/1')
  })

  it('knows what a value is called, and leaves rows the columns that are called so', () => {
    const names = [{ value: 7, name: 'late' }]
    const run = runWith([input(7, { names }), input(8, { names }), input({ unit: 't', value_name: 'x' })], { by: 'tag', value: 7, names })
    const all = ['a', 'b', 'row'].map((name) => ({ name, hasParts: name === 'row' }))
    const work = (text: string) => {
      const read = readExpression(text, { inputs: all, lookUps: [] })
      return read.ok ? read.work(run) : read.problem
    }
    expect(['a_value_name', 'b_value_name', 'value_name', 'row_unit', 'row_value_name'].map(work)).toEqual(['late', null, 'late', 't', 'x'])
    expect(comesAs('a_value_name', [], { tagType: () => undefined, now: undefined })).toBe(null)
    expect(comesAs('value_name', [], { tagType: () => undefined, now: undefined })).toBe('string')
  })

  it('is worked out as formulas are, and null where an input is null', () => {
    expect(worked('a * 10 + b', ['a', 'b'], runWith([input(4.2), input(true)]))).toBe(43)
    expect(worked('a * 10', ['a'], runWith([input(null)]))).toBe(null)
    expect(worked('concat(part1, "-", a)', ['a'], runWith([input('x')], { path: 'berth/2' }))).toBe('berth-x')
    expect(() => worked('a + 1', ['a'], runWith([input([1])]))).toThrow('a is a list or has parts')
    expect(() => worked('1 / a', ['a'], runWith([input(0)]))).toThrow('divides by zero')
  })

  it.each([
    ['valeu * 2', 'Nothing here is called “valeu”'],
    ['previous(a)', 'does not look back'],
    ['a +', 'unexpected end'],
    ['process.exit()', 'no function “exit”'],
    ['', 'A formula says'],
  ])('refuses “%s”', (text, why) =>
    expect(readExpression(text, scope(['a']))).toMatchObject({ ok: false, problem: expect.stringContaining(why) as string }),
  )

  it('says of a payload that is no text that it is none', () => {
    const payload = new Payload(new Uint8Array([0xff, 0xfe, 0xfd]))
    expect(() => worked('payload', [], runWith([], { by: 'message', payload }))).toThrow('no text in UTF-8')
  })

  it('tells the type of what comes, so that a column can be made for it', () => {
    const take = bridgeContract.shape.take.parse([
      { name: 'power', kind: 'tag', path: 'berth/1/power' },
      { name: 'people', kind: 'member', path: '$.people' },
    ])
    const facts = (now: Carried | undefined) => ({
      now,
      tagType: (path: string) => (path === 'berth/1/power' ? ('float32' as const) : undefined),
    })
    const all = ['power', 'power_time', 'time', 'run', 'part3', 'people', 'power * 2'].map((from) => comesAs(from, take, facts(undefined)))
    expect(all).toEqual(['float32', 'datetime', 'datetime', 'int64', 'string', null, null])
    const by = [4, 4n, true, 'x', [1], new Date(), null].map((now) => comesAs('people', take, facts(now)))
    expect(by).toEqual(['float64', 'int64', 'bool', 'string', 'string[]', 'datetime', null])
  })
})

describe('a template', () => {
  it('is filled with names and formulas', () => {
    const read = readTemplate('port/{part2}/{round(a, 1)}', scope(['a']))
    expect(read.ok && read.fill(runWith([input(4.26)], { path: 'berth/2/power' }))).toBe('port/2/4.3')
    expect(readTemplate('port/plain', scope([]))).toMatchObject({ ok: true, isFixed: true })
  })
  it.each(['port/{part2', 'port/}x', 'port/{nobody}'])('refuses “%s”', (text) => expect(readTemplate(text, scope([])).ok).toBe(false))
})

describe('a pattern of paths', () => {
  it('stands for what is within one level, or for all below', () => {
    const matches = (pattern: string, path: string) => pathMatcher(pattern)(path)
    expect(matches('berth/*/power', 'berth/2/power')).toBe(true)
    expect(matches('berth/*/power', 'berth/2/shore/power')).toBe(false)
    expect(matches('berth/*/current_l*', 'berth/2/current_l3')).toBe(true)
    expect(matches('berth/**', 'berth/2/shore/power')).toBe(true)
    expect(matches('berth/**', 'berth')).toBe(false)
    expect(matches('berth/(2)', 'berth/(2)')).toBe(true)
    expect(matches('a.c/*', 'abc/x')).toBe(false)
  })
  it.each(['berth/**/power', 'berth/a**', '/berth/*', 'berth//*'])('refuses “%s”', (pattern) =>
    expect(patternProblem(pattern)).not.toBe(null),
  )
  it('takes any path as itself', () => {
    const path = fc.array(fc.stringMatching(/^[a-z(.+)[\]\\^$|{}-]{1,8}$/), { minLength: 1, maxLength: 4 }).map((parts) => parts.join('/'))
    fc.assert(fc.property(path, (text) => pathMatcher(`${text}/*`)(`${text}/x`)))
  })
})

describe('what sets a bridge off', () => {
  const fired = (trigger: TagTrigger, values: (number | boolean | bigint | string | null)[]) => {
    const watch = watchFor(trigger)
    return values.map((value) => watch(value === null ? { value: 3, quality: quality.BadNoCommunication } : { value, quality: 0 }))
  }
  it('moves by more than a band, measured from the last run, so that a drift counts', () => {
    expect(fired({ kind: 'change', tag: 'a', by: 1 }, [10, 10.6, 11, 11.2, null, 12, 12.3])).toEqual([
      false,
      false,
      false,
      true,
      false,
      false,
      true,
    ])
    expect(fired({ kind: 'change', tag: 'a', by: 1 }, [2n ** 60n, 2n ** 60n + 1n, 2n ** 60n + 2n])).toEqual([false, false, true])
    expect(fired({ kind: 'change', tag: 'a', by: 1 }, [1, NaN, NaN, 1])).toEqual([false, true, false, true])
  })
  it('changes at all', () =>
    expect(fired({ kind: 'change', tag: 'a', by: null }, ['a', 'a', 'b', null, 'b'])).toEqual([false, false, true, false, false]))
  it('becomes true or false', () => {
    expect(fired({ kind: 'edge', tag: 'a', to: 'true' }, [true, false, true, true])).toEqual([false, false, true, false])
    expect(fired({ kind: 'edge', tag: 'a', to: 'either' }, [0, 5, 5, 0])).toEqual([false, true, false, true])
  })
  it('crosses a limit, and has to come back before it counts again', () => {
    expect(fired({ kind: 'limit', tag: 'a', way: 'above', limit: 10, back: 2 }, [9, 11, 9, 11, 8, 11])).toEqual([
      false,
      true,
      false,
      false,
      false,
      true,
    ])
    expect(fired({ kind: 'limit', tag: 'a', way: 'below', limit: 10, back: 0 }, [12, 9, 10, 9])).toEqual([false, true, false, true])
    expect(fired({ kind: 'limit', tag: 'a', way: 'above', limit: 10, back: 0 }, [11, 12])).toEqual([false, false])
  })
  it.each(['* * *', '61 * * * *', '0 0 31 2 *', 'x'])('is no schedule: “%s”', (cron) => expect(cronProblem(cron)).not.toBe(null))
  it('is a schedule in a zone', () => {
    expect(cronProblem('*/15 6-22 * * 1-5')).toBe(null)
    expect([zoneProblem('Europe/Oslo'), zoneProblem('Port/Harrow')]).toEqual([null, expect.stringContaining('no time zone')])
  })
})

describe('a record on its way', () => {
  it('comes back from the disk as it went there, every digit of it', () => {
    const value: fc.Arbitrary<Carried> = fc.letrec((tie) => ({
      any: fc.oneof(
        { depthSize: 'small' },
        fc.constant(null),
        fc.boolean(),
        fc.double({ noDefaultInfinity: false }),
        fc.bigInt(),
        fc.string(),
        fc.date({ noInvalidDate: true }),
        fc.uint8Array(),
        fc.array(tie('any'), { maxLength: 3 }),
        fc.dictionary(fc.stringMatching(/^[a-z]{1,5}$/), tie('any'), { maxKeys: 3, noNullPrototype: true }),
      ),
    })).any as fc.Arbitrary<Carried>
    fc.assert(
      fc.property(fc.array(value, { maxLength: 5 }), (values) => {
        // minus zero is a zero to every receiver
        const plain = values.map((one) => (Object.is(one, -0) ? 0 : one))
        const parcel = { fields: ['a'], records: [{ to: ['x'], values: plain, at: 5, run: 9 }] }
        const back = readParcel(parcelText(parcel))
        expect(JSON.stringify(back, shown)).toEqual(JSON.stringify(parcel, shown))
      }),
    )
  })
  const shown = (_key: string, value: unknown) =>
    typeof value === 'bigint' ? `${value}n` : typeof value === 'number' && !Number.isFinite(value) ? String(value) : value

  it.each(['', '{', '[]', '[["a"],[[1,2,3,4]]]', '[["a"],"x"]'])('is none where the disk garbled it: %s', (text) =>
    expect(readParcel(text)).toBe(null),
  )

  it('is JSON with every digit, and text as it stands', () => {
    expect(jsonOf({ n: 2n ** 63n, t: new Date(0), x: NaN, l: [1, null] })).toBe(
      '{"n":9223372036854775808,"t":"1970-01-01T00:00:00.000Z","x":null,"l":[1,null]}',
    )
    expect(['a', null, 5n, { a: 1 }, new Uint8Array([1, 2])].map((value) => textOf(value as Carried))).toEqual([
      'a',
      '',
      '5',
      '{"a":1}',
      'AQI=',
    ])
  })

  it('has its fields where their names say, whatever they are called', () => {
    expect(jsonOf(payloadOf(['power.kw', 'power.unit', 'at'], [1, 'kW', 2]))).toBe('{"power":{"kw":1,"unit":"kW"},"at":2}')
    expect(jsonOf(payloadOf(['__proto__.x', 'constructor'], [1, 2]))).toBe('{"__proto__":{"x":1},"constructor":2}')
    expect(({} as Record<string, unknown>).x).toBe(undefined)
  })
})

describe('a line of a file', () => {
  const way = (more: object = {}) => csvWayContract.parse(more)
  it('is written as RFC 4180 has it', () => {
    expect(csvLine([1.5, 'a,b', 'say "x"', null, true, 2n ** 64n, new Date(0)], way())).toBe(
      '1.5,"a,b","say ""x""",,true,18446744073709551616,1970-01-01T00:00:00.000Z\r\n',
    )
    expect(csvLine([1.5, 'a', null], way({ delimiter: ';', decimal: ',', quote: 'text', newline: 'lf' }))).toBe('1,5;"a";\n')
    expect(csvLine([1, null], way({ quote: 'all', delimiter: 'tab' }))).toBe('"1"\t""\r\n')
    expect(csvHeader(['at', 'kw h'], way())).toBe('at,kw h\r\n')
  })
  it('holds nothing that a spreadsheet would run', () => {
    expect(csvLine(['=1+1', '-3.5', -3.5, '@x'], way())).toBe("'=1+1,-3.5,-3.5,'@x\r\n")
  })
  it('goes into the file of its day or run', () => {
    expect(withSuffix('meters/a.csv', '7')).toBe('meters/a-7.csv')
    expect(withSuffix('me.ters/a', '7')).toBe('me.ters/a-7')
  })
})

describe('a bridge', () => {
  const draft = (more: object = {}): BridgeDraft =>
    bridgeContract.parse({
      name: 'b',
      when: [{ kind: 'change', tag: 'berth/*/power' }],
      take: [{ name: 'power', kind: 'tag', path: 'berth/1/power' }],
      send: [{ kind: 'file', number: 1, linkId: 1, name: '{part2}/m.csv', per: 'day', fields: [{ into: 'p', from: 'power' }] }],
      ...more,
    })
  it('shapes one record for each destination', () => {
    const [shaper] = shapersOf(draft())
    expect(shaper!.shape(runWith([input(4)], { path: 'berth/2/power' }))).toEqual({
      to: ['2/m-2026-11-26.csv'],
      values: [4],
      at: 5000,
      run: 17,
    })
  })
  it('names its tags as they are called now, and leaves patterns as they are', () => {
    const tags = { kind: 'tags', number: 2, fields: [{ into: 'berth/1/limit', from: 'power' }] }
    const now = renamedIn(draft({ send: [tags] }), (path) => path.replace('berth/1', 'quay/1'))
    expect(now.take).toMatchObject([{ path: 'quay/1/power' }])
    expect(now.send).toMatchObject([{ fields: [{ into: 'quay/1/limit' }] }])
    expect(now.when).toMatchObject([{ tag: 'berth/*/power' }])
  })
})

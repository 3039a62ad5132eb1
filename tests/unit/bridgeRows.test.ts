import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { listedInput, rowsOf } from '#core/bridges/each'
import { readExpression } from '#core/bridges/expression'
import { decodedText, fileMessage, headerOf, lineMessage, linesIn, type LineWay } from '#core/bridges/lines'
import { loopThrough } from '#core/bridges/loops'
import { memberAt } from '#core/bridges/member'
import { scopeOf } from '#core/bridges/names'
import { bridgeProblems, type KnownPlaces } from '#core/bridges/problems'
import { reach } from '#core/bridges/reach'
import { nothingBut, type InputValue, type RunFacts } from '#core/bridges/run'
import { bridgeContract, inputContract, triggerContract } from '#core/bridges/settings'
import { readStatement } from '#core/bridges/statement'
import { httpSettings } from '#core/http/settings'
import { destinationText, guaranteeText, inputText, triggerText } from '#core/bridges/words'
import type { Carried } from '#core/messages/carried'
import { readFormula } from '#core/formulas/compile'
import { frameOf } from '#core/formulas/frame'
import { Payload } from '#core/messages/payload'
import { dropStatement, outdated, partStatement, spanAt, spansAhead } from '#core/sql/parting'
import { addPartsStatement, dropPartsStatement, mostAtOnce, outdatedRanges, readBound, spansMissing } from '#core/sql/rangeParting'

/** Lists and rows as inputs, files as triggers, look-up tables, and the functions of units and times. */

const take = (...inputs: object[]) => inputs.map((input) => inputContract.parse(input))
const lookUp = {
  name: 'stage',
  rows: [
    { is: '1', becomes: 'landing' },
    { is: '2', becomes: '20' },
  ],
  otherwise: null,
}
const value = (of: Carried): InputValue => ({ value: of, quality: 0, at: null, unit: '' })
const run = (...inputs: Carried[]): RunFacts => ({
  ...{ occasion: { ...nothingBut('clock', 0, 0), by: 'file', topic: 'in/counts.csv' }, now: 5000, number: 17, row: 3 },
  ...{ site: 'Harrow Sound', bridge: 'Counts', inputs: inputs.map(value) },
})
const worked = (text: string, inputs: ReturnType<typeof take>, facts: RunFacts) => {
  const read = readExpression(text, scopeOf({ take: inputs, lookUps: [lookUp] }))
  if (!read.ok) throw new Error(read.problem)
  return read.work(facts)
}

describe('a part of a row', () => {
  const call = { vessel: 'Merlin', pax_in: 40, position: { lat: 58.4, at_sea: true } }
  it('is reached by its name, and parts of parts with “_” between', () => {
    const inputs = take({ name: 'call', kind: 'query', linkId: 1, statement: 'select 1' })
    expect(worked('call_vessel', inputs, run(call))).toBe('Merlin')
    expect(worked('call_pax_in * 2', inputs, run(call))).toBe(80)
    expect(worked('call_position_at_sea', inputs, run(call))).toBe(true)
    expect(worked('call_position_lat', inputs, run(null))).toBe(null)
    expect(worked('call_quality', inputs, run(call))).toBe(0)
  })
  it('that is not there is named, with what is', () => {
    expect(reach(call, 'pilot')).toEqual({ ok: false, problem: 'there is no “pilot” in it; it has vessel, pax_in, position' })
    expect(reach(call, 'toString')).toMatchObject({ ok: false })
    expect(reach(7, 'pilot')).toMatchObject({ ok: false, problem: expect.stringContaining('no parts') as string })
  })
  it('belongs to what has parts: of a tag nothing is called so', () => {
    const inputs = take({ name: 'power', kind: 'tag', path: 'a' })
    expect(() => worked('power_kw', inputs, run(5))).toThrow('Nothing here is called “power_kw”')
  })
  it('is that of the longer of two names', () => {
    const inputs = take({ name: 'a', kind: 'member', path: '$' }, { name: 'a_b', kind: 'member', path: '$.b' })
    expect(worked('a_b_c', inputs, run({ b_c: 1 }, { c: 2 }))).toBe(2)
  })
})

describe('each element of a list', () => {
  const inputs = take({ name: 'gate', kind: 'constant', value: 4 }, { name: 'lamp', kind: 'member', path: '$.lamps', each: true })
  it('makes a run of its own, counted', () => {
    const rows = rowsOf(run(4, [{ on: true }, { on: false }]), listedInput(inputs))
    expect(rows.map((row) => [row.row, worked('lamp_on', inputs, row), worked('gate', inputs, row)])).toEqual([
      [1, true, 4],
      [2, false, 4],
    ])
    expect(rowsOf(run(4, []), 1)).toEqual([])
    expect(rowsOf(run(4, null), 1)).toEqual([])
    expect(rowsOf(run(4), -1)).toHaveLength(1)
  })
  it('is taken out of one list, or of all that a path leads to', () => {
    const payload = new Payload(new TextEncoder().encode('{"lamps":[{"id":1},{"id":2}]}'))
    expect(memberAt('$.lamps', true)(payload)).toEqual({ ok: true, value: [{ id: 1 }, { id: 2 }] })
    expect(memberAt('$.lamps[*].id', true)(payload)).toEqual({ ok: true, value: [1, 2] })
    expect(memberAt('$.none', true)(payload)).toMatchObject({ ok: false })
    const many = new Payload(new TextEncoder().encode(JSON.stringify(Array.from({ length: 10_001 }, () => 0))))
    expect(memberAt('$', true)(many)).toMatchObject({ ok: false, problem: expect.stringContaining('at most 10,000') as string })
  })
})

describe('a look-up table', () => {
  const inputs = take({ name: 'code', kind: 'constant', value: 1 })
  it('says what a thing is called elsewhere', () => {
    expect(worked('stage(code)', inputs, run(1))).toBe('landing')
    expect(worked('stage(code) + 1', inputs, run(2))).toBe(21)
  })
  it('says what it has no row for', () => expect(() => worked('stage(code)', inputs, run(7))).toThrow('stage has no row for “7”'))
})

describe('a statement that asks for rows', () => {
  const scope = scopeOf({ take: take({ name: 'berth', kind: 'constant', value: 2 }), lookUps: [] })
  it('has what changes beside its text', () => {
    const read = readStatement("select * from call where berth = {berth} and state <> '{x}' and eta > {now} -- {y};", scope)
    expect(read.ok && read.parts).toEqual(['select * from call where berth = ', " and state <> '{x}' and eta > ", ' -- {y}'])
    expect(read.ok && read.parameters.map((work) => work(run(2)))).toEqual([2, new Date(5000)])
  })
  it.each([
    ['delete from call', 'begins with select'],
    ['select 1; drop table call', 'One statement'],
    ["select 'a\\'; drop table call; --'", 'One statement'],
    ['select {pilot}', 'called “pilot”'],
    ['select {berth', 'Each “{”'],
  ])('refuses %s', (text, why) =>
    expect(readStatement(text, scope)).toMatchObject({ ok: false, problem: expect.stringContaining(why) as string }),
  )
  it.each(['select $$;$$', 'select "a;b" from t', "select ';'", 'select 1 /* ; */', 'select 1;'])('takes %s as one', (text) =>
    expect(readStatement(text, scope).ok).toBe(true),
  )
  it('never lets a value into its text', () =>
    fc.assert(
      fc.property(fc.string(), (text) => {
        const read = readStatement('select {code}', scopeOf({ take: take({ name: 'code', kind: 'constant', value: text }), lookUps: [] }))
        return read.ok && read.parts.join('?') === 'select ?' && read.parameters[0]!(run(text)) === text
      }),
    ))
})

describe('lines of a file', () => {
  const way: LineWay = { form: 'csv', delimiter: ';', decimal: ',', header: true, encoding: 'utf-8' }
  const bytes = (text: string) => new TextEncoder().encode(text)
  const texts = (all: Uint8Array, of = way) => linesIn(all, of).map(({ from, to }) => decodedText(all.subarray(from, to), of.encoding))
  it('end where they end, and not before', () => {
    expect(texts(bytes('a;b\r\n1;2\n3'))).toEqual(['a;b', '1;2'])
    expect(texts(bytes('a;"x\ny"\nz;1\n'))).toEqual(['a;"x\ny"', 'z;1'])
    expect(texts(bytes('a"\nb\n'), { ...way, form: 'text' })).toEqual(['a"', 'b'])
    const wide = Buffer.from('ĊĊ\r\nb\n', 'utf16le')
    expect(texts(wide, { ...way, form: 'text', encoding: 'utf-16le' })).toEqual(['ĊĊ', 'b'])
  })
  it('however the bytes come, are the same lines', () =>
    fc.assert(
      fc.property(fc.array(fc.stringMatching(/^[a-z ;]{0,8}$/)), (all) => {
        const whole = bytes(all.map((line) => `${line}\n`).join(''))
        expect(texts(whole)).toEqual(all)
        expect(linesIn(whole, way).at(-1)?.next ?? 0).toBe(whole.length)
      }),
    ))
  it('are objects by the names of their columns, numbers where nothing gets lost', () => {
    const header = headerOf('gate;people;share;code;wide', way)
    const { json } = lineMessage('G2;41;0,5;007;9007199254740993', header, way)
    expect(json).toEqual({ ok: true, value: { gate: 'G2', people: 41, share: 0.5, code: '007', wide: '9007199254740993' } })
    expect(lineMessage('1;', null, way).json).toEqual({ ok: true, value: { c1: 1, c2: null } })
    expect(lineMessage('{"a":1}', null, { ...way, form: 'json' }).json).toEqual({ ok: true, value: { a: 1 } })
  })
  it('make one message together', () =>
    expect(fileMessage(bytes('\ufeffa;b\n1;x\n2;y\n'), way).json).toEqual({
      ok: true,
      value: [
        { a: 1, b: 'x' },
        { a: 2, b: 'y' },
      ],
    }))
})

describe('what a bridge with rows says of itself', () => {
  const tariffs = httpSettings.parse({ base: 'http://tariffs', operations: [{ name: 'tariff', path: '/tariffs/{zone}' }] })
  const known: KnownPlaces = {
    link: (id) =>
      ({
        1: { name: 'Exchange', kind: 'files' as const, settings: {}, nodeId: null },
        2: { name: 'Call book', kind: 'sql' as const, settings: {}, nodeId: null },
        3: { name: 'Tariffs', kind: 'http' as const, settings: tariffs, nodeId: null },
      })[id as 1 | 2 | 3],
    outlet: () => undefined,
  }
  const send = [{ kind: 'file', number: 1, linkId: 1, name: 'out.csv', fields: [{ into: 'v', from: 'berth' }] }]
  const draft = (more: object) => bridgeContract.parse({ name: 'b', send, ...more })
  const trigger = { kind: 'file', linkId: 1, files: 'in/*.csv' }
  const asked = { name: 'price', kind: 'call', linkId: 3, operation: 'tariff', given: [{ into: 'zone', from: '"north"' }] }
  const handedIn = { kind: 'call', number: 1, linkId: 3, operation: 'tariff', fields: [{ into: 'zone', from: 'run' }] }
  it('finds nothing wrong with one that is right', () => {
    const inputs = [
      { name: 'berth', kind: 'member', path: '$.berth' },
      { name: 'call', kind: 'query', linkId: 2, statement: 'select vessel from call where berth = {berth}' },
      { name: 'price', kind: 'call', linkId: 3, operation: 'tariff', given: [{ into: 'zone', from: 'berth' }], path: '$.now.price' },
    ]
    expect(bridgeProblems(draft({ when: [trigger], take: inputs, lookUps: [lookUp] }), known)).toEqual([])
  })
  it.each([
    [{ when: [{ ...trigger, linkId: 2 }] }, 'when.0.linkId', 'has no files'],
    [{ take: [{ ...asked, linkId: 2 }] }, 'take.0.linkId', 'takes no calls'],
    [{ take: [{ ...asked, operation: 'price' }] }, 'take.0.operation', 'no operation “price”'],
    [{ take: [{ ...asked, given: [] }] }, 'take.0.operation', 'also asks for zone'],
    [{ take: [{ ...asked, given: [{ into: 'zone', from: 'nowhere' }] }] }, 'take.0.given.0.from', 'called “nowhere”'],
    [{ take: [{ ...asked, path: '$..[' }] }, 'take.0.path', ''],
    [{ send: [{ ...handedIn, operation: 'calls' }] }, 'send.0.operation', 'no operation “calls”'],
    [{ send: [{ ...handedIn, linkId: 1 }] }, 'send.0.linkId', 'takes no calls'],
    [{ send: [{ ...handedIn, fields: [...handedIn.fields, { into: 'day', from: '1' }] }] }, 'send.0.operation', 'no parameter day'],
    [{ when: [{ ...trigger, delimiter: ',', decimal: ',' }] }, 'when.0.decimal', 'another delimiter'],
    [{ take: [{ name: 'a', kind: 'query', linkId: 1, statement: 'select 1' }] }, 'take.0.linkId', 'gives no rows'],
    [{ take: [{ name: 'a', kind: 'query', linkId: 2, statement: 'select {b}' }] }, 'take.0.statement', 'called “b”'],
    [{ lookUps: [{ ...lookUp, rows: [...lookUp.rows, lookUp.rows[0]] }] }, 'lookUps.0.rows.2.is', 'for the same'],
    [{ lookUps: [lookUp, lookUp] }, 'lookUps.1.name', 'Another look-up table'],
    [{ lookUps: [{ ...lookUp, name: 'round' }] }, 'lookUps.0.name', 'a function already'],
  ])('%j is told at its field', (more, path, message) =>
    expect(bridgeProblems(draft(more), known)).toContainEqual({ path, message: expect.stringContaining(message) as string }),
  )
  it('lets one input alone make rows', () => {
    const inputs = ['a', 'b'].map((name) => ({ name, kind: 'member', path: '$', each: true }))
    expect(bridgeProblems(draft({ when: [trigger], take: inputs }), known)).toContainEqual({
      path: 'take.1.each',
      message: 'One input makes rows already.',
    })
  })
  it('never leads out of its folder', () =>
    expect(triggerContract.safeParse({ ...trigger, files: '../etc/*' }).error?.issues[0]?.message).toContain('no “..”'))
  it('is told in words', () => {
    const name = () => 'Exchange'
    expect(triggerText(triggerContract.parse(trigger), name)).toBe('a line is added to in/*.csv in Exchange')
    expect(inputText(take({ name: 'call', kind: 'query', linkId: 2, statement: 'select\n vessel', each: true })[0]!, name)).toBe(
      'each call = select vessel in Exchange',
    )
    expect(inputText(take({ ...asked, path: '$.now.price' })[0]!, name)).toBe('price = $.now.price of tariff at Exchange')
    const { send: sent } = draft({ send: [handedIn] })
    expect(destinationText(sent[0]!, name)).toBe('a call of tariff at Exchange')
    expect(guaranteeText(sent[0]!)).toContain('with the same Idempotency-Key')
  })
  it('that writes into the files it reads sets itself off', () => {
    const own = { ...draft({ when: [{ ...trigger, files: '*.csv' }] }), name: 'Copy' }
    expect(loopThrough(own, [])).toEqual(['Copy'])
    expect(loopThrough({ ...own, when: [triggerContract.parse({ ...trigger, files: 'in/*.csv' })] }, [])).toBe(null)
  })
})

describe('units and times in formulas', () => {
  const result = (text: string) => {
    const read = readFormula(text)
    if (!read.ok) throw new Error(read.problem)
    return read.formula.run(frameOf(0))
  }
  it.each([
    ['convert(1.5, "kW", "W")', 1500],
    ['convert(20, "°C", "°F")', 68],
    ['moment("2026-11-23T14:06:45+01:00")', Date.UTC(2026, 10, 23, 13, 6, 45)],
    ['moment(1764171900)', 1_764_171_900_000],
    ['timeText(1764171900000, "yyyy-MM-dd HH:mm:ss.SSS")', '2025-11-26 15:45:00.000'],
    ['timeText(1764171900000, "dd.MM.yy \'at\' H:mm", "Europe/Oslo")', '26.11.25 at 16:45'],
    // the hour that comes twice when summer time ends
    ['timePart(moment("2026-10-25T01:30:00Z"), "hour", "Europe/Oslo")', 2],
    ['timePart(moment("2026-10-25T00:30:00Z"), "hour", "Europe/Oslo")', 2],
    ['timePart(moment("2026-11-23T00:00:00Z"), "weekday")', 1],
  ])('%s is %s', (text, expected) => {
    const found = result(text)
    if (typeof expected === 'number') expect(found).toBeCloseTo(expected, 9)
    else expect(found).toBe(expected)
  })
  it.each([
    ['convert(1, "kW", "m")', 'units of the same quantity'],
    ['timeText(0, "yyyy", "Mars/Base")', 'no time zone'],
    ['timePart(0, "age")', 'no part of a time'],
    ['moment("soon")', 'is no time'],
  ])('%s says why not', (text, why) => expect(() => result(text)).toThrow(why))
})

describe('parts of a table by time', () => {
  const parting = { column: 'at', per: 'month' as const, ahead: 2, keep: 60 }
  it('follow one another without a gap', () => {
    const spans = spansAhead(Date.UTC(2026, 10, 26), parting)
    expect(spans.map(({ suffix }) => suffix)).toEqual(['2026_11', '2026_12', '2027_01'])
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 4e12 }), fc.constantFrom('day' as const, 'month' as const), (time, per) => {
        const span = spanAt(time, per)
        return (
          span.from <= time && time < span.to && spanAt(span.to - 1, per).suffix === span.suffix && spanAt(span.to, per).from === span.to
        )
      }),
    )
  })
  it('are made by statements whose names stay whole', () => {
    const span = spanAt(Date.UTC(2026, 10, 26), 'day')
    expect(partStatement({ schema: 'quay', table: 'cou"nt' }, span)).toBe(
      `create table if not exists "quay"."cou""nt_2026_11_26" partition of "quay"."cou""nt" for values from ('2026-11-26T00:00:00.000Z') to ('2026-11-27T00:00:00.000Z')`,
    )
    expect(partStatement({ schema: '', table: 'ø'.repeat(60) }, span)).toContain(`"${'ø'.repeat(26)}_2026_11_26"`)
    expect(dropStatement('', 'x')).toBe('drop table if exists "x"')
  })
  it('that are older than what is kept are dropped, and nothing else', () => {
    const names = ['count_2026_08', 'count_2026_09', 'count_2026_10', 'count_default', 'other_2020_01', 'count_2020_01_05']
    expect(outdated('count', names, parting, Date.UTC(2026, 10, 30, 1))).toEqual(['count_2026_08', 'count_2026_09'])
    expect(outdated('count', names, { ...parting, keep: null }, Date.UTC(2030, 0, 1))).toEqual([])
  })
})

describe('parts that lie one behind the other', () => {
  const parting = { column: 'at', per: 'month' as const, ahead: 2, keep: 60 }
  const now = Date.UTC(2026, 10, 27, 2)
  const names = (highest: number, times: number[] = []) => spansMissing(highest, times, parting, now).map(({ suffix }) => suffix)

  it('are made from the last one on, so many ahead and as far as a time asks for', () => {
    expect(names(-Infinity)).toEqual(['2026_11', '2026_12', '2027_01'])
    expect(names(Date.UTC(2026, 11, 1))).toEqual(['2026_12', '2027_01'])
    expect(names(Date.UTC(2026, 11, 17))).toEqual(['2026_12', '2027_01'])
    expect(names(Date.UTC(2027, 1, 1))).toEqual([])
    expect(names(Date.UTC(2027, 1, 1), [Date.UTC(2027, 2, 31, 23, 59)])).toEqual(['2027_02', '2027_03'])
    expect(names(Infinity, [Date.UTC(2027, 2, 1)])).toEqual([])
  })
  it('take what is late, and are not made for a time that somebody’s clock made up', () => {
    expect(names(Date.UTC(2027, 1, 1), [Date.UTC(1970, 0, 1)])).toEqual([])
    expect(names(Date.UTC(2027, 1, 1), [Date.UTC(9999, 0, 1)])).toEqual([])
    expect(names(Date.UTC(2015, 0, 1))).toEqual(['2026_11', '2026_12', '2027_01'])
  })
  it('never leave a gap, whatever comes', () => {
    const time = fc.integer({ min: now - 10 * 365 * 86_400_000, max: now + 10 * 365 * 86_400_000 })
    fc.assert(
      fc.property(time, fc.array(time, { maxLength: 5 }), fc.constantFrom('day' as const, 'month' as const), (highest, times, per) => {
        const spans = spansMissing(highest, times, { per, ahead: 2 }, now)
        for (const [i, { from, to }] of spans.entries()) {
          expect(to).toBeGreaterThan(Math.max(from, highest))
          if (i > 0) expect(from).toBe(spans[i - 1]!.to)
        }
        expect(spans.length).toBeLessThanOrEqual(mostAtOnce + 1)
      }),
    )
  })
  it('have their bounds as the catalogue writes them', () => {
    expect(["'2026-12-01 00:00:00'", "'2026-12-01'", 'MAXVALUE', '20', 'x'].map(readBound)).toEqual([
      ...[Date.UTC(2026, 11, 1), Date.UTC(2026, 11, 1), Infinity, null, null],
    ])
  })
  it('are made and dropped by one statement', () => {
    const place = { schema: 'quay', table: 'cou`nt' }
    expect(addPartsStatement(place, [spanAt(now, 'day')])).toBe(
      "alter table `quay`.`cou``nt` add partition (partition `p2026_11_27` values less than ('2026-11-28 00:00:00'))",
    )
    expect(dropPartsStatement(place, ['p_earlier', 'p2026_08'])).toBe('alter table `quay`.`cou``nt` drop partition `p_earlier`, `p2026_08`')
  })
  it('go by age, but never those of somebody else and never the last', () => {
    const month = (name: string, month: number) => ({ name, to: Date.UTC(2026, month, 1) })
    const parts = [month('p_earlier', 7), month('p2026_08', 8), month('history', 8), month('p2026_09', 9), month('p2026_11', 11)]
    expect(outdatedRanges(parts, parting, now)).toEqual(['p_earlier', 'p2026_08'])
    expect(outdatedRanges(parts, { keep: null }, now)).toEqual([])
    expect(outdatedRanges(parts.slice(1, 2), parting, now)).toEqual([])
  })
})

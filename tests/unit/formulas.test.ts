import fc from 'fast-check'
import { create, all, type MathJsInstance } from 'mathjs/number'
import { describe, expect, it } from 'vitest'
import { readFormula } from '#core/formulas/compile'
import { frameOf } from '#core/formulas/frame'
import { formulaFunctions } from '#core/formulas/functions'
import { cycleOf, ordered } from '#core/formulas/graph'
import { asInput, resultAs } from '#core/formulas/result'
import type { FormulaValue } from '#core/formulas/value'
import { circlesIn } from '#shared/sources/circles'
import { rulesOf, tagProblems } from '#shared/sources/registry'
import { formulaSource } from '#shared/sources/formula'
import { tagDraft } from '#shared/tags'

const run = (text: string, inputs: Record<string, FormulaValue> = {}, more: Partial<ReturnType<typeof frameOf>> = {}): FormulaValue => {
  const read = readFormula(text)
  if (!read.ok) throw new Error(read.problem)
  const { names } = read.formula
  return read.formula.run({ ...frameOf(names.length), values: names.map((name) => inputs[name]!), ...more })
}
const problemOf = (text: string) => {
  const read = readFormula(text)
  return read.ok ? null : read.problem
}

describe('a formula', () => {
  it.each<[string, Record<string, FormulaValue>, FormulaValue]>([
    ['(a + b) / 2', { a: 3, b: 4 }, 3.5],
    ['-a^2', { a: 3 }, -9],
    ['a % 360', { a: -30 }, 330],
    ['a > 3 ? sqrt(a) : -b', { a: 16, b: 1 }, 4],
    ['0 <= a < 10 and not b', { a: 0, b: false }, true],
    ['0 <= a < 10', { a: 10 }, false],
    ['a == "open" ? 1 : 0', { a: 'open' }, 1],
    ['a != b', { a: true, b: 1 }, false],
    ['bit(word, 3) xor bit(word, 0)', { word: 8 }, true],
    ['word & 15 | 256', { word: 0xfff3 }, 259],
    ['word << 4', { word: 0x0fffffff }, 0xfffffff0],
    ['word >>> 4', { word: 0xffffffff }, 0x0fffffff],
    ['round(a, 1) * 10 + fix(-1.5)', { a: 2.345 }, 22],
    ['clamp(a, 0, 100)', { a: 120 }, 100],
    ['mean(a, b, 6)', { a: 1, b: 2 }, 3],
    ['concat("Berth ", a, ": ", upper(b))', { a: 3, b: 'free' }, 'Berth 3: FREE'],
    ['number("12.5") * 2', {}, 25],
    ['2 * pi', {}, 2 * Math.PI],
    ['b == 0 ? 0 : a / b', { a: 1, b: 0 }, 0],
  ])('%s with %j is %s', (text, inputs, result) => {
    expect(run(text, inputs)).toBe(result)
  })

  it('looks back at its inputs and at itself', () => {
    expect(run('a - previous(a)', { a: 7 }, { previous: [5] })).toBe(2)
    expect(run('previous() + a', { a: 7 })).toBe(7)
    expect(run('previous() + a', { a: 7 }, { own: 10 })).toBe(17)
    expect(run('since(b) > 30 ? 0 : a', { a: 7, b: 1 }, { changedAt: [10_000, 50_000] })).toBe(0)
    expect(run('good(a) ? a : b', { a: 7, b: 1 }, { good: [false, true] })).toBe(1)
  })

  it.each([
    ['', /how its inputs make/],
    ['a +', /end/],
    ['(a + b', /At character 7/],
    ['a = 3', /==/],
    ['f(x) = x', /no functions/],
    ['a.constructor', /“\.”/],
    ['a["b"]', /“\[”/],
    ['{a: 1}', /objects/],
    ['[1, 2]', /lists/],
    ['a; b', /one expression/],
    ['2 kW', /Write \*/],
    ['a!', /operator “!”/],
    ["a'", /operator “'”/],
    ['a ?? b', /operator/],
    ['import("fs")', /no function “import”/],
    ['constructor(1)', /no function “constructor”/],
    ['toString', null],
    ['sqrt', /brackets/],
    ['sqrt(1, 2)', /sqrt\(x\)/],
    ['previous(a + 1)', /name of one input/],
    ['null', /no values/],
    [`${'('.repeat(900)}a${')'.repeat(900)}`, /nested too deep|at most 500 parts/],
    ['a + '.repeat(499) + 'a', /at most 500 parts/],
    ['x'.repeat(2001), /at most 2000 characters; this one has 2001/],
    [Array.from({ length: 51 }, (_, i) => `v${i}`).join('+'), /at most 50 inputs/],
  ])('%# is read or refused in words', (text, words) => {
    if (words === null) expect(problemOf(text)).toBeNull()
    else expect(problemOf(text)).toMatch(words)
  })

  it('refuses a megabyte at once', () => {
    const start = performance.now()
    expect(problemOf('a+'.repeat(500_000))).toMatch(/at most 2000 characters/)
    expect(performance.now() - start).toBeLessThan(200)
  })

  it.each([
    ['a / b', { a: 1, b: 0 }, /divides by zero/],
    ['a + 1', { a: 'open' }, /“open” is text/],
    ['bit(a, 1)', { a: 1.5 }, /whole numbers of 32 bits/],
    ['a ? 1 : 0', { a: 'x' }, /where true or false/],
    ['concat(a, a)', { a: 'x'.repeat(900) }, /longer than 1000/],
  ])('%s says why it gives nothing', (text, inputs, words) => {
    expect(() => run(text, inputs as Record<string, FormulaValue>)).toThrow(words)
  })

  it('agrees with the package, where the package does the same', () => {
    const package_ = create(all!, {}) as unknown as MathJsInstance
    const leaf = fc.constantFrom('a', 'b', '2', '0.5', '7')
    const { tree } = fc.letrec<{ tree: string }>((tie) => ({
      tree: fc.oneof(
        { maxDepth: 4 },
        leaf,
        fc.tuple(tie('tree'), fc.constantFrom('+', '-', '*'), tie('tree')).map(([x, op, y]) => `(${x} ${op} ${y})`),
        fc.tuple(fc.constantFrom('abs', 'floor', 'sign', 'cbrt'), tie('tree')).map(([name, x]) => `${name}(${x})`),
        fc.tuple(tie('tree'), tie('tree'), tie('tree')).map(([x, y, z]) => `(${x} < ${y} ? ${z} : ${x})`),
      ),
    }))
    const value = fc.integer({ min: -1000, max: 1000 })
    fc.assert(
      fc.property(tree, value, value, (text, a, b) => {
        expect(Number(run(text, { a, b }))).toBeCloseTo(Number(package_.evaluate(text, { a, b })), 6)
      }),
    )
  })

  it('describes each function as it is written', () => {
    for (const [name, { form, least }] of Object.entries(formulaFunctions)) {
      expect(form.startsWith(`${name}(`)).toBe(true)
      expect(problemOf(`${name}(${Array.from({ length: least }, () => '1').join(', ')})`)).toBeNull()
    }
  })
})

describe('what comes of it', () => {
  it('takes the type of the tag, rounded where that is whole', () => {
    expect([resultAs(2.5, 'int16'), resultAs(1, 'bool'), resultAs(true, 'float64'), resultAs(7, 'int64'), resultAs(7, 'string')]).toEqual([
      ...[3, true, 1, 7n, '7'],
    ])
  })
  it.each<[FormulaValue, 'int16' | 'float64' | 'uint8']>([
    [40_000, 'int16'],
    [NaN, 'float64'],
    [Infinity, 'float64'],
    [-1, 'uint8'],
  ])('%s is none of %s', (value, type) => {
    expect(() => resultAs(value, type)).toThrow()
  })
  it('sees 64-bit integers as numbers, and arrays not at all', () => {
    expect([asInput(5n), asInput([1]), asInput(undefined)]).toEqual([5, null, null])
  })
})

const graph = (reads: Record<string, string[]>) => new Map(Object.entries(reads))

describe('formulas that read each other', () => {
  it('are worked out each after those that it reads', () => {
    const { order, circular } = ordered(graph({ c: ['b', 'a'], b: ['a', 'x'], a: ['x'] }))
    expect([order, circular]).toEqual([['a', 'b', 'c'], []])
  })

  it('are told apart where they go in a circle, with the way', () => {
    const reads = graph({ a: ['b'], b: ['c', 'x'], c: ['a'], d: ['a'], e: ['x'] })
    expect(ordered(reads)).toEqual({ order: ['e'], circular: ['a', 'b', 'c', 'd'] })
    expect([cycleOf('a', reads), cycleOf('d', reads), cycleOf('e', reads)]).toEqual([['a', 'b', 'c', 'a'], null, null])
    expect(cycleOf('a', graph({ a: ['a'] }))).toEqual(['a', 'a'])
  })

  it('hold a chain of ten thousand', () => {
    const chain = new Map(Array.from({ length: 10_000 }, (_, i) => [`t${i}`, [`t${i + 1}`]]))
    expect(ordered(chain).order[0]).toBe('t9999')
    chain.set('t10000', ['t0'])
    expect(cycleOf('t0', chain)).toHaveLength(10_002)
  })

  it('are refused by their tags, by name', () => {
    const tag = (path: string, inputs: Record<string, string>) => ({
      path,
      source: formulaSource.parse({ kind: 'formula', formula: Object.keys(inputs).join('+'), inputs }),
    })
    const found = circlesIn([tag('a', { x: 'b' }), tag('b', { x: 'a', y: 'z' }), tag('c', { x: 'z' })], ['a', 'c'])
    expect([...found]).toEqual([['a', ['a', 'b', 'a']]])
  })
})

describe('a formula as a source', () => {
  const draft = (source: object, more: object = {}) =>
    tagDraft.parse({ path: 'sum', type: 'float64', source: { kind: 'formula', ...source }, ...more })
  const paths = (source: object, more: object = {}) => tagProblems(draft(source, more), () => undefined).map(({ path }) => path)

  it('needs a tag for each name, and keeps none that it does not name', () => {
    expect(paths({ formula: 'a + b', inputs: { a: 'x' } })).toEqual(['source.inputs.b'])
    expect(paths({ formula: 'a +', inputs: { a: 'x' } })).toEqual(['source.formula'])
    expect(paths({ formula: 'a', inputs: { a: 'x' }, quality: 'b' })).toEqual(['source.quality'])
    expect(paths({ formula: 'a', inputs: { a: 'x' } }, { access: 'readwrite', type: 'int16[]' })).toEqual(['type', 'access'])
    const settled = rulesOf('formula').settled(draft({ formula: 'a', inputs: { a: 'x', b: 'y' } }) as never, () => undefined)
    expect(settled.source).toMatchObject({ inputs: { a: 'x' } })
  })

  it('follows its inputs where they are called otherwise', () => {
    const { source } = draft({ formula: 'a + b', inputs: { a: 'old/x', b: 'y' } })
    const renamed = rulesOf('formula').paths!.renamed(source, (path) => path.replace('old/', 'new/'))
    expect(renamed).toMatchObject({ inputs: { a: 'new/x', b: 'y' } })
  })
})

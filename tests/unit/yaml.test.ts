import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { readYaml } from '#core/formats/yaml/read'
import { writeYaml } from '#core/formats/yaml/write'

const refusal = (text: string) => {
  const read = readYaml(text)
  return read.ok ? null : { ...read.spot, problem: read.problem }
}
const textOf = (source: string) => {
  const read = readYaml(source)
  if (!read.ok) throw new Error(read.problem)
  return read.text
}

/** Each reference stands for nine of the one before: 9 to the power of 12. */
const swelling = Array.from(
  { length: 12 },
  (_, i) =>
    `a${i}: &a${i} [${Array(9)
      .fill(i === 0 ? 1 : `*a${i - 1}`)
      .join(', ')}]`,
).join('\n')

describe('a YAML text', () => {
  it.each<[string, number, number, RegExp]>([
    ['a: [1, 2', 1, 8, /unexpected end/],
    ['a: 1\nb:\n  c: 1\n  c: 2', 4, 3, /duplicated/],
    ['a: &x [*x]', 1, 9, /“x” leads into itself/],
    ['a: *nobody', 1, 5, /nobody/],
    ['a: 1\n---\nb: 2', 1, 1, /more than one document/],
    ['a: 1\nb: !made 2', 2, 4, /tag/],
    [swelling, 8, 21, /more than 20,000,000 values/],
    ['['.repeat(100), 1, 60, /nest|depth/i],
  ])('that is not right is refused with line and column: %s', (text, line, column, problem) => {
    const found = refusal(text)
    expect(found).toMatchObject({ line })
    expect(Math.abs(found!.column - column)).toBeLessThanOrEqual(1)
    expect(found!.problem).toMatch(problem)
  })

  it('tells where each of its parts stands, and how it is written', () => {
    const text = textOf(
      'conduit: 1\nlinks:\n  "Berth meters": {kind: modbus, settings: {unit: 007}}\n  Arm:\n    doors:\n      - port: 1\n      - port: 2\n',
    )
    expect(text.spotOf(['links', 'Berth meters', 'settings', 'unit'])).toEqual({ line: 3, column: 45 })
    expect(text.writtenAt(['links', 'Berth meters', 'settings', 'unit'])).toBe('007')
    expect(text.spotOf(['links', 'Arm', 'doors', 1, 'port'])).toEqual({ line: 7, column: 9 })
    // what is not there: the innermost that is
    expect(text.spotOf(['links', 'Arm', 'doors', 5, 'port'])).toEqual({ line: 5, column: 5 })
    expect(text.writtenAt(['links', 'Arm', 'doors'])).toBeNull()
  })

  it('takes what no text may do to an object as a field like others', () => {
    const { value } = textOf('__proto__: { polluted: yes }\nconstructor: 1')
    expect(Object.keys(value as object)).toEqual(['__proto__', 'constructor'])
    expect(({} as Record<string, unknown>).polluted).toBeUndefined()
  })

  it('comes back as it was written, whatever stands in it', () => {
    const leaf = fc.oneof(
      fc.string(),
      fc.constantFrom('yes', 'null', '~', '1e3', '0x10', ' a', 'a: b', '#', '- x', 'on', '2026-11-26', '\n', 'a\n b\n'),
      fc.boolean(),
      fc.double({ noNaN: true, noDefaultInfinity: true }).filter((n) => !Object.is(n, -0)),
      fc.constant(null),
    )
    const key = fc.string({ minLength: 1 }).filter((name) => name !== '__proto__')
    const { tree } = fc.letrec((tie) => ({
      tree: fc.oneof(
        { depthSize: 'small' },
        leaf,
        fc.array(tie('tree'), { maxLength: 4 }),
        fc.dictionary(key, tie('tree'), { maxKeys: 4 }),
      ),
    }))
    fc.assert(
      fc.property(fc.dictionary(key, tree, { minKeys: 1, maxKeys: 5 }), (value) => {
        expect(textOf(writeYaml(value)).value).toEqual(JSON.parse(JSON.stringify(value)))
      }),
      { numRuns: 300 },
    )
  })
})

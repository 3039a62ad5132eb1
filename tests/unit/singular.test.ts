import fc from 'fast-check'
import { jsonpath } from 'json-p3'
import { describe, expect, it } from 'vitest'
import { atWay, nowhere, wayOf } from '#core/messages/singular'
import { leavesIn, partsIn, type Part } from '#core/messages/parts'

/** Paths that lead to one place, walked by us and looked for by a package that conforms to RFC 9535. */

const found = (path: string, value: unknown) => {
  const way = wayOf(path)
  return way && atWay(value, way)
}
const looked = (path: string, value: unknown) => {
  const nodes = jsonpath.compile(path).query(value as never)
  return nodes.length === 0 ? nowhere : nodes.nodes[0]!.value
}

describe('a path to one place', () => {
  it.each([
    ['$', []],
    ['$.a.b_1', ['a', 'b_1']],
    ["$['a b'][0].c", ['a b', 0, 'c']],
    ['$["a\'b"][12]', ["a'b", 12]],
    ['$.ø', ['ø']],
    ["$['']", ['']],
  ])('is a way: %s', (path, way) => expect(wayOf(path)).toEqual(way))

  it.each([
    '',
    '$.*',
    '$..a',
    '$[*]',
    '$[0:2]',
    '$[-1]',
    '$[01]',
    '$[?@.a]',
    "$['a','b']",
    "$['a\\u0062']",
    '$ .a',
    '$.1a',
    '$.a b',
    '$.a.',
    '$[0',
    '$.😀',
  ])('is left to the package: %s', (path) => expect(wayOf(path)).toBe(null))

  it.each<[string, unknown]>([
    ['$.length', [1, 2]],
    ['$.length', 'abc'],
    ['$[0]', { 0: 'x' }],
    ['$[0]', 'abc'],
    ['$.toString', {}],
    ['$.__proto__', {}],
    ['$.a', null],
    ['$.a', { a: null }],
    ['$[2]', [1, 2]],
  ])('gives what the package gives: %s of %j', (path, value) => expect(found(path, value)).toEqual(looked(path, value)))

  it('gives what the package gives for every part of any JSON', () =>
    fc.assert(
      fc.property(fc.jsonValue({ maxDepth: 4 }), fc.jsonValue({ maxDepth: 4 }), (value, other) => {
        const inside = (part: Pick<Part, 'path' | 'names' | 'value'>): Part[] =>
          partsIn(part).flatMap((one) => [one, ...(one.opens ? inside(one) : [])])
        const paths = [...inside({ path: '$', names: [], value }), ...leavesIn(value)].map(({ path }) => path).filter((path) => path !== '')
        for (const path of paths.slice(0, 50)) {
          const way = wayOf(path)
          if (!way) continue
          expect(atWay(value, way)).toEqual(looked(path, value))
          expect(atWay(other, way)).toEqual(looked(path, other))
        }
      }),
    ))
})

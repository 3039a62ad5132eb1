import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { ShortNameBook } from '#core/tags/shortNameBook'
import { namesOf } from '#shared/outlets/names'

interface Tag {
  id: number
  path: string
}

const settle = (book: ShortNameBook, set: Tag[], removed: number[]) => {
  const anew = book.change(set, removed)
  if (anew) for (const _ of book.giveAll()) continue
  return anew
}

describe('short names of a site that changes', () => {
  it('follow a newer tag, a change of something else, and the end of a tag without a look at the others', () => {
    const book = new ShortNameBook(new Map(), 64)
    expect(settle(book, [{ id: 1, path: 'berth/1/power' }], [])).toBe(false)
    expect(settle(book, [{ id: 2, path: 'berth/2/power' }], [])).toBe(false)
    expect(settle(book, [{ id: 2, path: 'berth/2/power' }], [])).toBe(false)
    expect(settle(book, [], [1])).toBe(false)
    expect(['berth/2/power', 'berth/2', 'berth', 'berth/1'].map((path) => book.of(path)?.name)).toEqual([
      'berth_2_power',
      'berth_2',
      'berth',
      undefined,
    ])
  })

  it('are given anew where a name is contested: whoever is left has it for himself', () => {
    const book = new ShortNameBook(new Map(), 64)
    expect(
      settle(
        book,
        [
          { id: 1, path: 'a/b_c' },
          { id: 2, path: 'a_b/c' },
        ],
        [],
      ),
    ).toBe(false)
    expect(book.of('a_b/c')?.how).toBe('made unique')
    expect(settle(book, [], [1])).toBe(true)
    expect(book.of('a_b/c')?.name).toBe('a_b_c')
  })

  const path = fc
    .array(fc.constantFrom('a', 'A', 'b', 'a_b', 'c', 'b_c', 'a b'), { minLength: 1, maxLength: 3 })
    .map((parts) => parts.join('/'))
  const step = fc.record({ id: fc.integer({ min: 1, max: 14 }), path: fc.option(path, { nil: null }) })

  it('are at every moment what they would be if given all at once', () => {
    fc.assert(
      fc.property(
        fc.array(fc.array(step, { maxLength: 4 }), { maxLength: 12 }),
        fc.dictionary(path, fc.constantFrom('a_b', 'x', 'A')),
        (batches, chosen) => {
          const own = new Map(Object.entries(chosen))
          const book = new ShortNameBook(own, 12)
          const tags = new Map<number, string>()
          for (const batch of batches) {
            const last = new Map(batch.map(({ id, path }) => [id, path]))
            const isTaken = (id: number, wanted: string) => [...tags].some(([other, has]) => other !== id && has === wanted)
            const set: Tag[] = []
            const removed: number[] = []
            for (const [id, wanted] of last) {
              if (wanted === null) {
                removed.push(id)
                tags.delete(id)
              } else if (!isTaken(id, wanted)) {
                set.push({ id, path: wanted })
                tags.set(id, wanted)
              }
            }
            settle(book, set, removed)
            const all = [...tags].map(([id, at]) => ({ id, path: at }))
            const expected = namesOf(all, { on: true, most: 12, own: [...own].map(([at, name]) => ({ path: at, name })) })
            for (const [at, given] of expected.byPath) expect(book.of(at)).toEqual(given)
          }
        },
      ),
      { numRuns: 400 },
    )
  })
})

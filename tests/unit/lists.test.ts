import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { folded } from '#core/lists/folded'
import { Feeding } from '#engine/outlets/feeding'
import { listQuery } from '#shared/api/lists'
import { pointTag, tagDraft } from '#shared/tags'
import { pageOfArray, type PageAsked } from '#core/lists/paged'

/** Many things for one look, and by the page. */

interface Thing {
  id: number
  kind: string
  well: boolean
}
const thing = fc.record({ id: fc.nat(), kind: fc.constantFrom('a', 'b', 'c'), well: fc.boolean() })
const folding = { most: 12, isWell: ({ well }: Thing) => well, kindOf: ({ kind }: Thing) => kind }

describe('folding', () => {
  it('leaves a dozen as they are', () => {
    const all = Array.from({ length: 12 }, (_, id) => ({ id, kind: 'a', well: true }))
    expect(folded(all, folding)).toEqual({ shown: all, groups: [] })
  })

  it('of more, folds what is well by kind, and what is alone of its kind stands by itself', () => {
    const all = Array.from({ length: 13 }, (_, id) => ({ id, kind: id === 3 ? 'b' : 'a', well: id !== 7 }))
    const { shown, groups } = folded(all, folding)
    expect(shown.map(({ id }) => id)).toEqual([3, 7])
    expect(groups.map(({ kind, all: some }) => [kind, some.length])).toEqual([['a', 11]])
  })

  it('loses nothing, shows nothing twice, and folds no trouble', () => {
    fc.assert(
      fc.property(fc.array(thing, { maxLength: 60 }), (all) => {
        const { shown, groups } = folded(all, folding)
        const everything = [...shown, ...groups.flatMap(({ all: some }) => some)]
        expect(new Set(everything)).toEqual(new Set(all))
        expect(everything).toHaveLength(all.length)
        expect(groups.every(({ all: some }) => some.every(({ well }) => well))).toBe(true)
      }),
    )
  })
})

describe('a page of a list at hand', () => {
  const links = ['Arm 10', 'Arm 2', 'Crane', 'arm 1'].map((name, id) => ({ id, name }))
  const ways = {
    text: ({ name }: { name: string }) => name,
    by: { name: (one: { name: string }) => one.name, id: (one: { id: number }) => one.id },
  }
  const page = (asked: Partial<PageAsked<'name' | 'id'>>) => pageOfArray(links, { sort: 'name', offset: 0, limit: 100, ...asked }, ways)

  it('is in the order asked for: names as people count, or the other way round', () => {
    expect(page({}).items.map(({ name }) => name)).toEqual(['arm 1', 'Arm 2', 'Arm 10', 'Crane'])
    expect(page({ sort: '-id' }).items.map(({ id }) => id)).toEqual([3, 2, 1, 0])
  })

  it('has what holds all the words in any order, and tells how many there are in all', () => {
    expect(page({ find: '1 ARM', limit: 1, offset: 1 })).toEqual({ total: 2, offset: 1, items: [links[0]] })
    expect(page({ find: 'arm crane' })).toEqual({ total: 0, offset: 0, items: [] })
    expect(page({ offset: 10 })).toMatchObject({ total: 4, items: [] })
  })

  it('is not asked for with words without end', () => {
    const { find } = listQuery(['name'])
    expect(find.safeParse('one two three').success).toBe(true)
    expect(find.safeParse('a '.repeat(11)).error?.issues[0]?.message).toBe('At most 10 words.')
  })

  it('leaves the list as it was', () => {
    page({ sort: '-name' })
    expect(links.map(({ id }) => id)).toEqual([0, 1, 2, 3])
  })
})

describe('where an outlet gets its tags from', () => {
  const at = (path: string, linkId: number) => pointTag({ path, linkId, address: 'holding/1', type: 'int16' })
  const kept = tagDraft.parse({ path: 'quay/kept', source: { kind: 'memory' }, type: 'int16' })

  it('is every source of a tag that it shows, and no other', () => {
    const feeding = new Feeding(() => [at('quay/a', 1), at('berth/a', 2), at('quay/b', 2), at('berth/b', 3), kept])
    expect(feeding.of({ shows: (path) => path.startsWith('quay/') })).toEqual({ links: [1, 2], others: ['memory'] })
  })

  it('is looked up again only after a change', () => {
    let asked = 0
    const tags = [at('quay/a', 1)]
    const feeding = new Feeding(() => tags)
    const outlet = { shows: () => ++asked > 0 }
    expect([feeding.of(outlet), feeding.of(outlet), asked]).toEqual([{ links: [1], others: [] }, { links: [1], others: [] }, 1])
    tags.push(at('quay/b', 4))
    feeding.forget()
    expect(feeding.of(outlet).links).toEqual([1, 4])
  })
})

import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { ownNameProblem, shortNamesOf, withFolders, type Named } from '#core/tags/shortNames'

const named = (path: string, age: number, own: string | null = null): Named => ({ path, age, own })
const nameOf = (all: Named[], path: string, most?: number) => shortNamesOf(all, most).byPath.get(path)

describe('short names', () => {
  it('are flat, with letters, digits and _ only', () => {
    expect(nameOf([named('berth/1/shore/active_power', 1)], 'berth/1/shore/active_power')).toMatchObject({
      name: 'berth_1_shore_active_power',
      how: 'made',
    })
    expect(nameOf([named('1/Länge über alles', 1)], '1/Länge über alles')?.name).toBe('t_1_Lange_uber_alles')
    expect(nameOf([named('°', 1)], '°')?.name).toBe('x')
  })

  it('that are too long keep their last part, outer folders give way', () => {
    const path = 'berth/1/shore/active_power'
    const at = (most: number) => nameOf([named(path, 1)], path, most)
    expect(at(26)).toMatchObject({ name: 'berth_1_shore_active_power', how: 'made' })
    expect(at(25)).toMatchObject({ name: 'b_1_shore_active_power', how: 'shortened' })
    expect(at(20)).toMatchObject({ name: 'b_1_s_active_power', how: 'shortened' })
    expect(at(12)).toMatchObject({ name: 'b_1_s_active', how: 'shortened' })
  })

  it('go to the older one where two paths meet; the other is made unique, the same each time', () => {
    const all = [named('a/b_c', 7), named('a_b/c', 3)]
    expect(nameOf(all, 'a_b/c')).toMatchObject({ name: 'a_b_c', how: 'made' })
    const other = nameOf(all, 'a/b_c')!
    expect(other.how).toBe('made unique')
    expect(other.name).toMatch(/^a_b_c_[a-z0-9]{4}$/)
    expect(nameOf([...all].reverse(), 'a/b_c')?.name).toBe(other.name)
  })

  it('of one’s own come first, and say why they cannot be had', () => {
    const all = [named('p/x', 1, 'POWER'), named('p/y', 2, 'power'), named('p/z', 3, '7up'), named('power', 4)]
    const { byPath, problems } = shortNamesOf(all)
    expect(byPath.get('p/x')).toMatchObject({ name: 'POWER', how: 'own' })
    expect(byPath.get('p/y')).toMatchObject({ name: 'p_y', how: 'made' })
    expect(problems.get('p/y')).toBe('“power” belongs to p/x already.')
    expect(problems.get('p/z')).toBe('A short name starts with a letter.')
    expect(byPath.get('power')?.how).toBe('made unique')
    expect(ownNameProblem('a b', 64)).toMatch(/letters, digits/)
    expect(ownNameProblem('abcdefghijklm', 12)).toMatch(/at most 12/)
  })

  const path = fc
    .array(fc.string({ unit: fc.constantFrom(...'aAb_-. 1°ä'), minLength: 1, maxLength: 9 }), { minLength: 1, maxLength: 4 })
    .map((parts) => parts.join('/'))
  const paths = fc.uniqueArray(path, { maxLength: 60 })

  it('are unique whatever the case, fit, and lead both ways', () => {
    fc.assert(
      fc.property(paths, fc.integer({ min: 12, max: 64 }), (all, most) => {
        const { byPath, byName } = shortNamesOf(
          all.map((one, i) => named(one, i)),
          most,
        )
        expect(byPath.size).toBe(all.length)
        expect(byName.size).toBe(all.length)
        for (const { name, path: of } of byPath.values()) {
          expect(ownNameProblem(name, most)).toBeNull()
          expect(byName.get(name.toLowerCase())?.path).toBe(of)
        }
      }),
    )
  })

  it('never change because a newer path came', () => {
    fc.assert(
      fc.property(paths, (all) => {
        const some = all.slice(0, all.length >> 1).map((one, i) => named(one, i))
        const more = all.map((one, i) => named(one, i))
        const before = shortNamesOf(some).byPath
        const after = shortNamesOf(more).byPath
        for (const [of, { name }] of before) expect(after.get(of)?.name).toBe(name)
      }),
    )
  })

  it('are given to folders as well, which are as old as their oldest tag', () => {
    const all = withFolders(
      [
        { id: 5, path: 'berth/1/power', own: null },
        { id: 3, path: 'berth/2/power', own: 'P2' },
      ],
      new Map([['berth', 'B']]),
    )
    expect(all).toEqual([
      { path: 'berth/1/power', age: 5, own: null },
      { path: 'berth/2/power', age: 3, own: 'P2' },
      { path: 'berth/1', age: 5, own: null },
      { path: 'berth', age: 3, own: 'B' },
      { path: 'berth/2', age: 3, own: null },
    ])
  })
})

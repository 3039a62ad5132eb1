import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  behindValue,
  longestName,
  namedText,
  namesFor,
  namesFrom,
  namesText,
  readNames,
  valueMeant,
  valueName,
} from '#core/tags/valueNames'
import { tagProblems } from '#shared/sources/registry'
import { editedTag } from '#shared/tagCsv/edit'
import { tagDraft, type Tag, type TagDraft } from '#shared/tags'

const states = [
  { value: 0, name: 'standing' },
  { value: 2, name: 'running' },
]
const memory = (more: Partial<TagDraft> = {}) =>
  tagDraft.parse({ path: 'berth/1/state', source: { kind: 'memory', start: null }, type: 'int16', ...more })
const problemsOf = (more: object) => {
  const parsed = tagDraft.safeParse({ ...memory(), ...more })
  return parsed.success ? tagProblems(parsed.data, () => undefined) : parsed.error.issues.map(({ message }) => ({ message }))
}

describe('names of values', () => {
  it('stand behind the value that they name, whatever form it comes in', () => {
    expect([0, 2, 2n, '2', false].map((value) => valueName(value, states))).toEqual([
      ...['standing', 'running', 'running', 'running', 'standing'],
    ])
    expect([1, null, undefined, NaN, [2]].map((value) => valueName(value, states))).toEqual([null, null, null, null, null])
    expect(valueName(0.1 + 0.2, [{ value: 0.3, name: 'low' }])).toBe('low')
    expect(valueName(1_000_000_001, [{ value: 1_000_000_000, name: 'other' }])).toBe(null)
    expect([namedText(2, states), namedText(7, states), namedText(true, [{ value: 1, name: 'on' }])]).toEqual([
      '2 = running',
      '7',
      'true = on',
    ])
    expect([behindValue(2, { names: states, unit: 'kW' }), behindValue(1, { names: states, unit: 'kW' })]).toEqual(['running', 'kW'])
  })

  it('are read as they are written', () => {
    const name = fc
      .string({ minLength: 1, maxLength: longestName })
      .map((text) => text.replace(/[;\p{C}]/gu, '').trim())
      .filter((text) => text !== '')
    const one = fc.record({ value: fc.oneof(fc.integer(), fc.double({ noNaN: true, noDefaultInfinity: true })), name })
    fc.assert(
      fc.property(fc.array(one), (names) => {
        expect(readNames(namesText(names))).toEqual({ ok: true, value: names.map((each) => ({ ...each, value: each.value + 0 })) })
      }),
    )
    expect(readNames(' false: off ;\n true = on = now;; −3 = cold')).toEqual({
      ok: true,
      value: [
        { value: 0, name: 'off' },
        { value: 1, name: 'on = now' },
        { value: -3, name: 'cold' },
      ],
    })
    expect(readNames('0 = off; on')).toEqual({ ok: false, problem: '“on” names no value: as in 0 = off; 1 = on.' })
    for (const text of ['1 =', '= off', 'x = off', '1e999 = much']) expect(readNames(text).ok).toBe(false)
  })

  it('are taken from others so far as a tag may have them', () => {
    const told = [
      { value: 0, name: ' off;\u0000 now ' },
      { value: 0, name: 'twice' },
      { value: 1, name: ' ; ' },
      { value: NaN, name: 'none' },
      { value: 2, name: 'x'.repeat(200) },
    ]
    const names = namesFrom(told)
    expect(names).toEqual([
      { value: 0, name: 'off now' },
      { value: 2, name: 'x'.repeat(longestName) },
    ])
    expect(problemsOf({ names })).toEqual([])
    expect(namesFrom(Array.from({ length: 500 }, (_, value) => ({ value, name: 'n' })))).toHaveLength(200)
  })

  it('of others never keep a tag from being made: what does not show, halves of characters, values that the type has not', () => {
    const told = [
      { value: 0, name: 'o\u200bff\u202e' },
      { value: 1, name: `${'x'.repeat(longestName - 1)}\u{1f6a2}` },
      { value: 2, name: '\ud83d' },
      { value: 3, name: 'third' },
    ]
    const names = namesFrom(told)
    expect(names.map(({ value, name }) => [value, name.length])).toEqual([
      [0, 4],
      [1, longestName - 1],
      [3, 5],
    ])
    for (const type of ['bool', 'int16', 'string', 'int16[]'] as const)
      expect(problemsOf({ type, names: namesFor(type, names) })).toEqual([])
    expect(namesFor('bool', names).map(({ value }) => value)).toEqual([0, 1])
    expect(namesFor('string', names)).toEqual([])
  })

  it('that are typed mean a value, unless a number stands there or two are called so', () => {
    const stages = [
      { value: 1, name: '0' },
      { value: 2, name: '1' },
      { value: 3, name: 'Spare' },
      { value: 4, name: 'spare' },
      { value: 5, name: 'Night' },
    ]
    const meant = (words: string) => valueMeant(words, stages)
    expect([meant('night'), meant('1'), meant('1,5'), meant('2 = 1'), meant('Spare'), meant('4 = spare'), meant('day')]).toEqual([
      ...[5, null, null, 2, null, 4, null],
    ])
  })

  it('are refused where they cannot be: two of one value, of texts, of a third truth', () => {
    const twice = [...states, { value: 2, name: 'again' }]
    expect(problemsOf({ names: twice })).toEqual([{ message: '2 has two names.' }])
    expect(problemsOf({ type: 'string', names: states })).toMatchObject([
      { path: 'names', message: expect.stringMatching(/a string has none/) as string },
    ])
    expect(problemsOf({ type: 'bool', names: states })).toMatchObject([
      { path: 'names.1.value', message: 'A truth value is 0 (false) or 1 (true).' },
    ])
    expect(problemsOf({ names: [{ value: 1, name: 'on; off' }] })).toHaveLength(1)
    expect(problemsOf({ names: [{ value: 1, name: 'on\u200b' }] })).toHaveLength(1)
  })

  it('are a column of tables', () => {
    const tag: Tag = { ...memory(), id: 1, revision: 1 }
    const links = { linkOf: () => undefined, idOf: () => undefined, nameOf: () => undefined }
    expect(editedTag(tag, { names: '0 = standing; 2 = running' }, links).draft.names).toEqual(states)
    expect(editedTag({ ...tag, names: states }, { names: '' }, links).draft.names).toEqual([])
    expect(editedTag(tag, { names: '0' }, links).problems).toEqual([
      { column: 'names', message: '“0” names no value: as in 0 = off; 1 = on.' },
    ])
    expect(editedTag(tag, { names: '1 = on; 1 = off' }, links).problems).toEqual([{ column: 'names', message: '1 has two names.' }])
  })
})

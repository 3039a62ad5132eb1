import { describe, expect, it } from 'vitest'
import { stateOf, statesIn } from '#engine/links/opcua/meanings'

/** What servers tell of values besides them, in the forms of the standard and in none. */

const told = (properties: Record<string, unknown>) => statesIn(new Map(Object.entries(properties)))

describe('names that a server tells', () => {
  it('are those of entries with their values, of lists from 0, or of the two truths', () => {
    const entries = [
      { value: [0, 10], displayName: { text: 'out' } },
      { value: [0xffffffff, 0xfffffffe], displayName: { text: 'lost' } },
    ]
    expect(told({ EnumValues: entries })).toEqual([
      { value: 10, name: 'out' },
      { value: -2, name: 'lost' },
    ])
    expect(told({ EnumStrings: [{ text: 'off' }, { text: null }, { text: 'on' }] })).toEqual([
      { value: 0, name: 'off' },
      { value: 2, name: 'on' },
    ])
    expect(told({ TrueState: { text: 'yes' }, FalseState: { text: 'no' } })).toEqual([
      { value: 0, name: 'no' },
      { value: 1, name: 'yes' },
    ])
    expect(stateOf({ value: [0, 3], name: 'Failed' })).toEqual([{ value: 3, name: 'Failed' }])
  })

  it('are left out where they are in no such form, and their neighbours stay', () => {
    const entries = [
      null,
      7,
      { value: 3 },
      { value: [0, 'x'] },
      { value: [0, 1], displayName: 'text' },
      { value: [0, 2], displayName: { text: 'on' } },
    ]
    expect(told({ EnumValues: entries })).toEqual([{ value: 2, name: 'on' }])
    for (const odd of ['text', 5, null, {}, [[]]]) expect(told({ EnumStrings: odd, TrueState: odd, FalseState: odd })).toEqual([])
  })
})

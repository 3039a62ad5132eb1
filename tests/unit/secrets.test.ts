import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { commonDepth, pathFrom, tidyName } from '#core/tags/naming'
import { pathProblem } from '#core/tags/path'
import { sameValue } from '#core/tags/types'
import { toRaw } from '#core/tags/scaling'
import { valueText } from '#core/text/number'
import { Seal } from '#security/seal'
import { mapSecrets, withKept, withoutSecrets } from '#shared/secrets'

describe('sealing', () => {
  const seal = new Seal('a secret of twenty-four characters')
  it('opens what it closed, and each time looks another', () => {
    fc.assert(
      fc.property(fc.string(), (plain) => {
        expect(seal.open(seal.close(plain))).toBe(plain)
      }),
    )
    expect(seal.close('x')).not.toBe(seal.close('x'))
  })
  it('refuses another key, and what was changed on the way', () => {
    const closed = seal.close('plug-and-socket')
    expect(() => new Seal('another secret of many characters').open(closed)).toThrow()
    const bytes = Buffer.from(closed, 'base64')
    bytes[bytes.length - 1]! ^= 1
    expect(() => seal.open(bytes.toString('base64'))).toThrow()
    expect(() => seal.open('aGVsbG8=')).toThrow(/not sealed here/)
    expect(() => new Seal('short')).toThrow(/too short/)
  })
})

describe('secrets in settings', () => {
  const settings = { user: 'conduit', identity: { password: { plain: 'x' } }, list: [{ key: { sealed: 'y' } }], other: { plain: 1 } }
  it('are found however deep, and nothing else is', () => {
    const seen: string[] = []
    mapSecrets(settings, (secret, { path }) => {
      seen.push(path)
      return secret
    })
    expect(seen).toEqual(['identity.password', 'list.0.key'])
  })
  it('never leave: only that they are kept', () => {
    expect(withoutSecrets(settings)).toEqual({
      user: 'conduit',
      identity: { password: { kept: true } },
      list: [{ key: { kept: true } }],
      other: { plain: 1 },
    })
  })
  it('belong to whom they were given, wherever in the list that one stands', () => {
    const guest = (name: string, password: object) => ({ name, password })
    const saved = { users: [guest('a', { sealed: 'of a' }), guest('b', { sealed: 'of b' })] }
    expect(withKept({ users: [guest('b', { kept: true })] }, saved)).toEqual({ users: [guest('b', { sealed: 'of b' })] })
    expect(withKept({ users: [guest('c', { kept: true })] }, saved)).toEqual({ users: [guest('c', { kept: true })] })
  })
  it('that are kept come from what was saved, new ones stay', () => {
    const draft = { identity: { password: { kept: true } }, list: [{ key: { plain: 'new' } }] }
    expect(withKept(draft, settings)).toEqual({ identity: { password: { plain: 'x' } }, list: [{ key: { plain: 'new' } }] })
    expect(withKept({ a: { kept: true } }, null)).toEqual({ a: { kept: true } })
  })
})

describe('names of tags from names of the far side', () => {
  it.each([
    ['InEnvelope', 'in_envelope'],
    ['Cell0001', 'cell0001'],
    ['Seat force', 'seat_force'],
    ['HTTPServer', 'http_server'],
    ['[3]', '3'],
    ['a/b', 'a_b'],
    ['Länge', 'länge'],
    ['--', '_'],
  ])('%s', (name, expected) => expect(tidyName(name, 'lower')).toBe(expected))

  it('are always a path that a tag may have', () => {
    fc.assert(
      fc.property(
        fc.array(fc.string({ minLength: 1, maxLength: 12 }), { minLength: 1, maxLength: 6 }),
        fc.constantFrom('lower', 'same'),
        fc.nat(8),
        (names, style, out) => {
          expect(pathProblem(pathFrom('berth/1', names, out, style as 'lower'))).toBeNull()
        },
      ),
    )
  })

  it('leave out in front what all have in common, and never their own name', () => {
    expect(commonDepth([])).toBe(0)
    expect(commonDepth([['A', 'B', 'C']])).toBe(2)
    expect(
      commonDepth([
        ['A', 'B', 'C'],
        ['A', 'B', 'D', 'E'],
        ['A', 'B'],
      ]),
    ).toBe(1)
    expect(commonDepth([['A'], ['B']])).toBe(0)
    expect(pathFrom('berth/1/arm', ['CableArm', 'Plug', 'Extension'], 1, 'lower')).toBe('berth/1/arm/plug/extension')
  })
})

describe('types beyond scalars', () => {
  it('arrays are equal element by element', () => {
    expect(sameValue([1, NaN], [1, NaN])).toBe(true)
    expect(sameValue([1], [1, 2])).toBe(false)
    expect(sameValue([1], 1)).toBe(false)
  })
  it('arrays and times are taken from text, and refused where they do not fit', () => {
    expect(toRaw('1, 2, 3', 'int16[]', null)).toEqual({ ok: true, raw: [1, 2, 3] })
    expect(toRaw('[ ]', 'float32[]', null)).toEqual({ ok: true, raw: [] })
    expect(toRaw('["a", "b"]', 'string[]', null)).toEqual({ ok: true, raw: ['a', 'b'] })
    expect(toRaw([1, 40_000], 'int16[]', null)).toMatchObject({ ok: false, reason: 'range' })
    expect(toRaw([1], 'int16', null)).toMatchObject({ ok: false, reason: 'type' })
    expect(toRaw('2026-11-23T10:00:00', 'datetime', null)).toEqual({ ok: true, raw: Date.UTC(2026, 10, 23, 10) })
    expect(toRaw('soon', 'datetime', null)).toMatchObject({ ok: false, reason: 'type' })
    expect(toRaw(200, 'int8', null)).toMatchObject({ ok: false, reason: 'range' })
  })
  it('are read by people', () => {
    expect(valueText([1, 2.5], 'float32[]')).toBe('[1, 2.5]')
    expect(valueText(Array.from({ length: 20 }, (_, i) => i))).toMatch(/… 20 in all/)
    expect(valueText(0, 'datetime')).toBe('1970-01-01T00:00:00.000Z')
  })
})

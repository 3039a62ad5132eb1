import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { inOtherUnit, forward, backward } from '#core/tags/curve'
import { codesFrom, codesText, codeSpan, oddJudge, oddOf, oddText, usualOdd, type OddValues } from '#core/tags/odd'
import { wholeScaling } from '#core/tags/scaling'
import type { DataType } from '#core/tags/types'
import { conversion, relatives, unitNames } from '#core/tags/units'
import { linkContract } from '#shared/links/link'
import { tagProblems } from '#shared/sources/registry'
import { pointTag, tagDraft, type TagDraft } from '#shared/tags'

const judge = (type: DataType, odd: OddValues) => oddJudge(type, { ...usualOdd, ...odd })

describe('odd values', () => {
  it('are judged by what the tag says, then its link, then the usual', () => {
    const chosen = oddOf({ nan: 'last', denormal: 0, codes: [{ raw: '-1', then: 'bad' }] }, { nan: 'pass' })
    expect(chosen).toEqual({ nan: 'pass', infinite: 'bad', denormal: 0, codes: [{ raw: '-1', then: 'bad' }] })
  })

  it.each<[DataType, OddValues, number | bigint, unknown]>([
    ['float32', {}, NaN, 'bad'],
    ['float32', { nan: 'pass' }, NaN, null],
    ['float64', {}, -Infinity, 'bad'],
    ['float64', { infinite: 99 }, Infinity, 99],
    // the smallest normal of IEEE 754 binary32 is 2^-126; one bit less is denormal
    ['float32', { denormal: 0 }, 2 ** -126, null],
    ['float32', { denormal: 0 }, 2 ** -126 - 2 ** -149, 0],
    ['float32', { denormal: 'bad' }, -(2 ** -149), 'bad'],
    ['float32', { denormal: 'bad' }, 0, null],
    ['float64', { denormal: 'bad' }, 2 ** -149, null],
    ['int16', { codes: [{ raw: '0x8000', then: 'bad' }] }, -32768, 'bad'],
    ['uint16', { codes: [{ raw: '0x8000', then: 'last' }] }, 32768, 'last'],
    ['int16', { codes: [{ raw: '32760..32767', then: 'last' }] }, 32763, 'last'],
    ['int16', { codes: [{ raw: '32760..32767', then: 'last' }] }, 32759, null],
    ['int64', { codes: [{ raw: '0x8000000000000000', then: 'bad' }] }, -(2n ** 63n), 'bad'],
    ['float32', { codes: [{ raw: '-9999', then: 'bad' }] }, -9999, 'bad'],
    // a NaN that one device uses as a code, by its bits
    ['float32', { nan: 'pass', codes: [{ raw: '0x7FA00000', then: 'bad' }] }, NaN, 'bad'],
  ])('%s with %j: %d becomes %s', (type, odd, raw, becomes) => {
    expect(judge(type, odd)?.(raw) ?? null).toBe(becomes)
  })

  it('cost nothing where a type cannot have them', () => {
    expect(judge('int32', {})).toBeNull()
    expect(judge('bool', { codes: [{ raw: '1', then: 'bad' }] })).toBeNull()
    expect(judge('float32', { nan: 'pass', infinite: 'pass' })).toBeNull()
  })

  it('make an array odd where one element is, by the worst of them', () => {
    const array = judge('float32[]', { nan: 'last' })!
    expect([array([1, 2]), array([1, NaN]), array([NaN, Infinity])]).toEqual([null, 'last', 'bad'])
  })

  it('never take a plain number of any size', () => {
    const sane = fc.float({ noNaN: true, noDefaultInfinity: true }).filter((value) => value === 0 || Math.abs(value) >= 2 ** -126)
    fc.assert(fc.property(sane, (value) => judge('float32', { denormal: 'bad' })!(value) === null))
  })

  it('are written as they are read', () => {
    const codes = [
      { raw: '0x8000', then: 'bad' as const },
      { raw: '32760..32767', then: -5 },
    ]
    expect(codesFrom(codesText(codes))).toEqual(codes)
    expect(codesFrom('32767')).toEqual([{ raw: '32767', then: 'bad' }])
    for (const wrong of ['0x', 'high bad', '1 maybe', '1..2..3', '1 bad 2']) expect(codesFrom(wrong)).toBeNull()
    expect(codeSpan('5..1', 'int16')).toBeNull()
    expect(codeSpan('70000', 'int16')).toBeNull()
    expect(oddText({ nan: 0, codes })).toBe(
      'what is no number stands as 0, uncertain, 0x8000 makes it bad, 32760..32767 stands as -5, uncertain',
    )
  })
})

const link = { ...linkContract.parse({ name: 'Pump', kind: 'modbus-tcp', settings: { host: 'pump' } }), id: 4, revision: 1 }
const problemsOf = (more: Partial<TagDraft>) =>
  tagProblems(tagDraft.parse({ ...pointTag({ path: 'p', linkId: 4, address: 'holding/40', type: 'int16' }), ...more }), () => link)

describe('what a tag may choose', () => {
  it.each<[Partial<TagDraft>, string | null]>([
    [{ odd: { codes: [{ raw: '0x18000', then: 'bad' }] } }, 'odd.codes.0.raw'],
    [{ odd: { codes: [{ raw: '0x8000', then: 0.5 }] } }, 'odd.codes.0.then'],
    [{ odd: { codes: [{ raw: '0x8000', then: 0.5 }] }, scaling: { gain: 0.1, offset: 0 } }, null],
    [{ reports: { deadband: { kind: 'percent', value: 2 }, least: null, most: null } }, 'reports.deadband'],
    [{ reports: { deadband: { kind: 'percent', value: 2 }, least: null, most: null }, range: { low: 0, high: 9 } }, null],
    [{ rawUnit: '°F', unit: '°C' }, null],
    [{ rawUnit: '°F', unit: 'bar' }, 'rawUnit'],
    [{ rawUnit: 'furlong', unit: 'm' }, 'rawUnit'],
  ])('%j: %s', (more, path) => {
    expect(problemsOf(more).map((problem) => problem.path)).toEqual(path === null ? [] : [path])
  })

  it('refuses times that contradict each other', () => {
    const reports = { deadband: null, least: 5000, most: 1000 }
    expect(tagDraft.safeParse({ ...pointTag({ path: 'p', linkId: 4, address: 'holding/40', type: 'int16' }), reports }).success).toBe(false)
  })
})

describe('units', () => {
  it.each([
    ['°F', '°C', 212, 100],
    ['°C', '°F', -40, -40],
    ['psi', 'bar', 100, 6.894757293168361],
    ['kn', 'km/h', 10, 18.52],
    ['m³/h', 'l/s', 36, 10],
    ['kWh', 'MJ', 1, 3.6],
    ['1/min', 'Hz', 3000, 50],
  ])('%s to %s: %d is %d', (from, to, value, other) => {
    const { factor, offset } = conversion(from, to)!
    expect(value * factor + offset).toBeCloseTo(other, 9)
  })

  it('are converted only to what measures the same, and back again', () => {
    expect(conversion('bar', '°C')).toBeNull()
    expect(conversion('toString', 'bar')).toBeNull()
    for (const from of Object.keys(unitNames))
      for (const to of relatives(from)) {
        const [there, back] = [conversion(from, to)!, conversion(to, from)!]
        expect((7 * there.factor + there.offset) * back.factor + back.offset).toBeCloseTo(7, 6)
      }
  })

  it('leave a scaling as it is, with its ends in the other unit', () => {
    const raw = fc.double({ min: -1000, max: 30000, noNaN: true })
    const inverted = fc.boolean()
    const root = fc.constantFrom('linear' as const, 'root' as const)
    const step = conversion('°F', '°C')!
    fc.assert(
      fc.property(raw, inverted, root, (value, inverted, curve) => {
        const scaling = {
          kind: 'ranges' as const,
          raw: { low: 0, high: 27648 },
          to: { low: 32, high: 212 },
          curve,
          clamp: 'none' as const,
          inverted,
        }
        const both = inOtherUnit(scaling, step)
        expect(forward(value, both)).toBeCloseTo(forward(value, scaling) * step.factor + step.offset, 6)
        expect(backward(forward(value, both), both)).toBeCloseTo(value, 3)
      }),
    )
    expect(wholeScaling({ scaling: { gain: 0.1, offset: 0 }, rawUnit: '°F', unit: '°C' })).toEqual({
      gain: expect.closeTo(1 / 18, 12) as number,
      offset: expect.closeTo(-17.7777777777778, 9) as number,
    })
  })
})

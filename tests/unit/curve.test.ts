import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { backward, clamps, curves, forward, scalingText, writable, type RangeScaling } from '#core/tags/curve'
import { toEngineering, toRaw } from '#core/tags/scaling'
import type { LinkNames } from '#shared/sources/columns'
import { editedTag } from '#shared/tagCsv/edit'
import { linkContract } from '#shared/links/link'
import { pointTag, tagDraft, type Tag } from '#shared/tags'

const ranges = (more: Partial<RangeScaling> = {}): RangeScaling => ({
  kind: 'ranges',
  raw: { low: 0, high: 27648 },
  to: { low: 0, high: 250 },
  curve: 'linear',
  clamp: 'none',
  inverted: false,
  ...more,
})

describe('from range to range', () => {
  it.each([
    [{}, 0, 0],
    [{}, 27648, 250],
    [{}, 13824, 125],
    // a live zero: 4 mA is 0 bar, 20 mA is 16 bar
    [{ raw: { low: 4, high: 20 }, to: { low: 0, high: 16 } }, 12, 8],
    // a level measured from above
    [{ to: { low: 250, high: 0 } }, 6912, 187.5],
    // a quarter of the pressure is half of the flow
    [{ curve: 'root' as const }, 6912, 125],
    [{ curve: 'root' as const }, -6912, -125],
    [{ clamp: 'both' as const }, -1, 0],
    [{ clamp: 'both' as const }, 30000, 250],
    [{ clamp: 'low' as const }, 30000, 271.267361111111],
    [{ clamp: 'high' as const }, -27648, -250],
    [{ inverted: true }, 27648, -250],
    [{ inverted: true, clamp: 'both' as const }, 99999, -250],
    [{ raw: { low: 0, high: 1000 }, to: { low: 0, high: 100 } }, 703, 70.3],
  ])('%j takes %d to %d', (more, raw, value) => {
    expect(forward(raw, ranges(more))).toBe(value)
  })

  const any = fc.record({
    kind: fc.constant('ranges' as const),
    raw: fc
      .record({ low: fc.integer({ min: -40000, max: 40000 }), high: fc.integer({ min: -40000, max: 40000 }) })
      .filter(({ low, high }) => low !== high),
    to: fc
      .record({ low: fc.integer({ min: -5000, max: 5000 }), high: fc.integer({ min: -5000, max: 5000 }) })
      .filter(({ low, high }) => low !== high),
    curve: fc.constantFrom(...curves),
    clamp: fc.constantFrom(...clamps),
    inverted: fc.boolean(),
  })

  it('comes back to the raw value it came from, unless it stopped at an end', () => {
    fc.assert(
      fc.property(any, fc.double({ min: -0.5, max: 1.5, noNaN: true }), (scaling, share) => {
        const raw = scaling.raw.low + share * (scaling.raw.high - scaling.raw.low)
        const value = forward(raw, scaling)
        const back = backward(value, scaling)
        const { low, high } = writable(scaling)
        expect(value).toBeGreaterThanOrEqual(low)
        expect(value).toBeLessThanOrEqual(high)
        const isStopped = (share < 0 && ['low', 'both'].includes(scaling.clamp)) || (share > 1 && ['high', 'both'].includes(scaling.clamp))
        if (isStopped) return
        // at the very end rounding may lie beyond it
        if (back !== null) expect(back).toBeCloseTo(raw, 5)
        else expect(Math.min(Math.abs(share), Math.abs(share - 1))).toBeLessThan(1e-9)
      }),
    )
  })

  it('never turns back: a higher raw value never gives a value on the other side', () => {
    fc.assert(
      fc.property(any, fc.integer(), fc.integer(), (scaling, a, b) => {
        const rises = (scaling.raw.high > scaling.raw.low === scaling.to.high > scaling.to.low) !== scaling.inverted
        const [x, y] = [forward(Math.min(a, b), scaling), forward(Math.max(a, b), scaling)]
        expect(rises ? y >= x : y <= x).toBe(true)
      }),
    )
  })

  it('is written by its inverse, and refused where no raw value gives it', () => {
    const flow = ranges({ curve: 'root', clamp: 'both' })
    expect(toRaw(125, 'uint16', flow)).toEqual({ ok: true, raw: 6912 })
    expect(toRaw(251, 'uint16', flow)).toMatchObject({
      ok: false,
      reason: 'range',
      detail: expect.stringContaining('from 0 to 250') as string,
    })
    expect(toRaw(-1, 'uint16', ranges({ clamp: 'low' }))).toMatchObject({
      ok: false,
      detail: expect.stringContaining('from 0 on') as string,
    })
    expect(toRaw(300, 'uint16', ranges())).toEqual({ ok: true, raw: 33178 })
    expect(toRaw(-1, 'uint16', ranges())).toMatchObject({
      ok: false,
      reason: 'range',
      detail: expect.stringContaining('uint16 holds') as string,
    })
    expect(toEngineering(6912n, flow)).toBe(125)
    expect(toEngineering('text', flow)).toBe('text')
    expect(toEngineering(NaN, flow)).toBeNaN()
  })

  it('says itself in a line', () => {
    expect(scalingText(ranges({ curve: 'root', clamp: 'both', inverted: true }))).toBe(
      '0…27648 → 0…250, root, stops at both ends, sign inverted',
    )
    expect(scalingText({ gain: 0.1, offset: 5 })).toBe('× 0.1 + 5')
  })
})

describe('the contract', () => {
  const draft = { path: 'a/b', source: { kind: 'point', linkId: 1, address: 'holding/1' }, type: 'int16' }
  const messages = (scaling: unknown) =>
    tagDraft.safeParse({ ...draft, scaling }).error?.issues.map(({ path, message }) => [path.join('.'), message])

  it('takes both ways, and gains as they were stored before there were others', () => {
    expect(tagDraft.parse({ ...draft, scaling: { gain: 0.1, offset: 0 } }).scaling).toEqual({ gain: 0.1, offset: 0 })
    expect(tagDraft.parse({ ...draft, scaling: { kind: 'ranges', raw: { low: 0, high: 10 }, to: { low: 0, high: 1 } } }).scaling).toEqual(
      ranges({ raw: { low: 0, high: 10 }, to: { low: 0, high: 1 } }),
    )
  })

  it('refuses what has no inverse or no ends', () => {
    expect(messages({ gain: 0, offset: 0 })).toEqual([['scaling.gain', 'A gain of 0 would make every value the same.']])
    expect(messages(ranges({ raw: { low: 5, high: 5 } }))).toEqual([['scaling.raw.high', 'Both ends of the raw range are the same.']])
    expect(messages(ranges({ to: { low: NaN, high: 5 } }))).toEqual([
      ['scaling.to.low', 'The low end of the engineering range is a number.'],
    ])
  })
})

describe('the columns', () => {
  const meters = { ...linkContract.parse({ name: 'Meters', kind: 'modbus-tcp', settings: { host: 'm' } }), id: 1, revision: 1 }
  const names: LinkNames = { linkOf: () => meters, idOf: () => 1, nameOf: () => 'Meters' }
  const tag: Tag = {
    ...pointTag({ path: 'a/b', linkId: 1, address: 'holding/1', type: 'int16', scaling: { gain: 0.1, offset: 0 } }),
    id: 1,
    revision: 1,
  }
  const edited = (cells: Record<string, string>, of = tag) => editedTag(of, cells, names)

  it('take a tag from one way to the other and back, and say which end is missing', () => {
    const wide = edited({
      raw_low: '0',
      raw_high: '27648',
      scaled_low: '0',
      scaled_high: '250',
      curve: 'root',
      clamp: 'low',
      inverted: 'yes',
    })
    expect(wide).toMatchObject({ problems: [], draft: { scaling: ranges({ curve: 'root', clamp: 'low', inverted: true }) } })
    expect(edited({ raw_low: '0', scaled_high: '5' }).problems.map(({ column }) => column)).toEqual(['raw_high', 'scaled_low'])
    const ranged = { ...tag, scaling: ranges() }
    expect(edited({ gain: '2' }, ranged).draft.scaling).toEqual({ gain: 2, offset: 0 })
    expect(edited({ gain: '', offset: '' }, ranged).draft.scaling).toEqual(ranges())
    expect(edited({ raw_low: '', raw_high: '', scaled_low: '', scaled_high: '' }, ranged).draft.scaling).toBeNull()
    expect(edited({ curve: 'bent' }, ranged).problems).toMatchObject([{ column: 'curve' }])
  })
})

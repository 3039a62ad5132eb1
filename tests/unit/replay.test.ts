import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { knownSince, Replay, workingsOf, type Had, type HadAt, type Workable } from '#core/equipment/replay'
import type { MadeOf } from '#core/equipment/made'
import { sampleRecorded } from '#core/history/recordedValue'
import { quality } from '#core/tags/quality'
import type { HistoryReader } from '#db/history/reader'
import type { SamplesAsked, StoredSample } from '#db/history/samples'
import { workedOutPast } from '../../server/equipment/workedOutPast'

const property = (path: string, made: MadeOf, type: Workable['type'] = 'float64'): Workable => ({ path, made, type })
const formula = (path: string, text: string, ...names: string[]) =>
  property(path, { kind: 'formula', formula: text, inputs: Object.fromEntries(names.map((name) => [name, name])) })
const input = (path: string) => property(path, { kind: 'input', path: `bound/${path}` })
const all = (...those: Workable[]) => new Map(those.map((one) => [one.path, one]))
const good = (at: number, value: HadAt['value']): HadAt => ({ at, value, quality: quality.Good })

describe('what a property is worked out from', () => {
  const rated = property('rated', { kind: 'constant', value: 200 })
  const share = formula('share', 'power / rated', 'power', 'rated')
  const together = property('together', { kind: 'gather', of: ['share', 'other'], how: 'sum' })
  it('is what formulas and children read, down to what was recorded', () => {
    const workings = workingsOf('together', all(input('power'), rated, share, input('other'), together))!
    expect(workings.leaves.toSorted()).toEqual(['other', 'power'])
    expect(workings.steps.map(({ path }) => path).toSorted()).toEqual(['rated', 'share', 'together'])
    expect(workings.steps.at(-1)!.path).toBe('together')
  })
  it('begins for a formula with the last of its inputs, for children together with the first of them', () => {
    const since = (path: string) => ({ power: 500, other: 100 })[path] ?? Infinity
    const known = all(input('power'), rated, share, input('other'), together, formula('both', 'power + other', 'power', 'other'))
    expect(knownSince(workingsOf('together', known)!, since)).toBe(100)
    expect(knownSince(workingsOf('both', known)!, since)).toBe(500)
    expect(knownSince(workingsOf('both', known)!, () => Infinity)).toBe(Infinity)
  })
  it('is nothing for inputs, for constants alone, for one that goes on from itself or reads itself in the end', () => {
    const counts = formula('counts', 'previous() + power', 'power')
    const known = all(input('power'), counts, formula('a', 'b + 1', 'b'), formula('b', 'a + power', 'a', 'power'), formula('five', '2 + 3'))
    for (const path of ['power', 'counts', 'a', 'five', 'nowhere']) expect(workingsOf(path, known)).toBeNull()
    // one that reads such a one takes that as it was recorded
    const twice = formula('twice', '2 * counts', 'counts')
    expect(workingsOf('twice', all(counts, twice))).toMatchObject({ leaves: ['counts'] })
  })
})

describe('a property over the past', () => {
  const told = (workings: ReturnType<typeof workingsOf>, samples: [string, HadAt][]) => {
    const replay = new Replay(workings!)
    return samples.flatMap(([path, sample]) => {
      replay.take(path, sample)
      return replay.settle(sample.at) ?? []
    })
  }
  it('says nothing before all is known, nothing twice, and as bad what is made of what is bad', () => {
    const workings = workingsOf('sum', all(input('a'), input('b'), formula('sum', 'a + b', 'a', 'b')))
    const bad: HadAt = { at: 5, value: undefined, quality: quality.BadNoData }
    expect(
      told(workings, [
        ['a', good(1, 1)],
        ['b', good(2, 10)],
        ['b', good(3, 10)],
        ['a', { ...good(4, 1), quality: quality.UncertainLastUsableValue }],
        ['b', bad],
        ['b', good(6, 20)],
      ]),
    ).toEqual([
      good(2, 11),
      { at: 4, value: 11, quality: quality.UncertainLastUsableValue },
      bad,
      { at: 6, value: 21, quality: quality.UncertainLastUsableValue },
    ])
  })
  it('looks back, divides by zero and rounds as it does live', () => {
    const workings = (text: string, type: Workable['type'] = 'float64') => {
      const { made } = formula('f', text, 'a')
      return workingsOf('f', all(input('a'), property('f', made, type)))
    }
    const samples: [string, HadAt][] = [0, 3, 7].map((value, i) => ['a', good(1000 * (i + 1), value)])
    expect(told(workings('a - previous(a)'), samples).map(({ value }) => value)).toEqual([0, 3, 4])
    expect(told(workings('a / 2', 'int16'), samples).map(({ value }) => value)).toEqual([0, 2, 4])
    expect(told(workings('1 / a'), samples)).toMatchObject([{ quality: quality.BadOutOfRange }, { value: 1 / 3 }, { value: 1 / 7 }])
  })
  it('has of children together those that were there, and says that others were missing', () => {
    const made: MadeOf = { kind: 'gather', of: ['a', 'b'], how: 'mean' }
    expect(
      told(workingsOf('mean', all(input('a'), input('b'), property('mean', made))), [
        ['a', good(1, 4)],
        ['b', good(2, 8)],
      ]),
    ).toEqual([{ at: 1, value: 4, quality: quality.UncertainDataSubNormal }, good(2, 6)])
  })
})

describe('a property over the past, part by part', () => {
  const stored = fc.record({ gap: fc.integer({ min: 1, max: 40 }), value: fc.integer({ min: -3, max: 3 }), isBad: fc.boolean() })
  const still = stored.map(({ gap }) => ({ gap, value: 1, isBad: false }))
  const stream = fc.oneof(...[stored, still].map((one) => fc.array(one, { minLength: 1, maxLength: 400 })))
  const recorded = (samples: { gap: number; value: number; isBad: boolean }[], from: number): StoredSample[] => {
    let at = from
    return samples.map(({ gap, value, isBad }) => {
      at += gap
      const code: number = isBad ? quality.BadNoData : quality.Good
      return { at, arrived: at, quality: code, number: isBad ? NaN : value, text: null }
    })
  }
  const readerOf = (series: ReadonlyMap<number, StoredSample[]>) => {
    const samples = ({ id, to, most }: SamplesAsked) =>
      Promise.resolve(
        series
          .get(id)!
          .filter(({ at }) => at < to)
          .reverse()
          .slice(0, most),
      )
    return { samples } as unknown as HistoryReader
  }
  /** What held at each moment, the plain way. */
  const plain = (a: StoredSample[], b: StoredSample[]): Map<number, Had> => {
    const last = (of: StoredSample[], at: number) => of.findLast((one) => one.at <= at)
    const moments = [...new Set([...a, ...b].map(({ at }) => at))].sort((x, y) => x - y)
    const found = new Map<number, Had>()
    for (const at of moments) {
      const [x, y] = [last(a, at), last(b, at)]
      if (!x || !y) continue
      const bad = [x, y].find((one) => one.quality !== quality.Good)
      found.set(at, bad ? { value: undefined, quality: bad.quality } : { value: x.number * 10 + y.number, quality: quality.Good })
    }
    return found
  }

  it('is at every moment what the plain way says, however it is cut, and each part begins where the next one ends', async () => {
    const made = all(input('a'), input('b'), formula('f', 'a * 10 + b', 'a', 'b'))
    const workings = workingsOf('f', made)!
    await fc.assert(
      fc.asyncProperty(stream, stream, fc.integer({ min: 40, max: 900 }), async (one, two, most) => {
        const [a, b] = [recorded(one, 1_000_000), recorded(two, 1_000_100)]
        const reader = readerOf(new Map([[1, a], [2, b]])) // prettier-ignore
        const leaves = ['a', 'b'].map((path, i) => ({
          ...{ path, since: 0 },
          series: [{ id: i + 1, read: (sample: StoredSample) => sampleRecorded(sample, 'float64') }],
        }))
        const right = plain(a, b)
        const ours: HadAt[] = []
        let to = Math.max(a.at(-1)!.at, b.at(-1)!.at) + 1
        for (;;) {
          const part: HadAt[] = []
          for await (const { at, number, quality: code } of workedOutPast(reader, { property: { id: 9 }, workings, leaves, to }, most))
            part.push({ at, value: Number.isNaN(number) ? undefined : number, quality: code })
          if (part.length === 0) break
          expect(part.every(({ at }) => at < to)).toBe(true)
          to = part[0]!.at
          ours.unshift(...part)
        }
        expect(ours.map(({ at }) => at)).toEqual([...new Set(ours.map(({ at }) => at))].sort((x, y) => x - y))
        expect(ours[0]?.at).toBe(right.keys().next().value)
        for (const [at, had] of right) {
          const { value, quality: code } = ours.findLast((sample) => sample.at <= at)!
          expect({ value, quality: code }).toEqual(had)
        }
      }),
      { numRuns: 60 },
    )
  })
})

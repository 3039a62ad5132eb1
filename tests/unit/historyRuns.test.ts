import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { RunsBuilder, type Run } from '#core/history/runs'
import { runAt, runText } from '#core/trends/drawn'

const texts = fc.constantFrom('berthed', 'crossing', 'loading', null)
/** Samples in the order of their times, within 1,000 ms. */
const stream = fc
  .uniqueArray(fc.record({ at: fc.integer({ min: 0, max: 999 }), text: texts }), { selector: ({ at }) => at, maxLength: 80 })
  .map((all) => all.sort((a, b) => a.at - b.at))

const built = (held: string | null, samples: readonly { at: number; text: string | null }[], columns: number, until = 1000) => {
  const builder = new RunsBuilder(0, 1000, columns)
  builder.begin(held)
  for (const { at, text } of samples) builder.sample(at, text)
  return builder.done(until)
}
/** What it has at each ms, the slow way. */
const slowly = (held: string | null, samples: readonly { at: number; text: string | null }[]) =>
  Array.from(
    { length: 1000 },
    (_, at) => samples.findLast((one) => one.at <= at)?.text ?? (samples.some((one) => one.at <= at) ? null : held),
  )

describe('runs of texts', () => {
  it('say at each moment what there was, where there is room for all of them', () => {
    fc.assert(
      fc.property(texts, stream, (held, samples) => {
        const { runs, gaps, seconds } = built(held, samples, 1000)
        const reference = slowly(held, samples)
        expect(reference.map((_, at) => runAt(runs, at)?.text ?? null)).toEqual(reference)
        expect(seconds).toBeCloseTo(reference.filter((text) => text !== null).length / 1000, 9)
        expect(reference.every((text, at) => (text === null) === gaps.some(([from, to]) => at >= from && at < to))).toBe(true)
        // neighbours that have the same text are one run
        expect(runs.some((run, i) => i > 0 && run.from === runs[i - 1]!.to && run.text === runs[i - 1]!.text)).toBe(false)
      }),
    )
  })

  it('are few where there is little room, in their order, and none tells a text that it did not have', () => {
    fc.assert(
      fc.property(texts, stream, fc.integer({ min: 1, max: 40 }), (held, samples, columns) => {
        const { runs } = built(held, samples, columns)
        const reference = slowly(held, samples)
        expect(runs.length).toBeLessThanOrEqual(2 * columns + 1)
        for (const [i, { from, to, text, several }] of runs.entries()) {
          expect(to).toBeGreaterThan(from)
          if (i > 0) expect(from).toBeGreaterThanOrEqual(runs[i - 1]!.to)
          if (several === 0) for (let at = from; at < to; at++) expect(reference[at]).toBe(text)
          else expect(several).toBeGreaterThan(1)
          expect(reference[to - 1]).toBe(text)
        }
      }),
    )
  })

  it('of a text that came and went at once keep it', () => {
    const { runs } = built('berthed', [{ at: 500, text: 'crossing' }, { at: 501, text: 'berthed' }], 10) // prettier-ignore
    expect(runs.map(({ from, to, text }) => [from, to, text])).toEqual([
      [0, 500, 'berthed'],
      [500, 501, 'crossing'],
      [501, 1000, 'berthed'],
    ])
  })

  it('say how many there were, and the last one, where they change too fast', () => {
    const fast = ['a', 'b', 'c', 'd'].map((text, i) => ({ at: 400 + i, text }))
    const { runs } = built('calm', [...fast, { at: 404, text: 'calm' }], 10)
    expect(runs.map(runText)).toEqual(['calm', '4 texts, last “d”', 'calm'])
  })

  it('end with what is known, and nothing is told of before the first', () => {
    const { runs, gaps } = built(null, [{ at: 300, text: 'loading' }], 100, 600)
    expect(runs).toEqual([{ from: 300, to: 600, text: 'loading', several: 0 }])
    expect(gaps).toEqual([[0, 300]])
    expect([runAt(runs, 299), runAt(runs, 600)]).toEqual([null, null])
    expect(built(null, [], 100).runs).toEqual([] as Run[])
  })
})

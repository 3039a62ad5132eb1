import { describe, expect, it } from 'vitest'
import { readRecording, valueAt } from '#core/signals/recording'
import { randomFrom, signalOf, type SignalSettings, type SignalShape } from '#core/signals/signal'
import { signalSource } from '#shared/sources/signal'
import { tagProblems } from '#shared/sources/registry'
import { tagDraft } from '#shared/tags'

const settings = (shape: SignalShape, more: Partial<SignalSettings> = {}): SignalSettings => ({
  ...signalSource.parse({ kind: 'signal', shape, low: 0, high: 10, cycle: 1000, every: 100 }),
  ...more,
})
const course = (shape: SignalShape, at: number[], more: Partial<SignalSettings> = {}, base = 0) => {
  const signal = signalOf(settings(shape, more), 0)
  return at.map((now) => Number(signal(now, base).toFixed(6)))
}

describe('signals', () => {
  it.each<[SignalShape, number[], Partial<SignalSettings>]>([
    ['ramp', [0, 2.5, 9, 0, 2.5], {}],
    ['sine', [5, 10, 2.061074, 5, 10], {}],
    ['square', [0, 0, 10, 0, 0], {}],
    // steps of 2 from 0 to 10 are six values
    ['counter', [0, 4, 6, 8, 0], { step: 2 }],
  ])('%s goes by the moment alone', (shape, expected, more) => {
    expect(course(shape, [0, 250, 900, 1000, 1250], more)).toEqual(expected)
  })

  it('wander between their ends, the same from the same seed', () => {
    const steps = Array.from({ length: 500 }, (_, i) => i * 100)
    const [walk, again, other] = [1, 1, 2].map((seed) => course('walk', steps, { seed, step: 3 }))
    expect(walk).toEqual(again)
    expect(walk).not.toEqual(other)
    expect(Math.min(...walk!)).toBeGreaterThanOrEqual(0)
    expect(Math.max(...walk!)).toBeLessThanOrEqual(10)
    walk!.slice(1).forEach((value, i) => expect(Math.abs(value - walk![i]!)).toBeLessThanOrEqual(3.000001))
  })

  it('lay noise on another value, as wide as they were told', () => {
    const noisy = course(
      'noise',
      Array.from({ length: 300 }, (_, i) => i),
      { step: 0.5 },
      20,
    )
    expect(Math.min(...noisy)).toBeGreaterThanOrEqual(19.5)
    expect(Math.max(...noisy)).toBeLessThanOrEqual(20.5)
    expect(Math.max(...noisy) - Math.min(...noisy)).toBeGreaterThan(0.9)
  })

  it('take their chance evenly', () => {
    const random = randomFrom(7)
    const counts = Array.from({ length: 10 }, () => 0)
    for (let i = 0; i < 10_000; i++) counts[Math.floor(random() * 10)]!++
    for (const count of counts) expect(Math.abs(count - 1000)).toBeLessThan(150)
  })
})

describe('a recording', () => {
  it.each([
    ['time,value\n2026-11-25 14:00:00,20.5\n2026-11-25 14:00:01,21\n2026-11-25 14:00:03,19'],
    ['Zeit;Wert\n0;20,5\n1;21\n3;19'],
    ['100\t20.5\n101\t21\n103\t19'],
  ])('is read with its times, whoever wrote it: %#', (text) => {
    const read = readRecording(text)
    expect(read).toEqual({ ok: true, recording: { at: [0, 1000, 3000], values: [20.5, 21, 19] } })
  })

  it('is played again and again, each value for as long as it stood', () => {
    const recording = { at: [0, 1000, 3000], values: [20.5, 21, 19] }
    // the last stays as long as the step before it: the whole takes 5 s
    expect([0, 999, 1000, 2999, 3000, 4999, 5000, 6001].map((at) => valueAt(recording, at))).toEqual([20.5, 20.5, 21, 21, 19, 19, 20.5, 21])
  })

  it.each([
    ['', /no line/],
    ['time,value', /no line/],
    ['0,1\n1,x', /line 2: “x” is no number/],
    ['0,1\nsoon,2', /line 2: “soon” is no time/],
    ['5,1\n4,2', /line 2: its time lies before/],
    ['0,1\n1,"2', /quote/i],
  ])('%j is refused with the line', (text, words) => {
    const read = readRecording(text)
    expect(read.ok ? '' : read.problem).toMatch(words)
  })
})

describe('what a signal may be', () => {
  const paths = (source: object, more: object = {}) =>
    tagProblems(tagDraft.parse({ path: 's', type: 'float64', source: { kind: 'signal', ...source }, ...more }), () => undefined).map(
      ({ path }) => path,
    )
  it.each([
    [{ shape: 'sine' }, {}, []],
    [{ shape: 'square' }, { type: 'bool' }, []],
    [{ shape: 'sine' }, { type: 'bool' }, ['type']],
    [{ shape: 'ramp', low: 5, high: 5 }, {}, ['source.high']],
    [{ shape: 'noise' }, {}, ['source.of']],
    [{ shape: 'playback', recording: 'x' }, {}, ['source.recording']],
    [{ shape: 'walk' }, { access: 'readwrite' }, ['access']],
  ])('%j with %j: %j', (source, more, problems) => {
    expect(paths(source, more)).toEqual(problems)
  })
})

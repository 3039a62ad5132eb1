import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { OpenBucket, tierMs, type Bucket } from '#core/history/bucket'
import { quality } from '#core/tags/quality'
import type { DataType, TagValue } from '#core/tags/types'
import { recordedValue, sampleRecorded } from '#core/history/recordedValue'
import { closestOf } from '#core/history/closest'
import { stretchesOf, type Stock } from '#core/history/choosing'
import { denseFrom, hourOf, minuteOf } from '#core/history/minuteBuckets'
import { commonTier, IntervalBuilder } from '#core/history/intervals'
import { readPast, WrongPast } from '#core/history/pastTable'
import { PictureBuilder } from '#core/history/picture'
import { intervalsAsked, processed } from '#core/opcua/processed'

interface Sample {
  at: number
  value: number
}

const minute = tierMs.minute

/** Samples in the order of their times, some of them not good. */
const samplesIn = (ms: number, most: number) =>
  fc
    .uniqueArray(
      fc.record({
        at: fc.integer({ min: 0, max: ms - 1 }),
        value: fc.oneof({ weight: 8, arbitrary: fc.integer({ min: -50, max: 50 }) }, { weight: 1, arbitrary: fc.constant(NaN) }),
      }),
      {
        selector: ({ at }) => at,
        maxLength: most,
      },
    )
    .map((all) => all.sort((a, b) => a.at - b.at))

/** The slow way: what the samples between two moments say, each held until the next. */
const plainly = (samples: readonly Sample[], end: number) => {
  const good = samples.filter(({ value }) => !Number.isNaN(value))
  let [integral, seconds] = [0, 0]
  for (const [i, { at, value }] of samples.entries()) {
    if (Number.isNaN(value)) continue
    const until = samples[i + 1]?.at ?? end
    integral += (value * (until - at)) / 1000
    seconds += (until - at) / 1000
  }
  return {
    count: samples.length,
    good: good.length,
    min: Math.min(...good.map(({ value }) => value)),
    max: Math.max(...good.map(({ value }) => value)),
    sum: good.reduce((sum, { value }) => sum + value, 0),
    ...{ integral, seconds },
  }
}

const expectLike = (bucket: Bucket, samples: readonly Sample[], end: number) => {
  const plain = plainly(samples, end)
  expect(bucket.count).toBe(plain.count)
  expect(bucket.good).toBe(plain.good)
  expect(bucket.integral).toBeCloseTo(plain.integral, 6)
  expect(bucket.seconds).toBeCloseTo(plain.seconds, 6)
  if (plain.good === 0) return expect(bucket.min).toBeNaN()
  const good = samples.filter(({ value }) => !Number.isNaN(value))
  expect(bucket).toMatchObject({
    ...{ min: plain.min, max: plain.max, sum: plain.sum },
    ...{ first: good[0]!.value, firstAt: good[0]!.at, last: good.at(-1)!.value, lastAt: good.at(-1)!.at },
    ...{ openedAt: samples[0]!.at, holds: samples.at(-1) === good.at(-1) },
  })
}

describe('buckets', () => {
  it('say of a minute what its samples say', () => {
    fc.assert(
      fc.property(samplesIn(minute, 200), (samples) => {
        fc.pre(samples.length > 0)
        const made = minuteOf(
          0,
          samples.map(({ at }) => at),
          samples.map(({ value }) => value),
        )
        expectLike(made.minute, samples, minute)
        expect(made.seconds.length > 0).toBe(samples.length > denseFrom)
      }),
    )
  })

  it('say of an hour what its samples say, over minutes in which nothing came', () => {
    fc.assert(
      fc.property(samplesIn(tierMs.hour, 60), (samples) => {
        fc.pre(samples.length > 0)
        const starts = [...new Set(samples.map(({ at }) => Math.floor(at / minute) * minute))]
        const minutes = starts.map((start) => {
          const inside = samples.filter(({ at }) => at >= start && at < start + minute)
          return minuteOf(
            start,
            inside.map(({ at }) => at),
            inside.map(({ value }) => value),
          ).minute
        })
        expectLike(hourOf(0, minutes), samples, tierMs.hour)
      }),
    )
  })

  it('begin with what held before, which is none of their samples', () => {
    const bucket = new OpenBucket(0, 10_000)
    bucket.begin(5)
    bucket.add(4000, 1)
    bucket.close()
    expect(bucket).toMatchObject({ count: 1, min: 1, max: 1, leastHeld: 1, mostHeld: 5, integral: 26, seconds: 10 })
  })
})

describe('pictures', () => {
  const drawn = (samples: readonly Sample[], to: number, columns: number) => {
    const builder = new PictureBuilder(0, to, columns)
    for (const { at, value } of samples) builder.sample(at, value)
    return builder.done()
  }

  it('keep the first, the least, the most and the last of each column, as they were', () => {
    fc.assert(
      fc.property(samplesIn(1000, 300), fc.integer({ min: 1, max: 50 }), (samples, columns) => {
        const { at, values } = drawn(samples, 1000, columns)
        const kept = at.flatMap((time, i) => (values[i] === null ? [] : [{ at: time, value: values[i]! }]))
        for (const one of kept) expect(samples).toContainEqual(one)
        for (let column = 0; column < columns; column++) {
          const within = (all: readonly Sample[]) =>
            all.filter(({ at: time, value }) => !Number.isNaN(value) && Math.floor(time / (1000 / columns)) === column)
          const [all, shown] = [within(samples), within(kept)]
          expect(shown.length).toBeLessThanOrEqual(4)
          if (all.length === 0) continue
          const ends = (of: readonly Sample[]) => [
            of[0],
            of.at(-1),
            Math.min(...of.map(({ value }) => value)),
            Math.max(...of.map(({ value }) => value)),
          ]
          expect(ends(shown)).toEqual(ends(all))
        }
        expect([...at].sort((a, b) => a - b)).toEqual(at)
      }),
    )
  })

  it('show where nothing good was, and end the line there', () => {
    const { at, values, gaps } = drawn(
      [
        { at: 100, value: 1 },
        { at: 300, value: NaN },
        { at: 700, value: 2 },
      ],
      1000,
      10,
    )
    expect(at.map((time, i) => [time, values[i]])).toEqual([
      [100, 1],
      [300, null],
      [700, 2],
    ])
    expect(gaps).toEqual([
      [0, 100],
      [300, 700],
    ])
  })

  it('never draws over a gap that is as wide as a column', () => {
    fc.assert(
      fc.property(samplesIn(1000, 60), fc.integer({ min: 1, max: 40 }), (samples, columns) => {
        const { at, values } = drawn(samples, 1000, columns)
        for (const [i, { at: from, value }] of samples.entries()) {
          if (!Number.isNaN(value)) continue
          const next = samples.slice(i + 1).find((later) => !Number.isNaN(later.value))
          if (!next || next.at - from < 2000 / columns) continue
          const last = at.findLastIndex((time, k) => time < next.at && values[k] !== undefined)
          if (last >= 0) expect(values[last]).toBeNull()
        }
      }),
    )
  })

  it('counts how long values held, also of what held before', () => {
    const builder = new PictureBuilder(0, 10_000, 10)
    builder.begin(10)
    builder.sample(4000, 20)
    builder.sample(6000, NaN)
    expect(builder.done().statistics).toEqual({ least: 10, most: 20, mean: 80 / 6, samples: 2, seconds: 6 })
  })

  it('is the same of buckets as of their samples, but for the middle of a column', () => {
    const samples = Array.from({ length: 600 }, (_, i) => ({ at: i * 1000, value: (i * 37) % 101 }))
    const builder = new PictureBuilder(0, 600_000, 5)
    for (let start = 0; start < 600_000; start += minute) {
      const inside = samples.filter(({ at }) => at >= start && at < start + minute)
      builder.bucket(
        minuteOf(
          start,
          inside.map(({ at }) => at),
          inside.map(({ value }) => value),
        ).minute,
        start + minute,
      )
    }
    const [coarse, fine] = [builder.done(), drawn(samples, 600_000, 5)]
    expect(coarse.values).toEqual(fine.values)
    expect(coarse.statistics).toEqual(fine.statistics)
  })
})

describe('what a span is drawn from', () => {
  const hour = tierMs.hour
  const stock: Stock = {
    oldest: { sample: 100 * hour, second: 120 * hour, minute: 24 * hour, hour: 0 },
    minutesTo: 200 * hour + 5 * minute,
    hoursTo: 200 * hour,
  }
  const moment = fc.integer({ min: 0, max: 201 * hour })

  it('has no holes and nothing twice, whatever is asked', () => {
    fc.assert(
      fc.property(moment, moment, fc.constantFrom(100, 2000, minute, hour), fc.constantFrom(1000, 10_000_000), (a, b, column, samples) => {
        fc.pre(a !== b)
        const [from, to] = [Math.min(a, b), Math.max(a, b)]
        const stretches = stretchesOf(from, to, column, samples, stock)
        for (const [i, one] of stretches.entries()) if (i > 0) expect(one.from).toBe(stretches[i - 1]!.to)
        expect(stretches[0]!.from).toBeLessThanOrEqual(from)
        expect(stretches.at(-1)!.to).toBe(to)
      }),
    )
  })

  it('takes nothing from a shelf that has it no more, or not yet', () => {
    fc.assert(
      fc.property(moment, moment, fc.constantFrom(100, 2000, minute, hour), (a, b, column) => {
        fc.pre(a !== b)
        for (const { shelf, from, to } of stretchesOf(Math.min(a, b), Math.max(a, b), column, 10_000_000, stock)) {
          if (shelf !== 'hour') expect(from).toBeGreaterThanOrEqual(stock.oldest[shelf])
          if (shelf === 'minute' || shelf === 'second') expect(to).toBeLessThanOrEqual(stock.minutesTo)
        }
      }),
    )
  })

  it('draws a year from hours and its ends from what is finer', () => {
    const shelves = stretchesOf(110.5 * hour, 200.5 * hour, 7 * hour, 10_000_000, stock).map(({ shelf }) => shelf)
    expect(shelves).toEqual(['minute', 'hour', 'minute', 'sample'])
  })
})

it('is decided by the recording that is closest to a tag', () => {
  const decide = closestOf([
    { pattern: '**' },
    { pattern: 'berth/**' },
    { pattern: 'berth/*/power' },
    { pattern: 'berth/2/**' },
    { pattern: 'berth/2/power' },
  ])
  expect(['quay/lamp', 'berth/1/angle', 'berth/1/power', 'berth/2/angle', 'berth/2/power'].map((path) => decide(path)?.pattern)).toEqual([
    '**',
    'berth/**',
    'berth/*/power',
    'berth/2/**',
    'berth/2/power',
  ])
})

describe('intervals', () => {
  it('have what the slow way says, from samples and from buckets', () => {
    fc.assert(
      fc.property(samplesIn(10 * minute, 60), fc.boolean(), (samples, byMinutes) => {
        const borders = byMinutes ? [0, 2 * minute, 7 * minute, 10 * minute] : [0, 12_345, 99_999, 10 * minute]
        const builder = new IntervalBuilder(borders)
        if (!byMinutes) for (const { at, value } of samples) builder.sample(at, value)
        else
          for (let from = 0; from < 10 * minute; from += minute) {
            const bucket = new OpenBucket(from, from + minute)
            const inIt = samples.filter(({ at }) => at >= from && at < from + minute)
            for (const { at, value } of inIt) bucket.add(at, value)
            if (inIt.length > 0) builder.bucket(bucket.close(), from + minute)
          }
        for (const { from, to, whole, isExact } of builder.done(10 * minute)) {
          const held = samples.findLast(({ at }) => at < from)
          const inIt = samples.filter(({ at }) => at >= from && at < to)
          const plain = plainly([...(held ? [{ ...held, at: from }] : []), ...inIt], to)
          expect(isExact).toBe(true)
          expect(whole.count).toBe(inIt.length)
          expect(whole.integral).toBeCloseTo(plain.integral, 6)
          expect(whole.seconds).toBeCloseTo(plain.seconds, 6)
        }
      }),
    )
  })

  it('know nothing of what lies ahead, and say where a bucket reaches over their border', () => {
    const builder = new IntervalBuilder([0, 1000, 2000, 3000])
    builder.begin(5)
    const [first, second, third] = builder.done(1500)
    expect([first!.whole.seconds, second!.whole.seconds, third!.whole.seconds]).toEqual([1, 0.5, 0])
    expect([second!.until, third!.until]).toEqual([1500, 2000])
    const coarse = new IntervalBuilder([0, 30_000, minute])
    const bucket = new OpenBucket(0, minute)
    bucket.add(10, 1)
    coarse.bucket(bucket.close(), minute)
    // of the minute any part may be in either of them
    expect(coarse.done(minute).map(({ isExact }) => isExact)).toEqual([false, false])
  })

  it('are made of the longest buckets that end at their borders', () => {
    expect(commonTier([0, tierMs.hour])).toBe('hour')
    expect(commonTier([0, 5 * minute, 15 * minute])).toBe('minute')
    expect(commonTier([1000, 90_000])).toBe('second')
    expect(commonTier([0, 1500])).toBeNull()
  })

  it('are asked for from either end, and go on where one answer ended', () => {
    expect(intervalsAsked(0, 25, 10, 100)).toEqual({ borders: [0, 10, 20, 25], isBackwards: false, next: null })
    expect(intervalsAsked(25, 0, 10, 100)).toEqual({ borders: [0, 5, 15, 25], isBackwards: true, next: null })
    expect(intervalsAsked(0, 25, 0, 100).borders).toEqual([0, 25])
    expect(intervalsAsked(0, 100, 10, 3)).toEqual({ borders: [0, 10, 20, 30], isBackwards: false, next: 30 })
  })

  it('are good or bad by how much of them has to be', () => {
    const builder = new IntervalBuilder([0, 10_000])
    builder.sample(4000, 7)
    const [interval] = builder.done(10_000)
    const by = (good: number, bad: number) =>
      processed('time average', interval!, { isBackwards: false, step: 10_000, share: { good, bad } })
    expect(by(100, 100)).toMatchObject({ value: 7, quality: quality.UncertainDataSubNormal, isPartial: false })
    expect(by(60, 100)).toMatchObject({ value: 7, quality: quality.Good })
    expect(by(100, 40)).toMatchObject({ value: null, quality: quality.BadNoData })
  })
})

describe('the past as a table', () => {
  const around = {
    seriesOf: (path: string) => ({ power: { id: 1, type: 'float32' as const }, name: { id: 2, type: 'string' as const }, closed: { id: 3, type: 'bool' as const } })[path], // prettier-ignore
    ...{ from: 1000, to: 1_000_000_000_000, most: 5 },
  }
  const read = (text: string) => [...readPast(text, around)]
  const wrong = (text: string) => {
    try {
      read(text)
      return null
    } catch (error) {
      return error instanceof WrongPast ? [error.line, error.problem.slice(0, 24)] : error
    }
  }

  it('is read in any dialect, with texts, switches and qualities', () => {
    expect(read('path;time;value;quality\npower;1970-01-01T00:00:02Z;3,5;Good\npower;3000;;BadNoData\nclosed;4000;true;\n')).toEqual([
      { series: 1, at: 2000, quality: 0, number: 3.5, text: null },
      { series: 1, at: 3000, quality: quality.BadNoData, number: NaN, text: null },
      { series: 3, at: 4000, quality: 0, number: 1, text: null },
    ])
    expect(read('path,time,text\nname,2000,"Skagerrak, II"\n')).toMatchObject([{ series: 2, text: 'Skagerrak, II' }])
  })

  it('ends with the first line that is wrong, and says which', () => {
    expect(wrong('path,value\n')).toEqual([1, 'the first line names the'])
    expect(wrong('path,time,value\npower,2000,1\nnone,2000,1\n')).toEqual([3, 'there is no tag “none”, '])
    expect(wrong('path,time,value\npower,yesterday,1\n')).toEqual([2, '“yesterday” is no time; '])
    expect(wrong('path,time,value\npower,10,1\n')).toEqual([2, '10 is older than single '])
    expect(wrong('path,time,value\npower,2000000000000,1\n')).toEqual([2, '2000000000000 is too fres'.slice(0, 24)])
    expect(wrong('path,time,value\npower,2000,much\n')).toEqual([2, '“much” is no number.'])
    expect(wrong('path,time,value,quality\npower,2000,1,fine\n')).toEqual([2, '“fine” is no quality; it'])
    expect(wrong(`path,time,value\n${'power,2000,1\n'.repeat(6)}`)).toEqual([7, 'there are more than 5 li'])
  })
})

describe('what was recorded', () => {
  const of = (number: number, text: string | null, type: DataType) => sampleRecorded({ number, text, quality: 0 }, type)

  it('comes back as it was', () => {
    for (const [value, type] of [
      [3.5, 'float64'],
      [true, 'bool'],
      ['II', 'string'],
      [2n ** 60n, 'int64'],
      [7n, 'uint64'],
      [[1, 2], 'int16[]'],
      [[2n ** 60n], 'int64[]'],
    ] as const)
      // prettier-ignore
      expect(sampleRecorded({ ...recordedValue(value as TagValue), quality: 0 }, type as DataType)).toEqual({ value, quality: 0 })
  })

  it('is not good where it is none of what its tag is by now', () => {
    for (const [number, text, type] of [
      [3.5, null, 'int64'],
      [Infinity, null, 'int64'],
      [NaN, 'much', 'uint64'],
      [NaN, '{"a":1}', 'int16[]'],
      [NaN, '["a"]', 'int16[]'],
      [NaN, '[1, …', 'int64[]'],
      [NaN, 'II', 'float64'],
      [5, null, 'string'],
    ] as const)
      // prettier-ignore
      expect(of(number, text, type as DataType)).toEqual({ value: undefined, quality: quality.BadNoData })
  })
})

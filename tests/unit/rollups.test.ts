import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { OpenBucket } from '#core/history/bucket'
import { IntervalBuilder } from '#core/history/intervals'
import { madeOfContract, type MadeOf } from '#core/equipment/made'
import { rolledUp } from '#core/equipment/rollup'
import { rollupWays, type RollupWay } from '#core/equipment/settings'
import { together } from '#core/equipment/slide'
import { Spans } from '#core/equipment/spans'
import { windowsAfter, windowsBefore, type Window } from '#core/equipment/windows'
import { classText } from '#core/equipment/words'
import { quality } from '#core/tags/quality'
import { madeUp } from '#engine/equipment/madeUp'
import type { Recalling } from '#engine/equipment/recalling'
import { RollupTag } from '#engine/equipment/rollupTag'
import { recordedValue } from '#core/history/recordedValue'
import type { RegisteredTag } from '#engine/tags/tagRegister'

interface One {
  at: number
  value: number
}
const second = 1000

/** What a window says, looked at sample by sample; the slow way. */
const slowly = (how: RollupWay, samples: readonly One[], from: number, to: number) => {
  const window = new OpenBucket(from, to)
  window.begin(samples.findLast(({ at }) => at < from)?.value ?? NaN)
  for (const { at, value } of samples) if (at >= from && at < to) window.add(at, value)
  window.close()
  return rolledUp(how, window)
}

/** Samples in order, some of them not good; times in ms. */
const samplesUpTo = (end: number) =>
  fc
    .uniqueArray(
      fc.record({ at: fc.integer({ min: 0, max: end }), value: fc.oneof(fc.integer({ min: -50, max: 50 }), fc.constant(NaN)) }),
      {
        selector: ({ at }) => at,
        maxLength: 40,
      },
    )
    .map((all) => all.sort((a, b) => a.at - b.at))

const intervalsOf = (samples: readonly One[], borders: readonly number[], now = Infinity) => {
  const builder = new IntervalBuilder(borders)
  builder.begin(samples.findLast(({ at }) => at < borders[0]!)?.value ?? NaN)
  for (const { at, value } of samples) if (at >= borders[0]! && at < borders.at(-1)!) builder.sample(at, value)
  return builder.done(now)
}

describe('windows that slide', () => {
  it('say together what one window as long says, to the last digits', () => {
    fc.assert(
      fc.property(samplesUpTo(10 * second), fc.constantFrom(...rollupWays), fc.integer({ min: 1, max: 9 }), (samples, how, over) => {
        const parts = intervalsOf(
          samples,
          Array.from({ length: 11 }, (_, i) => i * second),
        ).map(({ whole }) => whole)
        for (let i = over; i <= 10; i++) {
          const found = rolledUp(how, together(parts.slice(i - over, i), (i - over) * second))
          const wanted = slowly(how, samples, (i - over) * second, i * second)
          expect(found.quality).toBe(wanted.quality)
          if (wanted.value === null) expect(found.value).toBeNull()
          else expect(found.value).toBeCloseTo(wanted.value, 9)
        }
      }),
    )
  })

  it('are uncertain as long as a part of them is not known', () => {
    const known = new OpenBucket(2000, 3000)
    known.begin(4)
    known.close()
    expect(rolledUp('max', together([known], 0))).toEqual({ value: 4, quality: quality.UncertainDataSubNormal })
    expect(rolledUp('max', together([known], 2000))).toEqual({ value: 4, quality: quality.Good })
  })

  it('reach as far as so many windows do, over changes of the clock', () => {
    const day: Window = { count: 1, unit: 'day' }
    // the clock goes on in the night to the 29th of March 2026
    const end = Date.parse('2026-03-31T00:00:00+02:00')
    expect(windowsBefore(day, end, 7, 'Europe/Berlin')).toBe(Date.parse('2026-03-24T00:00:00+01:00'))
    expect(windowsAfter(day, Date.parse('2026-03-24T00:00:00+01:00'), 7, 'Europe/Berlin')).toBe(end)
  })

  it('are said in words', () => {
    const of = { kind: 'rollup', of: 'power', how: 'max', shows: 'last' } as const
    expect(classText({ ...of, window: { count: 5, unit: 'minute' }, over: 12 })).toBe('most of power, over 60 min, every 5 min')
    expect(classText({ ...of, window: { count: 1, unit: 'day' }, over: 7 })).toBe('most of power, over 7 days, each day')
    expect(classText({ ...of, window: { count: 1, unit: 'day' }, over: 1 })).toBe('most of power, each day')
  })
})

describe('spans of time', () => {
  it('cover all that was added, and nothing that was not', () => {
    const stretch = fc.tuple(fc.integer({ min: 0, max: 200 }), fc.integer({ min: 1, max: 20 }))
    fc.assert(
      fc.property(fc.array(stretch, { maxLength: 30 }), (added) => {
        const [spans, plain] = [new Spans(), new Set<number>()]
        for (const [from, length] of added) {
          spans.add({ from, to: from + length })
          for (let i = 0; i < length; i++) plain.add(from + i)
        }
        const [found, borders] = [new Set<number>(), [] as number[]]
        for (let one = spans.take(); one; one = spans.take()) {
          borders.push(one.from, one.to)
          for (let at = one.from; at < one.to; at++) found.add(at)
        }
        expect(found).toEqual(plain)
        for (let i = 1; i < borders.length; i++) expect(borders[i]!).toBeGreaterThan(borders[i - 1]!)
      }),
    )
  })

  it('stay few, and lose nothing by that', () => {
    const spans = new Spans()
    for (let i = 0; i < 1000; i++) spans.add({ from: i * 10, to: i * 10 + 1 })
    expect(spans.hull).toEqual({ from: 0, to: 9991 })
    let count = 0
    for (let one = spans.take(); one; one = spans.take()) count++
    expect(count).toBeLessThanOrEqual(64)
    expect(spans.isEmpty && spans.hull === null).toBe(true)
  })
})

describe('what is made up for', () => {
  const tag = { id: 7, path: 'Port/A/mean', type: 'float64' } as RegisteredTag
  const hand = 40 * second
  const madeOf = (how: RollupWay, over: number) =>
    madeOfContract.parse({ kind: 'rollup', of: 'x', how, window: { count: 1, unit: 'second' }, over, shows: 'last' }) as MadeOf & {
      kind: 'rollup'
    }
  type Told = Awaited<ReturnType<Recalling['told']>>[number]
  const toldOf = (at: number, { value, quality: code }: { value: number | null; quality: number }): Told => ({
    ...{ at, arrived: 0, quality: code },
    ...recordedValue(value ?? undefined),
  })
  /** As a record does: what says nothing new is not told. */
  const withoutRepeats = (all: readonly Told[]) =>
    all.filter(({ number, quality: code }, i) => i === 0 || !Object.is(all[i - 1]!.number, number) || all[i - 1]!.quality !== code)
  const recallingOf = (samples: readonly One[], told: readonly Told[]): Recalling => ({
    isRecorded: () => true,
    intervals: (_, borders, now) => Promise.resolve(intervalsOf(samples, borders, now)),
    nextAt: (_, from) => Promise.resolve(samples.find(({ at }) => at >= from)?.at ?? null),
    told: (_, from, to) =>
      Promise.resolve([...told.filter(({ at }) => at < from).slice(-1), ...told.filter(({ at }) => at >= from && at < to)]),
    missed: () => Promise.resolve(null),
    noteAgain: () => true,
    correct: () => {},
  })

  it('is afterwards as if all had come in time, whatever came late, and is told no oftener than it has to be', async () => {
    await fc.assert(
      fc.asyncProperty(
        samplesUpTo(hand - 1),
        fc.constantFrom('min', 'mean by time', 'count', 'last', 'sum'),
        fc.integer({ min: 1, max: 5 }),
        fc.array(fc.nat(39), { maxLength: 5 }),
        async (samples, how, over, picks) => {
          const late = new Set(picks.map((i) => samples[i % Math.max(1, samples.length)]).filter((one) => one !== undefined))
          const early = samples.filter((one) => !late.has(one))
          const ends = Array.from({ length: 40 }, (_, i) => (i + 1) * second)
          const said = (all: readonly One[]) => ends.map((end) => toldOf(end, slowly(how, all, end - over * second, end)))
          const told = new Map(withoutRepeats(said(early)).map((one) => [one.at, one]))
          for (const { at } of late) {
            let rest: { from: number; to: number } | null = { from: at - (at % second), to: at - (at % second) + second }
            while (rest) {
              const now = [...told.values()].sort((a, b) => a.at - b.at)
              const found = await madeUp({
                tag,
                made: madeOf(how, over),
                zone: 'UTC',
                recalling: recallingOf(samples, now),
                span: rest,
                hand,
              })
              for (const one of found!.corrections)
                told.set(one.at, toldOf(one.at, { value: (one.value as number | undefined) ?? null, quality: one.quality }))
              rest = found!.rest
            }
          }
          const held = [...told.values()].sort((a, b) => a.at - b.at)
          for (const wanted of said(samples)) {
            const found = held.findLast(({ at }) => at <= wanted.at)!
            expect(found.quality).toBe(wanted.quality)
            if (Number.isNaN(wanted.number)) expect(found.number).toBeNaN()
            else expect(found.number).toBeCloseTo(wanted.number, 9)
          }
        },
      ),
      { numRuns: 300 },
    )
  })

  it('is nothing where nothing changed', async () => {
    const samples = [0, 5000, 9000].map((at) => ({ at, value: at }))
    const told = Array.from({ length: 40 }, (_, i) => toldOf((i + 1) * second, slowly('max', samples, i * second, (i + 1) * second)))
    const asked = { tag, made: madeOf('max', 1), zone: 'UTC', recalling: recallingOf(samples, told), hand }
    expect((await madeUp({ ...asked, span: { from: 0, to: hand } }))!.corrections).toEqual([])
  })

  it('is done in steps where it is much, and leaves alone what is not known exactly any more', async () => {
    const far = 10_000 * second
    const recalling = recallingOf([{ at: 0, value: 3 }], [])
    const asked = { tag, made: madeOf('max', 3), zone: 'UTC', hand: far, span: { from: 0, to: 1000 } }
    const first = await madeUp({ ...asked, recalling })
    expect(first!.rest).toEqual({ from: 1500 * second, to: far })
    const blurred: Recalling = {
      ...recalling,
      intervals: async (...all) => (await recalling.intervals(...all))!.map((one) => ({ ...one, isExact: one.from > 10 * second })),
    }
    const found = await madeUp({ ...asked, recalling: blurred })
    expect(found!.corrections.map(({ at }) => at)).toEqual([14 * second])
  })
})

describe('the window at hand', () => {
  const tag = { id: 7, handle: 0, path: 'Port/A/most', type: 'float64' } as RegisteredTag
  const made = madeOfContract.parse({ kind: 'rollup', of: 'x', how: 'max', window: { count: 1, unit: 'day' }, shows: 'last' })

  it('is asked for again where something came out of order while it was asked for', async () => {
    const waiting: ((found: null) => void)[] = []
    const recalling = { isRecorded: () => false, noteAgain: () => true, intervals: () => new Promise((resolve) => waiting.push(resolve)) }
    const around = { table: { set: () => {}, degrade: () => {} }, tap: { add: () => {}, remove: () => {} }, recalling, zone: () => 'UTC' }
    const rollup = new RollupTag(tag, made as MadeOf & { kind: 'rollup' }, around as never)
    const now = Date.now()
    const take = (at: number) => rollup.take({ value: 1, quality: quality.Good, sourceTime: at, seenAt: now })
    take(now)
    const asked = rollup.ask()
    take(now - 1)
    waiting[0]!(null)
    await asked
    expect(rollup.hasToAsk).toBe(true)
    const again = rollup.ask()
    waiting[1]!(null)
    await again
    expect(rollup.hasToAsk).toBe(false)
    rollup.close()
  })
})

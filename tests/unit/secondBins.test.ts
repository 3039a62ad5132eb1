import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { keptSeconds, SecondBins } from '#core/trends/secondBins'

const start = 1_700_000_000_000
const at = (seconds: number) => start + seconds * 1000

describe('the seconds of a trend', () => {
  it('have the least and the most of each, and the value that stood at their beginning', () => {
    const bins = new SecondBins(at(0), 5)
    bins.add(at(0.2), 8)
    bins.add(at(0.4), 3)
    bins.add(at(2.5), 9)
    expect(bins.told(at(3.1))).toMatchObject({
      ...{ since: start, from: start / 1000, least: 3, most: 9 },
      lows: [3, 3, 3, 9],
      highs: [8, 3, 9, 9],
    })
  })

  it('leave a gap where nothing is good, until something is again', () => {
    const bins = new SecondBins(at(0), 5)
    bins.add(at(1.5), null)
    bins.add(at(4.5), 7)
    expect(bins.told(at(5)).lows).toEqual([5, 5, null, null, 7, 7])
  })

  it('count changes over the last ten whole seconds, also those that were only counted', () => {
    const bins = new SecondBins(at(0), 0)
    for (let i = 0; i < 40; i++) bins.add(at(i / 4), i)
    expect(bins.told(at(10)).changesPerSecond).toBe(4)
    bins.missed(60, at(10.5))
    expect(bins.told(at(11)).changesPerSecond).toBe((36 + 60) / 10)
    expect(bins.told(at(40)).changesPerSecond).toBe(0)
  })

  it('are told from a second on, and never from after the present one', () => {
    const bins = new SecondBins(at(0), 1)
    expect(bins.told(at(9), start / 1000 + 7)).toMatchObject({ from: start / 1000 + 7, lows: [1, 1, 1] })
    expect(bins.told(at(9), start / 1000 + 700)).toMatchObject({ from: start / 1000 + 9, lows: [1] })
  })

  it('go back five minutes, also after the machine slept for a day', () => {
    const bins = new SecondBins(at(0), 1)
    bins.add(at(10), 4)
    const { from, lows, least } = bins.told(at(86_400))
    expect([from, lows.length, least]).toEqual([start / 1000 + 86_400 - keptSeconds + 1, keptSeconds, 4])
  })

  it('are what the samples say, whatever they are', () => {
    const samples = fc.array(fc.record({ wait: fc.integer({ min: 0, max: 3000 }), value: fc.option(fc.integer({ min: -9, max: 9 })) }), {
      maxLength: 60,
    })
    fc.assert(
      fc.property(samples, (all) => {
        const bins = new SecondBins(start, null)
        let now = start
        const seen: { at: number; value: number | null }[] = [{ at: start, value: null }]
        for (const { wait, value } of all) {
          now += wait
          bins.add(now, value)
          seen.push({ at: now, value })
        }
        const told = bins.told(now)
        told.lows.forEach((low, i) => {
          const second = (told.from + i) * 1000
          const within = seen.filter((one) => one.at >= second && one.at < second + 1000)
          const before = seen.filter((one) => one.at < second).at(-1)
          const good = [...(before ? [before] : []), ...within].flatMap((one) => one.value ?? [])
          expect(low).toBe(good.length > 0 ? Math.min(...good) : null)
          expect(told.highs[i]).toBe(good.length > 0 ? Math.max(...good) : null)
        })
      }),
    )
  })
})

import { describe, expect, it } from 'vitest'
import { Meter } from '#core/statistics/meter'
import type { CallTotals } from '#shared/calls'
import { aboutText, refusedText, totalsText, totalText } from '../../app/calls/callText'
import { courseBars, courseText } from '../../app/journal/courseBars'

const item = (what: string, value: string | null = null, refused = false) => ({ what, value, status: '', refused })

describe('a call on one line', () => {
  it.each([
    [{ items: [], more: 0 }, ''],
    [{ items: [item('berth/1/power', '71.5')], more: 0 }, 'berth/1/power = 71.5'],
    [{ items: ['a', 'b', 'c'].map((what) => item(what)), more: 0 }, 'a, b, c'],
    [{ items: ['a', 'b', 'c', 'd'].map((what) => item(what)), more: 0 }, 'a, b, c and 1 more'],
    [{ items: ['a', 'b', 'c'].map((what) => item(what)), more: 9_997 }, 'a, b, c and 9,997 more'],
  ])('names the first of its items: %j', (call, text) => expect(aboutText(call)).toBe(text))

  it('says how many items were refused where others were not', () => {
    const items = [item('a'), item('b', null, true)]
    expect(refusedText({ outcome: 'partly', items })).toBe('1 of 2 refused')
    expect(refusedText({ outcome: 'refused', items })).toBe('')
  })
})

describe('the totals of clients', () => {
  const total = (name: string, ms: number, failures: number): CallTotals['clients'][number] => {
    const meter = new Meter(0)
    meter.answered(ms)
    for (let n = 0; n < failures; n++) meter.failed('BadNodeIdUnknown', 1)
    return {
      client: { id: ms, name, from: '10.8.0.4', as: 'operator' },
      ...{ calls: 1 + failures, told: 0, measured: meter.told(1000), slowest: { ms, service: 'Read', n: 1, at: 0 } },
    }
  }

  it('name who waited longest and who was refused most often, where anybody was', () => {
    const text = totalsText({ since: 0, clients: [total('SCADA', 20, 0), total('Panel', 900, 0)] })
    expect(text).toMatch(/^Since 1970-01-01 .*\. Panel waited longest: 900 ms for one Read\.$/)
    expect(totalsText({ since: 0, clients: [total('SCADA', 20, 3), total('Panel', 9, 2)] })).toMatch(
      /SCADA was refused most often: 3 times\.$/,
    )
    expect(totalsText({ since: 0, clients: [] })).toMatch(/^Since \S+ \S+\.$/)
  })

  it('say what was told where something was', () => {
    expect(totalText(total('SCADA', 20, 0))).toMatch(/^1 call, 95 % within 20 ms$/)
    expect(totalText({ ...total('SCADA', 20, 0), told: 1200 })).toContain('told 1,200 times')
  })
})

describe('the day of something as bars', () => {
  const minute = 60_000
  const minutes = (count: number) =>
    Array.from({ length: count }, (_, i) => ({ at: i * minute, requests: 2, failures: i % 2, p50: null, p95: i === 3 ? 250 : null }))

  it.each([
    [1, 1],
    [120, 1],
    [121, 2],
    [500, 5],
    [1440, 15],
  ])('has room for %i minutes by taking %i together, and loses no request', (count, together) => {
    const bars = courseBars(minutes(count))
    expect(bars.length).toBeLessThanOrEqual(121)
    expect(bars[0]!.width).toBe(together * minute)
    expect(bars.reduce((sum, { requests }) => sum + requests, 0)).toBe(2 * count)
    expect(bars.reduce((sum, { failures }) => sum + failures, 0)).toBe(Math.floor(count / 2))
  })

  it('has the worst of the times of a bar, and says each in words', () => {
    const bars = courseBars(minutes(200))
    expect(bars[1]!.p95).toBe(250)
    expect(courseText(bars, 1)).toMatch(/: 4 requests, 1 failed, 95 % answered within 250 ms$/)
    expect(courseText(bars, 0)).toMatch(/no answer$/)
    expect(courseText(bars, null)).toMatch(/^400 requests, 100 failed; a bar is 2 min/)
    expect(courseText([], null)).toBe('Nothing was asked since the engine began')
  })
})

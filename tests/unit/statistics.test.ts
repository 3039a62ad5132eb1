import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { Histogram } from '#core/statistics/histogram'
import { Course } from '#core/statistics/course'
import { Meter } from '#core/statistics/meter'
import { openMetrics } from '#core/statistics/openMetrics'
import { Meters } from '#core/statistics/meters'
import type { AllStatistics } from '#shared/statistics'
import { sizeText } from '#core/text/sizeText'
import { statisticsRows } from '../../app/journal/statisticsRows'

describe('how long answers took', () => {
  it('is told with no more than 4.5 % off, whatever was measured', () => {
    const times = fc.array(fc.double({ min: 0.05, max: 600_000, noNaN: true }), { minLength: 1, maxLength: 400 })
    fc.assert(
      fc.property(times, fc.double({ min: 0.01, max: 1, noNaN: true }), (all, share) => {
        const histogram = new Histogram()
        for (const ms of all) histogram.add(ms)
        const inOrder = all.toSorted((a, b) => a - b)
        const exact = inOrder[Math.ceil(share * all.length) - 1]!
        const told = histogram.quantile(share)!
        expect(Math.abs(told - exact) / exact).toBeLessThanOrEqual(0.045)
        expect([histogram.least, histogram.most, histogram.count]).toEqual([inOrder[0], inOrder.at(-1), all.length])
      }),
    )
  })

  it('is nothing where nothing was measured, and anew after it was cleared', () => {
    const histogram = new Histogram()
    expect(histogram.quantile(0.5)).toBeNull()
    histogram.add(5)
    histogram.clear()
    histogram.add(0.001)
    expect([histogram.quantile(0.99), histogram.count, histogram.most]).toEqual([0.001, 1, 0.001])
  })
})

describe('a meter', () => {
  it('counts answers, refusals that are answers, and requests that nobody answered', () => {
    const meter = new Meter(1000)
    for (let i = 0; i < 8; i++) meter.answered(10)
    meter.failed('modbus.exception 2', 20)
    meter.failed('modbus.silent', null, 400)
    const told = meter.told(2000)
    expect(told).toMatchObject({ since: 1000, requests: 10, answers: 9, failures: 2, least: 10, most: 20 })
    expect(told.causes).toEqual({ 'modbus.exception 2': 1, 'modbus.silent': 1 })
    // 8 × 10 + 20 ms of answers, 400 ms of waiting, in a second
    expect(told.busy).toBeCloseTo(0.5)
    meter.reset(3000)
    expect(meter.told(4000)).toMatchObject({ since: 3000, requests: 0, failures: 0, causes: {}, p50: null, busy: 0 })
  })

  it('tells a bounded number of causes apart, and loses no failure', () => {
    const meter = new Meter(0)
    for (let i = 0; i < 1000; i++) meter.failed(`code ${i}`, null)
    const { causes, failures } = meter.told(1)
    expect(Object.keys(causes)).toHaveLength(41)
    expect(Object.values(causes).reduce((sum, count) => sum + count, 0)).toBe(failures)
  })

  it('of a link is the sum of those of its parts, of which there are only so many', () => {
    const meters = new Meters()
    for (let unit = 0; unit < 1200; unit++) meters.answered(String(unit), 5)
    meters.failed('3', 'modbus.silent', null, 100)
    const { whole, parts } = meters.told(Date.now())
    expect(whole).toMatchObject({ requests: 1201, failures: 1 })
    expect(parts).toHaveLength(1000)
    expect(parts.find(([name]) => name === '3')![1]).toMatchObject({ requests: 2, failures: 1 })
  })
})

describe('the course of a day', () => {
  const minute = 60_000

  it('has a minute for each, those without a request among them, and the one under way', () => {
    const course = new Course()
    expect(course.told(5 * minute)).toEqual([])
    course.add(10, false, 5 * minute)
    course.add(30, true, 5 * minute + 59_999)
    course.add(null, true, 8 * minute)
    const told = course.told(8 * minute + 1)
    expect(told.map(({ at, requests, failures }) => [at / minute, requests, failures])).toEqual([
      [5, 2, 1],
      [6, 0, 0],
      [7, 0, 0],
      [8, 1, 1],
    ])
    expect(told[0]!.p95! / 30).toBeCloseTo(1, 1)
    expect(told.slice(1).map(({ p50 }) => p50)).toEqual([null, null, null])
  })

  it('goes a day back, whatever the clock does', () => {
    const steps = fc.array(fc.tuple(fc.integer({ min: -90, max: 3000 }), fc.boolean()), { minLength: 1, maxLength: 20 })
    fc.assert(
      fc.property(steps, (all) => {
        const course = new Course()
        let now = 100_000
        // what was asked, by the minute that it fell into: time never goes back there
        const asked = new Map<number, number>()
        let latest = -Infinity
        for (const [step, isFailure] of all) {
          now += step
          latest = Math.max(latest, now)
          course.add(1, isFailure, now * minute)
          asked.set(latest, (asked.get(latest) ?? 0) + 1)
        }
        const told = course.told(latest * minute)
        expect(told.length).toBeLessThanOrEqual(24 * 60)
        expect(told.at(-1)!.at).toBe(latest * minute)
        const first = latest - told.length + 1
        expect(told.map(({ at, requests }) => [at / minute, requests])).toEqual(told.map((_, i) => [first + i, asked.get(first + i) ?? 0]))
      }),
    )
  })
})

describe('the text of OpenMetrics', () => {
  const meter = new Meter(0)
  meter.answered(100)
  meter.failed('modbus.silent', null, 900)
  const more = { bytesIn: 10, bytesOut: 20, connections: 3, isFlowing: true, tags: 5, goodTags: 4 }
  const text = openMetrics([
    { of: 'link', labels: { link: 'Quay "A"\\B\nC', kind: 'modbus-tcp', part: '' }, measured: meter.told(1000), more },
    { of: 'link', labels: { link: 'Quay', kind: 'modbus-tcp', part: '11' }, measured: meter.told(1000) },
  ])
  const lines = text.split('\n')

  it('ends with its mark, and has each family once, with its type before its samples (1.0, 3)', () => {
    expect(text.endsWith('# EOF\n')).toBe(true)
    const families = lines.filter((line) => line.startsWith('# TYPE')).map((line) => line.split(' ')[2]!)
    expect(new Set(families).size).toBe(families.length)
    for (const line of lines.filter((one) => one && !one.startsWith('#'))) {
      expect(line).toMatch(/^[a-z_]+\{([a-z]+="(\\.|[^"\\\n])*",?)+\} -?[\d.e+-]+$/)
      const family = families.filter((one) => line.startsWith(one)).toSorted((a, b) => b.length - a.length)[0]!
      expect(lines.indexOf(`# TYPE ${family} ${lines.find((one) => one.startsWith(`# TYPE ${family} `))!.split(' ')[3]}`)).toBeLessThan(
        lines.indexOf(line),
      )
    }
    // a family with a unit is called by it
    for (const line of lines.filter((one) => one.startsWith('# UNIT'))) {
      const [, , name, unit] = line.split(' ')
      expect(name!.endsWith(`_${unit}`)).toBe(true)
    }
  })

  it('tells links, outlets and bridges apart by their families', () => {
    const parts = (['outlet', 'bridge'] as const).map((of) => ({
      ...{ of, labels: { [of]: 'One' }, measured: meter.told(1000) },
      more: { isFlowing: true, ...(of === 'outlet' ? { clients: 3 } : {}) },
    }))
    const other = openMetrics(parts)
    expect(other).toContain('conduit_outlet_clients{outlet="One"} 3')
    expect(other).toContain('conduit_bridge_requests_total{bridge="One"} 2')
    expect(other).not.toMatch(/conduit_bridge_(clients|tags|bytes)/)
  })

  it('escapes labels, and tells times in seconds', () => {
    expect(text).toContain('conduit_link_up{link="Quay \\"A\\"\\\\B\\nC",kind="modbus-tcp",part=""} 1')
    expect(text).toContain('conduit_link_answer_seconds_sum{link="Quay",kind="modbus-tcp",part="11"} 0.1')
    expect(text).toContain('conduit_link_failures_total{link="Quay",kind="modbus-tcp",part="11",code="modbus.silent"} 1')
    expect(text).toContain('way="out"} 20')
  })
})

describe('rows of the page', () => {
  const measured = new Meter(0)
  measured.answered(4)
  measured.failed('a', null)
  measured.failed('b', null)
  measured.failed('b', null)
  const told = measured.told(1000)
  const link = (id: number, name: string, parts: string[] = []) => ({
    ...{ id, name, kind: 'modbus-tcp', whole: told, bytesIn: 1234, bytesOut: 0, connections: 1 },
    parts: parts.map((part) => ({ name: part, measured: told })),
  })

  const all = (more: Partial<AllStatistics>): AllStatistics => ({ links: [], outlets: [], bridges: [], ...more })

  it('have parts below their link, and go by words in either', () => {
    const links = all({ links: [link(1, 'Berth meters', ['11', '12']), link(2, 'Quay')] })
    expect(statisticsRows(links, '').map(({ name }) => name)).toEqual(['Berth meters', '11', '12', 'Quay'])
    expect(statisticsRows(links, 'meters 12').map(({ name }) => name)).toEqual(['Berth meters', '12'])
    expect(statisticsRows(links, 'quay').map(({ name }) => name)).toEqual(['Quay'])
    expect(statisticsRows(links, '')[0]).toMatchObject({
      requests: '4',
      failures: '3',
      cause: 'b',
      bytesIn: '1.2 kB',
      busy: '0.4 %',
      isExplained: false,
    })
  })

  it('have clients below their outlet and receivers below their bridge, each key once, and go by kind', () => {
    const who = { id: 1, name: 'SCADA', from: '10.8.0.4', as: 'operator' }
    const client = { client: who, calls: 4, told: 0, measured: told, slowest: null }
    const outlet = { ...{ id: 1, name: 'Plant server', kind: 'opcua-server', whole: told, bytesIn: 5, bytesOut: 6, connections: 2 }, clients: [client, client] } // prettier-ignore
    const bridge = { id: 1, name: 'Calls', whole: told, parts: [{ name: '1 · table', measured: told }] }
    const rows = statisticsRows(all({ links: [link(1, 'Quay')], outlets: [outlet], bridges: [bridge] }), '')
    expect(rows.map(({ name }) => name)).toEqual(['Quay', 'Plant server', 'SCADA (10.8.0.4)', 'SCADA (10.8.0.4)', 'Calls', '1 · table'])
    expect(new Set(rows.map(({ key }) => key)).size).toBe(rows.length)
    expect(rows.find(({ name }) => name === 'Calls')).toMatchObject({ of: 'bridge', bytesIn: '', connections: '' })
    expect(statisticsRows(all({ links: [link(1, 'Quay')], bridges: [bridge] }), '', 'bridge').map(({ name }) => name)).toEqual(['Calls', '1 · table']) // prettier-ignore
  })

  it.each([
    [0, '0 B'],
    [999, '999 B'],
    [1000, '1.0 kB'],
    [15_600, '16 kB'],
    [2_500_000, '2.5 MB'],
    [7_000_000_000, '7.0 GB'],
  ])('tell %d bytes as %s', (bytes, text) => expect(sizeText(bytes)).toBe(text))
})

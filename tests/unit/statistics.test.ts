import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { Histogram } from '#core/statistics/histogram'
import { Meter } from '#core/statistics/meter'
import { openMetrics } from '#core/statistics/openMetrics'
import { LinkMeters } from '#engine/statistics/linkMeters'
import { bytesText, statisticsRows } from '../../app/journal/statisticsRows'

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
    const meters = new LinkMeters()
    for (let unit = 0; unit < 1200; unit++) meters.answered(String(unit), 5)
    meters.failed('3', 'modbus.silent', null, 100)
    const { whole, parts } = meters.told(Date.now())
    expect(whole).toMatchObject({ requests: 1201, failures: 1 })
    expect(parts).toHaveLength(1000)
    expect(parts.find(([name]) => name === '3')![1]).toMatchObject({ requests: 2, failures: 1 })
  })
})

describe('the text of OpenMetrics', () => {
  const meter = new Meter(0)
  meter.answered(100)
  meter.failed('modbus.silent', null, 900)
  const more = { bytesIn: 10, bytesOut: 20, connections: 3, isFlowing: true, tags: 5, goodTags: 4 }
  const text = openMetrics([
    { labels: { link: 'Quay "A"\\B\nC', kind: 'modbus-tcp', part: '' }, measured: meter.told(1000), more },
    { labels: { link: 'Quay', kind: 'modbus-tcp', part: '11' }, measured: meter.told(1000) },
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

  it('have parts below their link, and go by words in either', () => {
    const links = [link(1, 'Berth meters', ['11', '12']), link(2, 'Quay')]
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

  it.each([
    [0, '0 B'],
    [999, '999 B'],
    [1000, '1.0 kB'],
    [15_600, '16 kB'],
    [2_500_000, '2.5 MB'],
    [7_000_000_000, '7.0 GB'],
  ])('tell %d bytes as %s', (bytes, text) => expect(bytesText(bytes)).toBe(text))
})

import { describe, expect, it } from 'vitest'
import { proveDelivery } from '../soak/delivery'
import { proveHistory } from '../soak/history'
import { soak } from '../soak/soak'

/** The short form of `npm run soak`: processes are killed and stopped while programs use the site. */
describe('a site whose processes are killed and stopped at random', () => {
  it('loses no answer that it gave, tells nothing false for good, and agrees with itself at the end', async () => {
    const report = await soak({ seed: 8, minutes: 0.6, longestStopMs: 4000, tell: () => {} })
    expect(report.problems).toEqual([])
    expect(report.recordsLost).toBe(0)
    expect(Object.keys(report.chaos).length).toBeGreaterThan(2)
    expect(report.savesAnswered).toBeGreaterThan(20)
    expect(report.writes.done).toBeGreaterThan(20)
    expect(report.samples.good).toBeGreaterThan(200)
  }, 300_000)
})

/** The short form of `npm run soak -- --records 200000`. */
describe('records that are kept until they are delivered', () => {
  it('arrive at four receivers, each in order and without one twice, through kills of the engine and of our database', async () => {
    const report = await proveDelivery({ records: 5000, engineKills: 3, steps: 15, seed: 5, tell: () => {} })
    expect(report.problems).toEqual([])
    expect(Object.keys(report.found)).toHaveLength(4)
  }, 240_000)
})

/** The short form of `npm run soak -- --history 60`. */
describe('history and rollups through kills of the engine and of the database', () => {
  it('lose nothing, have nothing twice, and are what the samples say, whatever came late, twice or corrected', async () => {
    const report = await proveHistory({ plantMinutes: 6, seconds: 40, seed: 4, tell: () => {} })
    expect(report.problems).toEqual([])
    expect(report.happened.length).toBeGreaterThan(4)
    expect(report.windows).toBeGreaterThan(1000)
  }, 300_000)
})

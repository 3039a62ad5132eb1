import { describe, expect, it } from 'vitest'
import { inOrder } from '#core/upkeep/concern'
import { markOf, shortAt, stageOf, stages, type Stage } from '#core/upkeep/disks'
import { isToldAt, type Ending } from '#core/upkeep/endings'
import { concernsIn, type UpkeepFacts } from '#core/upkeep/judge'

const [mb, gb, tb] = [1e6, 1e9, 1e12]
const [hour, day] = [3_600_000, 86_400_000]
const now = Date.UTC(2026, 10, 30)

describe('a disk', () => {
  it.each([
    [4 * gb, { low: gb, short: 0.48 * gb, critical: 0.2 * gb }],
    [40 * gb, { low: 6 * gb, short: 2 * gb, critical: 0.8 * gb }],
    [2 * tb, { low: 50 * gb, short: 10 * gb, critical: 3 * gb }],
  ])('of %i bytes has its marks', (bytes, marks) => {
    for (const [stage, mark] of Object.entries(marks)) expect(markOf(stage as 'low', bytes)).toBeCloseTo(mark, 0)
  })

  it('has marks in their order, whatever its size, and always some room below the last', () => {
    for (let bytes = 100 * mb; bytes < 100 * tb; bytes *= 1.7) {
      const [low, short, critical] = (['low', 'short', 'critical'] as const).map((stage) => markOf(stage, bytes))
      expect(low! < bytes && low! > short! && short! > critical! && critical! > 0).toBe(true)
    }
  })

  it('goes from stage to stage as it fills, and back only once there is clearly more room', () => {
    const bytes = 40 * gb
    const seen: Stage[] = []
    let stage: Stage = 'well'
    for (const free of [7, 5.9, 6.1, 7.1, 7.3, 5, 1.9, 2.1, 0.7, 0.9, 1, 2.3, 2.5, 8].map((n) => n * gb)) {
      stage = stageOf({ bytes, freeBytes: free }, stage)
      seen.push(stage)
    }
    expect(seen.join(' ')).toBe('well low low low well low short short critical critical short short low well')
    expect(stageOf({ bytes, freeBytes: 0 })).toBe('critical')
  })

  it('is short on the day on which a line through the last days meets the mark', () => {
    const bytes = 100 * gb
    const looks = Array.from({ length: 48 }, (_, i) => ({ at: now - (47 - i) * hour, freeBytes: 45 * gb - (i * gb) / 24 }))
    const freeBytes = looks.at(-1)!.freeBytes
    // a gigabyte a day: from 43 GB to the mark of 5
    expect((shortAt(looks, { bytes, freeBytes })! - now) / day).toBeCloseTo(freeBytes / gb - 5, 5)
    const noisy = looks.map(({ at, freeBytes }, i) => ({ at, freeBytes: freeBytes + (i % 2 ? 0.4 : -0.4) * gb }))
    expect(Math.abs((shortAt(noisy, { bytes, freeBytes })! - now) / day - 38)).toBeLessThan(3)
  })

  it('is not foretold by too little, nor where it gets emptier or stays', () => {
    const facts = { bytes: 100 * gb, freeBytes: 40 * gb }
    const falling = (count: number, every: number) =>
      Array.from({ length: count }, (_, i) => ({ at: now + i * every, freeBytes: 40 * gb - i * gb }))
    expect(shortAt([], facts)).toBeNull()
    expect(shortAt(falling(11, 3 * hour), facts)).toBeNull()
    expect(shortAt(falling(20, hour), facts)).toBeNull()
    expect(shortAt(falling(20, 2 * hour), facts)).not.toBeNull()
    expect(
      shortAt(
        falling(20, 2 * hour).map((look) => ({ ...look, freeBytes: facts.freeBytes })),
        facts,
      ),
    ).toBeNull()
    expect(
      shortAt(
        falling(20, 2 * hour).map((look, i) => ({ ...look, freeBytes: i * gb })),
        facts,
      ),
    ).toBeNull()
  })
})

const ending = (more: Partial<Ending>): Ending => ({
  ...{ kind: 'token', name: 'Report', place: '/site/people', from: now - 300 * day, until: now + 59 * day, usedAt: now - hour },
  ...more,
})

describe('what ends', () => {
  it('is told 60 days before, or in the last third of a short life', () => {
    expect(isToldAt(ending({}), now)).toBe(true)
    expect(isToldAt(ending({ until: now + 61 * day }), now)).toBe(false)
    expect(isToldAt(ending({ from: now - 10 * day, until: now + 20 * day }), now)).toBe(false)
    expect(isToldAt(ending({ from: now - 21 * day, until: now + 9 * day }), now)).toBe(true)
  })

  it('stays told where it is a certificate, and for a while where a program still came with its token', () => {
    const over = { until: now - day }
    expect(isToldAt(ending({ ...over, kind: 'trusted certificate', usedAt: null, until: now - 500 * day }), now)).toBe(true)
    expect(isToldAt(ending({ ...over, usedAt: now - 2 * day }), now)).toBe(true)
    expect(isToldAt(ending({ ...over, usedAt: now - 100 * day }), now)).toBe(false)
    expect(isToldAt(ending({ ...over, usedAt: null }), now)).toBe(false)
    expect(isToldAt(ending({ until: now - 15 * day, usedAt: now - 16 * day }), now)).toBe(false)
  })
})

const sound: UpkeepFacts = { now, disks: [], endings: [], backup: null, clockSet: null, queues: [] }
const disk = { name: '/srv', bytes: 40 * gb, freeBytes: 30 * gb, stage: 'well' as Stage, shortAt: null, isOurs: true, drops: true }
const told = (more: Partial<UpkeepFacts>) =>
  concernsIn({ ...sound, ...more }).map(({ urgency, fault }) => [urgency, fault.code, fault.what] as const)

describe('what there is to be seen to', () => {
  it('is nothing where all is well', () => {
    expect(
      told({ disks: [disk], endings: [ending({ until: now + 400 * day })], backup: { lastAt: now - day, revisionsSince: 3 } }),
    ).toEqual([])
  })

  it('is a disk that fills, long before, and what is given up for it', () => {
    const short = { ...disk, shortAt: now + 30 * day }
    expect(told({ disks: [short] })[0]).toEqual([
      'soon',
      'disk.filling',
      expect.stringMatching(/30 GB of 40 GB are free\. .* short on 2026-12-30/) as string,
    ])
    expect(told({ disks: [{ ...disk, shortAt: now + 90 * day }] })).toEqual([])
    expect(told({ disks: [{ ...disk, stage: 'short', freeBytes: gb }] })[0]).toEqual([
      'now',
      'disk.short',
      expect.stringContaining('day by day') as string,
    ])
    expect(told({ disks: [{ ...disk, stage: 'short', drops: false }] })[0]![2]).not.toContain('day by day')
    expect(told({ disks: [{ ...disk, stage: 'critical', freeBytes: 100 * mb }] })[0]).toEqual([
      'now',
      'disk.critical',
      expect.stringContaining('Nothing is recorded') as string,
    ])
    // what a node does about its own is not known here
    for (const stage of stages.slice(1)) expect(told({ disks: [{ ...disk, isOurs: false, stage }] })[0]![1]).toBe('disk.filling')
  })

  it('is a backup that is long ago, with what came since', () => {
    expect(told({ backup: { lastAt: null, revisionsSince: 9 } })[0]![2]).toBe('No backup was ever made of this site.')
    expect(told({ backup: { lastAt: now - 40 * day, revisionsSince: 1 } })[0]![2]).toBe(
      'The last backup is 40 days old; one revision came since.',
    )
    expect(told({ backup: { lastAt: now - 30 * day, revisionsSince: 1 } })).toEqual([])
  })

  it('is what waits beyond half of its room, and a clock that was set within the last day', () => {
    const queue = { key: 'q', name: 'Bridge “Tariffs”', place: '/bridges/1', used: 0.7, room: 100 * mb, dropsOldest: true }
    expect(told({ queues: [queue, { ...queue, used: 0.4 }] })).toEqual([
      ['soon', 'upkeep.waits', 'Bridge “Tariffs”: 70 % of the 100 MB that may wait is used.'],
    ])
    expect(told({ queues: [{ ...queue, used: 1.2 }] })[0]).toEqual(['now', 'upkeep.waits', expect.stringContaining('100 %') as string])
    expect(told({ clockSet: { by: -hour, at: now - hour } })[0]![2]).toMatch(/set back by 1 h on/)
    expect(told({ clockSet: { by: hour, at: now - 25 * hour } })).toEqual([])
  })

  it('stands in its order: what is urgent, then what comes first', () => {
    const all = concernsIn({
      ...sound,
      endings: [
        ending({ name: 'late', until: now + 50 * day }),
        ending({ name: 'soon', until: now + 5 * day }),
        ending({ name: 'over', until: now - day }),
      ],
      backup: { lastAt: null, revisionsSince: 0 },
    })
    expect(inOrder(all).map(({ fault }) => fault.what.slice(0, 28))).toEqual(
      ['over', 'soon', 'late'].map((name) => `The token of the program “${name}”`.slice(0, 28)).concat('No backup was ever made of t'),
    )
  })
})

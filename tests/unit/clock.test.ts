import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { Cron } from 'croner'
import { quality } from '#core/tags/quality'

const start = Date.UTC(2026, 10, 30, 5, 0, 0)
const [second, minute, hour, day] = [1000, 60_000, 3_600_000, 86_400_000]

/** What looks after the clock of a process does so from its first use on: here, of each test. */
const fresh = async () => ({
  ...(await import('#pacing/clock')),
  ...(await import('#pacing/dueList')),
  ...(await import('#pacing/moments')),
  ...(await import('#engine/table/tagTable')),
})
let ours: Awaited<ReturnType<typeof fresh>>

beforeEach(async () => {
  vi.useFakeTimers({ now: start })
  vi.resetModules()
  ours = await fresh()
})
afterEach(() => void vi.useRealTimers())

/** Somebody sets the clock; the steady one goes on as it did. */
const setClock = (by: number) => vi.setSystemTime(Date.now() + by)

describe('the clock of the machine', () => {
  it('is told to be set within half a second, ahead and back, and not where it is brought right little by little', () => {
    const told: number[] = []
    const end = ours.onClockSet((by) => told.push(by))
    vi.advanceTimersByTime(10 * second)
    setClock(hour)
    vi.advanceTimersByTime(500)
    setClock(-2 * hour)
    vi.advanceTimersByTime(500)
    for (let i = 0; i < 20; i++) {
      setClock(400)
      vi.advanceTimersByTime(second)
    }
    expect(told).toEqual([hour, -2 * hour])
    end()
    setClock(hour)
    vi.advanceTimersByTime(second)
    expect(told).toHaveLength(2)
  })

  it('shows moments of the steady clock by what it is now', () => {
    const due = ours.steadyNow() + 5000
    setClock(-day)
    expect(Math.abs(ours.wallOf(due) - (start - day + 5000))).toBeLessThanOrEqual(1)
  })

  it('had nothing just now that lies ahead of it', () => {
    const at = Date.now()
    expect(ours.isWithin(minute, at)).toBe(true)
    setClock(-hour)
    expect(ours.isWithin(minute, at)).toBe(false)
  })

  it('is doubted for a day once it was set: nothing is too old or still to come by one of the two', () => {
    const [earliest, latest] = [() => ours.earliestNow() - Date.now(), () => ours.latestNow() - Date.now()]
    expect([earliest(), latest()]).toEqual([0, 0].map((zero) => expect.closeTo(zero, 0)))
    setClock(365 * day)
    vi.advanceTimersByTime(second)
    expect([earliest(), latest()]).toEqual([expect.closeTo(-365 * day, -1), 0])
    setClock(-365 * day)
    vi.advanceTimersByTime(second)
    expect([earliest(), latest()]).toEqual([0, 0].map((zero) => expect.closeTo(zero, -1)))
    setClock(-hour)
    vi.advanceTimersByTime(second)
    expect(latest()).toBeCloseTo(hour, -1)
    vi.advanceTimersByTime(day + second)
    expect(latest()).toBe(0)
  })
})

const plan = (pattern: string) => {
  const cron = new Cron(pattern, { timezone: 'UTC' })
  return (at: number) => cron.nextRun(new Date(at))?.getTime() ?? null
}
const runsOf = (after: (at: number) => number | null) => {
  const runs: number[] = []
  const moments = new ours.Moments({ after, call: (at) => runs.push(at) })
  return { runs, moments }
}
const clock = (at: number) => new Date(at).toISOString().slice(8, 16)

describe('a schedule', () => {
  it('runs at six once, though six comes twice', () => {
    const { runs } = runsOf(plan('0 6 * * *'))
    vi.advanceTimersByTime(90 * minute)
    setClock(-hour)
    vi.advanceTimersByTime(3 * hour)
    expect(runs.map(clock)).toEqual(['30T06:00'])
    vi.advanceTimersByTime(day)
    expect(runs.map(clock)).toEqual(['30T06:00', '01T06:00'])
  })

  it('runs at once where six was jumped over, once for two of them', () => {
    const { runs } = runsOf(plan('0 6 * * *'))
    vi.advanceTimersByTime(10 * minute)
    setClock(2 * day)
    vi.advanceTimersByTime(second)
    expect(runs).toHaveLength(1)
    vi.advanceTimersByTime(hour)
    // six of the day that it is now, which lay ahead
    expect(runs.map(clock).slice(1)).toEqual(['02T06:00'])
  })

  it('runs at six where the clock was set back before six, and where it was set back by a year', () => {
    const { runs, moments } = runsOf(plan('0 6 * * *'))
    vi.advanceTimersByTime(50 * minute)
    setClock(-30 * minute)
    vi.advanceTimersByTime(hour)
    expect(runs.map(clock)).toEqual(['30T06:00'])
    setClock(-365 * day)
    vi.advanceTimersByTime(2 * day)
    expect(runs).toHaveLength(3)
    moments.close()
    vi.advanceTimersByTime(2 * day)
    expect(runs).toHaveLength(3)
  })

  it('that runs every ten seconds goes on with it, whatever happens to the clock', () => {
    const { runs } = runsOf((at) => (Math.floor(at / (10 * second)) + 1) * 10 * second)
    for (const by of [hour, -hour, 365 * day, -365 * day, 3 * second, -3 * second]) {
      const before = runs.length
      setClock(by)
      vi.advanceTimersByTime(minute)
      expect(runs.length - before).toBeGreaterThanOrEqual(5)
      expect(runs.length - before).toBeLessThanOrEqual(8)
    }
  })
})

it('something is due after as long as was meant, though the clock was set back', () => {
  const told: string[] = []
  const due = new ours.DueList<string>((things) => told.push(...things))
  due.add('a', Date.now() + second)
  setClock(-hour)
  vi.advanceTimersByTime(1100)
  expect(told).toEqual(['a'])
  due.close()
})

it('what is due every 50 ms is told every 50 ms, and nothing comes early where the clock went ahead', () => {
  let times = 0
  const told: string[] = []
  const due = new ours.DueList<string>((things, now) => {
    for (const thing of things) {
      if (thing === 'often') times++
      else told.push(thing)
    }
    if (things.includes('often')) due.add('often', (Math.floor(now / 50) + 1) * 50)
  })
  vi.advanceTimersByTime(17)
  due.add('often', Date.now() + 50)
  due.add('later', Date.now() + 10 * minute)
  vi.advanceTimersByTime(2000)
  expect(times).toBeGreaterThanOrEqual(38)
  setClock(hour)
  vi.advanceTimersByTime(9 * minute)
  expect(told).toEqual([])
  vi.advanceTimersByTime(minute)
  expect(told).toEqual(['later'])
  due.close()
})

it('a tag with a least time between values passes the next on after it, though the clock was set back', () => {
  const table = new ours.TagTable()
  const handle = table.allocate()
  table.damp(handle, { band: 0, least: second, most: 0 })
  const set = (value: number) => {
    table.set(handle, value, quality.Good, Date.now())
    table.flush()
  }
  set(1)
  vi.advanceTimersByTime(600)
  setClock(-hour)
  vi.advanceTimersByTime(600)
  set(2)
  expect(table.values[handle]).toBe(2)
  table.close()
})

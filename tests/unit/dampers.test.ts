import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { quality } from '#core/tags/quality'
import type { TagValue } from '#core/tags/types'
import type { Damping } from '#engine/table/dampers'
import { TagTable } from '#engine/table/tagTable'
import { DueList } from '#pacing/dueList'

const start = 1_800_000_000_000
beforeEach(() => void vi.useFakeTimers({ now: start }))
afterEach(() => void vi.useRealTimers())

const damped = (damping: Partial<Damping>) => {
  const table = new TagTable()
  const handle = table.allocate()
  const told: [TagValue | undefined, number][] = []
  table.listen(() => told.push([table.values[handle], Date.now() - start]))
  table.damp(handle, { band: 0, least: 0, most: 0, ...damping })
  const set = (value: TagValue, code: number = quality.Good) => {
    table.set(handle, value, code, Date.now())
    table.flush()
  }
  return { table, handle, told, set, values: () => told.map(([value]) => value) }
}

describe('a deadband', () => {
  it('lets a value go on once it is further away from the last that did', () => {
    const { set, values, table, handle } = damped({ band: 0.5 })
    for (const value of [20, 20.4, 20.5, 19.6, 20.6, 20.2, 20]) set(value)
    expect(values()).toEqual([20, 20.6, 20])
    expect(table.heldOf(handle)).toBeUndefined()
  })

  it('holds back no change of quality, and none of 64-bit integers beyond it', () => {
    const { set, values } = damped({ band: 3 })
    set(10n)
    set(13n)
    set(14n)
    set(15n, quality.UncertainSubstituteValue)
    expect(values()).toEqual([10n, 14n, 15n])
  })

  it('confirms the value that stands while it holds others back', () => {
    const { set, table, handle } = damped({ band: 1 })
    set(5)
    vi.advanceTimersByTime(700)
    set(5.5)
    expect([table.values[handle], table.seenAt[handle], table.heldOf(handle)]).toEqual([5, start + 700, 5.5])
  })

  it('lets what was written go on, however little it changes', () => {
    const { set, values, table, handle } = damped({ band: 1 })
    set(5)
    table.announce(handle)
    set(5.2)
    set(5.3)
    table.announce(handle)
    expect(values()).toEqual([5, 5.2, 5.3])
  })
})

describe('a least time', () => {
  it('lets the newest go on when it is over', () => {
    const { set, told } = damped({ least: 1000 })
    set(1)
    for (const [value, wait] of [
      [2, 300],
      [3, 300],
      [4, 300],
    ] as const) {
      vi.advanceTimersByTime(wait)
      set(value)
    }
    vi.advanceTimersByTime(2000)
    expect(told).toEqual([
      [1, 0],
      [4, 1000],
    ])
  })

  it('forgets what came meanwhile where the value went back', () => {
    const { set, values } = damped({ least: 1000 })
    for (const value of [1, 2, 1]) set(value)
    vi.advanceTimersByTime(3000)
    expect(values()).toEqual([1])
  })

  it('shows the newest with whatever happens to its quality, and nothing of another source', () => {
    const { set, values, table, handle } = damped({ least: 60_000 })
    set(1)
    set(2)
    table.degrade(handle, quality.BadNoCommunication, Date.now())
    table.flush()
    expect(values()).toEqual([1, 2])
    set(2)
    set(3)
    table.renew(handle, Date.now())
    table.flush()
    vi.advanceTimersByTime(120_000)
    expect(values()).toEqual([1, 2, 2, undefined])
  })
})

describe('a longest time', () => {
  it('passes a confirmed value on again, with the time of its confirmation, and a held one in its place', () => {
    const { set, told, table, handle } = damped({ most: 1000, band: 1 })
    set(7)
    vi.advanceTimersByTime(900)
    table.confirm(handle, Date.now())
    vi.advanceTimersByTime(100)
    expect(table.sourceTime[handle]).toBe(start + 900)
    set(7.4)
    vi.advanceTimersByTime(1100)
    expect(told.map(([value]) => value)).toEqual([7, 7, 7.4])
  })

  it('says nothing again that nobody confirms or that is bad', () => {
    const { set, values, table, handle } = damped({ most: 1000 })
    set(7)
    vi.advanceTimersByTime(5000)
    table.degrade(handle, quality.BadNoCommunication, Date.now())
    table.confirm(handle, Date.now() + 1)
    table.flush()
    vi.advanceTimersByTime(5000)
    expect(values()).toEqual([7, 7])
  })

  it('ends with the tag', () => {
    const { set, told, table, handle } = damped({ most: 1000 })
    set(7)
    const timers = vi.getTimerCount()
    table.release(handle)
    vi.advanceTimersByTime(5000)
    expect(told).toHaveLength(1)
    expect(vi.getTimerCount()).toBe(timers - 1)
  })
})

describe('many moments', () => {
  it('are each told once, within 50 ms after, and as long after as was meant where the clock is set', () => {
    const told: [string, number][] = []
    const list = new DueList<string>((due, now) => told.push(...due.map((thing): [string, number] => [thing, now - start])))
    list.add('b', start + 200)
    list.add('a', start + 60)
    list.add('c', start + 90_000)
    list.add('gone', start + 300)
    list.add('a', start + 120)
    list.cancel('gone')
    vi.advanceTimersByTime(400)
    expect(told).toEqual([
      ['a', 150],
      ['b', 200],
    ])
    vi.setSystemTime(start + 100_000)
    vi.advanceTimersByTime(80_000)
    expect(told).toHaveLength(2)
    vi.advanceTimersByTime(10_000)
    expect(told.at(-1)![0]).toBe('c')
    expect([list.size, vi.getTimerCount()]).toEqual([0, 0])
  })
})

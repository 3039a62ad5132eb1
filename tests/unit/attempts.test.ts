import { describe, expect, it } from 'vitest'
import { Attempts } from '../../server/lib/attempts'

describe('attempts to sign in', () => {
  it('are free at first, then wait longer each time, up to a quarter of an hour', () => {
    const attempts = new Attempts(3)
    const waits = Array.from({ length: 12 }, () => {
      attempts.fail('x', 0)
      return attempts.waitFor('x', 0)
    })
    expect(waits.slice(0, 6)).toEqual([0, 0, 5000, 10_000, 20_000, 40_000])
    expect(waits.at(-1)).toBe(15 * 60_000)
    expect(attempts.waitFor('another', 0)).toBe(0)
  })

  it('start over after a success, and after an hour', () => {
    const attempts = new Attempts(1)
    attempts.fail('x', 0)
    attempts.succeed('x')
    expect(attempts.waitFor('x', 0)).toBe(0)
    attempts.fail('y', 0)
    attempts.fail('y', 4_000_000)
    expect(attempts.waitFor('y', 4_000_000)).toBe(5000)
  })
})

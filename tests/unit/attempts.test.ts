import { describe, expect, it } from 'vitest'
import { Attempts, attemptSucceeded, takeAttempt } from '#security/attempts'
import { isMarkOf, newMark } from '#security/marks'

describe('attempts', () => {
  it('are free at first, then wait longer each time, up to the longest', () => {
    const attempts = new Attempts({ free: 3, longestMs: 60_000 })
    const waits = Array.from({ length: 12 }, () => {
      attempts.count('x', 0)
      return attempts.waitFor('x', 0)
    })
    expect(waits.slice(0, 6)).toEqual([0, 0, 1000, 2000, 4000, 8000])
    expect(waits.at(-1)).toBe(60_000)
    expect(attempts.waitFor('another', 0)).toBe(0)
  })

  it('start over after a success, and after an hour', () => {
    const attempts = new Attempts({ free: 1, longestMs: 60_000 })
    attempts.count('x', 0)
    attempts.succeed('x')
    expect(attempts.waitFor('x', 0)).toBe(0)
    attempts.count('y', 0)
    attempts.count('y', 4_000_000)
    expect(attempts.waitFor('y', 4_000_000)).toBe(1000)
  })

  it('count before they are checked: of two hundred at once five are', () => {
    const own = new Attempts({ free: 5, longestMs: 60_000 })
    const taken = Array.from({ length: 200 }, () => takeAttempt({ own: [own, 'x'], shared: [] }, 0)).filter((wait) => wait === 0)
    expect(taken).toHaveLength(5)
  })

  it('of one who knows the password leave no trace, and do not forgive those of others', () => {
    const [own, shared] = [new Attempts({ free: 5, longestMs: 60_000 }), new Attempts({ free: 4, longestMs: 30_000 })]
    const by = (who: string) => ({ own: [own, who] as [Attempts, string], shared: [[shared, 'address'] as [Attempts, string]] })
    for (let i = 0; i < 3; i++) takeAttempt(by('guesser'), 0)
    for (let i = 0; i < 20; i++) {
      expect(takeAttempt(by('owner'), 0)).toBe(0)
      attemptSucceeded(by('owner'))
    }
    expect(takeAttempt(by('guesser'), 0)).toBe(0)
    expect(takeAttempt(by('owner'), 0)).toBeGreaterThan(0)
  })
})

describe('marks of browsers', () => {
  it('are good for the name and the installation that gave them, and nothing else', () => {
    const mark = newMark('engineer', 'secret of ours')
    expect(isMarkOf(mark, 'engineer', 'secret of ours')).toBe(true)
    expect(isMarkOf(mark, 'harbourmaster', 'secret of ours')).toBe(false)
    expect(isMarkOf(mark, 'engineer', 'secret of others')).toBe(false)
    for (const forged of ['', '.', 'a.b', `${mark}.x`, mark.slice(0, -1)])
      expect(isMarkOf(forged, 'engineer', 'secret of ours')).toBe(false)
  })
})

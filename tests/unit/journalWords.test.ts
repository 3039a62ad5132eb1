import { describe, expect, it } from 'vitest'
import { journalKeeping } from '#core/journal/settings'
import { fault } from '#core/faults/catalogue'
import { barLabel, barText } from '../../app/journal/barText'
import { forwardedText, keptText } from '../../app/journal/keptText'

/** Local time: as whoever looks reads it. */
const at = new Date(2026, 10, 25, 14, 5).getTime()
const midnight = new Date(2026, 10, 25).getTime()

describe('a bar', () => {
  it('is labelled by day, time or second, as wide as it is; midnight by its day', () => {
    expect(barLabel(at, 300_000)).toBe('14:05')
    expect(barLabel(at, 5000)).toBe('14:05:00')
    expect(barLabel(midnight, 3_600_000)).toBe('11-25')
    expect(barLabel(midnight, 86_400_000)).toBe('2026-11-25')
  })

  it('says in words what happened in it, the gravest first', () => {
    expect(barText({ at, note: 2, caution: 1, trouble: 0 }, 300_000)).toBe('2026-11-25 14:05:00 to 14:10:00: 1 caution, 2 notes')
    expect(barText({ at, note: 0, caution: 0, trouble: 0 }, 300_000)).toBe('2026-11-25 14:05:00 to 14:10:00: nothing')
    expect(barText({ at: midnight, note: 0, caution: 0, trouble: 3 }, 7 * 86_400_000)).toBe('2026-11-25 00:00:00 to 2026-12-02: 3 troubles')
  })
})

describe('what is kept', () => {
  const use = { entries: 23_411, mb: 12.4, since: new Date(at).toISOString(), writes: 0, deeds: 0, isIndexed: true, forwarding: null }

  it('is told with what it takes and what it may', () => {
    const keeping = journalKeeping.parse({})
    expect(keptText({ keeping, use })).toBe(
      '23,411 entries since 2026-11-25 14:05:00, 12 MB in the database; at most 200,000 entries, 365 days, 1,000 MB.',
    )
    expect(keptText({ keeping: { ...keeping, days: null, mostMb: null }, use: { ...use, entries: 1, mb: 0.3, since: null } })).toBe(
      '1 entry, 0.3 MB in the database; at most 200,000 entries.',
    )
    const memory = journalKeeping.parse({ where: 'memory', most: 5000 })
    expect(keptText({ keeping: memory, use: { ...use, mb: null, since: null } })).toBe(
      '23,411 entries, in memory only; at most 5,000 entries, 365 days.',
    )
  })

  it('tells how handing on goes, and what was lost of it', () => {
    const going = { isOpen: true, sent: 1200, waiting: 0, dropped: 0, fault: null }
    expect(forwardedText(going)).toBe('1,200 handed on.')
    expect(forwardedText({ ...going, dropped: 7 })).toBe('1,200 handed on, 7 could not wait.')
    const away = { ...going, waiting: 2000, dropped: 100, fault: fault('tcp.refused', { host: 'logs', port: 514 }) }
    expect(forwardedText(away)).toBe('Not handed on: 2,000 wait, 100 could not wait.')
  })
})

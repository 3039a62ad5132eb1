import { describe, expect, it } from 'vitest'
import type { AlarmSeverity, AlarmTurn } from '#core/alarms/limits'
import { AlarmJournal } from '#engine/alarms/alarmJournal'
import type { AlarmEvent } from '#shared/alarms'
import type { JournalWriter } from '#engine/journal/journal'

const event = (n: number, turn: AlarmTurn = 'raised', severity: AlarmSeverity = 'caution'): AlarmEvent => ({
  ...{ key: `${n}/high`, tagId: n, path: `pump/${n}`, limit: 'high', severity, text: `high: above ${n}`, value: '1', at: n, turn },
  ...{ who: turn === 'acknowledged' ? 'maren' : '', comment: '' },
})
const told = () => {
  const lines: string[] = []
  const as = (severity: string) => (source: string, text: string) => void lines.push(`${severity} ${source}: ${text}`)
  const journal = { note: as('note'), caution: as('caution'), trouble: as('trouble') } as unknown as JournalWriter
  return { lines, journal: new AlarmJournal(journal) }
}

describe('what the journal has of alarms', () => {
  it('is each turn of each, as severe as its limit says', () => {
    const { lines, journal } = told()
    journal.add(event(1, 'raised', 'trouble'), 0)
    journal.add(event(1, 'acknowledged'), 1)
    journal.add(event(1, 'over'), 2)
    expect(lines).toEqual(['trouble pump/1: high: above 1', 'note pump/1: maren saw high', 'note pump/1: high is over, 1.'])
  })
  it('is of a flood its beginning, and then how many more, as severe as the worst of them', () => {
    const { lines, journal } = told()
    for (let n = 0; n < 5000; n++) journal.add(event(n, 'raised', n === 4000 ? 'trouble' : 'note'), n / 10)
    expect(lines).toHaveLength(100)
    journal.tick(9999)
    expect(lines).toHaveLength(100)
    journal.tick(10_000)
    expect(lines.at(-1)).toMatch(/^trouble Alarms: .* 4,900 turns of alarms /)
    journal.add(event(1), 10_001)
    expect(lines.at(-1)).toBe('caution pump/1: high: above 1')
    expect(lines).toHaveLength(102)
  })
  it('tells at the end what was left', () => {
    const { lines, journal } = told()
    for (let n = 0; n < 101; n++) journal.add(event(n, 'over'), 0)
    journal.close()
    journal.close()
    expect(lines.at(-1)).toMatch(/^note Alarms: .* 1 turn of alarms /)
    expect(lines).toHaveLength(101)
  })
})

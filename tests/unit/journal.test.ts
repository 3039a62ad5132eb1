import { parse } from 'csv-parse/sync'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { fault } from '#core/faults/catalogue'
import type { Entry, KeptEntry } from '#core/journal/entry'
import { foldedForMs, Folding } from '#core/journal/folding'
import { entryMatcher } from '#core/journal/matching'
import { countedIn, entriesPage } from '#core/journal/paged'
import { barsOf, barWidth, mostBars, totalsOf } from '#core/journal/picture'
import { journalKeeping } from '#core/journal/settings'
import { octetCounted, syslogMessage } from '#core/journal/syslog'
import { journalHead, journalPart } from '#core/journal/written'

const start = Date.UTC(2026, 10, 25, 14, 6, 45, 120)
const entry = (at: number, more: Partial<Entry> = {}): Entry => ({
  ...{ at, lastAt: at, times: 1, severity: 'caution', source: 'Meters', text: 'Unit 4 is silent.', fault: null },
  ...more,
})
const kept = (id: number, at: number, more: Partial<Entry> = {}): KeptEntry => ({ ...entry(at, more), id })

describe('folding', () => {
  it('counts the same within ten minutes of the first time, and begins anew after that', () => {
    const folding = new Folding<Entry>()
    const first = entry(start)
    expect(folding.again(first)).toBeNull()
    expect(folding.again(entry(start + 5000))).toBe(first)
    expect(folding.again(entry(start + foldedForMs - 1))).toBe(first)
    expect(first).toMatchObject({ times: 3, at: start, lastAt: start + foldedForMs - 1 })
    expect(folding.again(entry(start + foldedForMs))).toBeNull()
    expect(first.times).toBe(3)
  })

  it.each([
    ['severity', { severity: 'trouble' as const }],
    ['source', { source: 'Quay' }],
    ['text', { text: 'Unit 5 is silent.' }],
    ['code', { fault: fault('tcp.refused', { host: 'a', port: 1 }) }],
  ])('keeps what differs in its %s apart', (_, more) => {
    const folding = new Folding<Entry>()
    folding.again(entry(start))
    expect(folding.again(entry(start + 1, more))).toBeNull()
  })

  it('counts nothing into what is kept no more, nor into what lies ahead of a clock that was set back', () => {
    const folding = new Folding<Entry>()
    const gone = entry(start)
    folding.again(gone)
    folding.forget(gone)
    expect(folding.again(entry(start + 1))).toBeNull()
    expect(folding.again(entry(start - 60_000))).toBeNull()
  })

  it('remembers a bounded number of different ones, and loses no event: the counts add up', () => {
    fc.assert(
      fc.property(fc.array(fc.tuple(fc.integer({ min: 0, max: 3000 }), fc.integer({ min: 0, max: 200_000 }))), (events) => {
        const folding = new Folding<Entry>()
        const all: Entry[] = []
        let at = start
        for (const [which, after] of events) {
          const one = entry((at += after), { text: `event ${which}` })
          if (!folding.again(one)) all.push(one)
        }
        expect(folding['open'].size).toBeLessThanOrEqual(2000)
        expect(all.reduce((sum, { times }) => sum + times, 0)).toBe(events.length)
        expect(all.every(({ at, lastAt }) => lastAt - at < foldedForMs)).toBe(true)
      }),
    )
  })
})

describe('a syslog message', () => {
  const origin = { facility: 16, host: 'quay-1', app: 'conduit', process: 12 }
  const text = (message: Uint8Array) => new TextDecoder('utf-8', { ignoreBOM: true }).decode(message)

  it('has priority, version, time, names and data as RFC 5424, 6 has them', () => {
    const why = fault('tcp.refused', { host: '10.8.0.4', port: 502 })
    expect(text(syslogMessage(entry(start, { severity: 'trouble', fault: why }), origin))).toBe(
      '<131>1 2026-11-25T14:06:45.120Z quay-1 conduit 12 Meters [fault@32473 code="tcp.refused"] \ufeffMeters: Unit 4 is silent.',
    )
    expect(text(syslogMessage(entry(start, { severity: 'note', times: 3 }), { ...origin, facility: 3 }))).toBe(
      '<30>1 2026-11-25T14:06:45.120Z quay-1 conduit 12 Meters - \ufeffMeters: Unit 4 is silent. (3 times)',
    )
  })

  it('has one line, and names of printable ASCII without spaces, whatever the source is called', () => {
    const message = text(syslogMessage(entry(start, { source: 'Målere på kai 4'.repeat(4), text: 'a\r\nb\n\nc' }), origin))
    expect(message).toMatch(/^<132>1 \S+ quay-1 conduit 12 [\x21-\x7e]{1,32} - \ufeffMålere.*: a b c$/)
    expect(text(syslogMessage(entry(start, { source: 'Καλώδιο' }), origin))).toContain(' conduit 12 - - ')
  })

  it('has at most 2048 bytes, cut between two characters, and is framed by their number (RFC 6587, 3.4.1)', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'grapheme', minLength: 0, maxLength: 3000 }), (words) => {
        const message = syslogMessage(entry(start, { text: words }), origin)
        expect(message.length).toBeLessThanOrEqual(2048)
        expect(() => new TextDecoder('utf-8', { fatal: true }).decode(message)).not.toThrow()
        const framed = octetCounted(message)
        const [, length] = /^(\d+) /.exec(new TextDecoder('latin1').decode(framed))!
        expect(framed.length - length!.length - 1).toBe(Number(length))
      }),
    )
  })
})

describe('the picture', () => {
  it.each([
    [1000, 1000],
    [60_000, 2000],
    [3_600_000, 120_000],
    [86_400_000, 1_800_000],
    [7 * 86_400_000, 3 * 3_600_000],
    [365 * 86_400_000, 7 * 86_400_000],
  ])('of %d ms has bars of %d ms', (span, width) => {
    expect(barWidth(span)).toBe(width)
  })

  it('has a bar for each stretch, empty ones too, never too many, and counts everything within', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 400 * 86_400_000 }), fc.array(fc.nat({ max: 399 * 86_400_000 })), (span, offsets) => {
        const width = barWidth(span)
        const events = offsets.filter((offset) => offset < span).map((offset, i) => kept(i, start + offset, { times: 2 }))
        const bars = barsOf(countedIn(events, {}, width), start, start + span, width)
        expect(bars.length).toBeLessThanOrEqual(mostBars + 1)
        expect(totalsOf(bars).caution).toBe(events.length * 2)
        expect(bars.every(({ at }, i) => at % width === 0 && at === bars[0]!.at + i * width)).toBe(true)
      }),
    )
  })
})

describe('what is looked for', () => {
  const all = [
    kept(1, start, { text: 'Switched on.', severity: 'note' }),
    kept(2, start + 1000, { lastAt: start + 60_000, times: 4 }),
    kept(3, start + 2000, { source: 'Quay', text: 'Meter FÆRGE 2 is back.' }),
  ]
  const found = (filter: Parameters<typeof entryMatcher>[0]) => all.filter(entryMatcher(filter)).map(({ id }) => id)

  it('goes by words in text or source, severity, source and time', () => {
    expect(found({})).toEqual([1, 2, 3])
    expect(found({ find: 'silent' })).toEqual([2])
    expect(found({ find: 'færge quay' })).toEqual([3])
    expect(found({ severity: 'note' })).toEqual([1])
    expect(found({ source: 'Quay' })).toEqual([3])
    expect(found({ from: start + 1500 })).toEqual([2, 3])
    expect(found({ to: start + 1500 })).toEqual([1, 2])
  })

  it('comes by the page, the newest first, and counts no further than said', () => {
    const asked = { offset: 0, limit: 2 }
    expect(entriesPage(all, asked, 100)).toMatchObject({ total: 3, items: [{ id: 3 }, { id: 2 }] })
    expect(entriesPage(all, { ...asked, before: 2 }, 100)).toMatchObject({ total: 1, items: [{ id: 1 }] })
    expect(entriesPage(all, { offset: 1, limit: 1 }, 2)).toMatchObject({ total: 2, items: [{ id: 2 }] })
  })
})

describe('files', () => {
  const odd = kept(7, start, {
    times: 12,
    lastAt: start + 61_000,
    text: 'says "=1+1";\nand, more',
    fault: fault('tcp.refused', { host: 'a', port: 1 }),
  })

  it('as text have one event a line', () => {
    expect(journalPart('text', [odd, kept(6, start)])).toBe(
      [
        '2026-11-25T14:06:45.120Z  caution  Meters: says "=1+1"; and, more  [tcp.refused]  (12 times until 2026-11-25T14:07:46.120Z)',
        '2026-11-25T14:06:45.120Z  caution  Meters: Unit 4 is silent.',
        '',
      ].join('\n'),
    )
  })

  it('as CSV are read back as they were by another reader, and start no formula', () => {
    const [head, row] = parse(journalHead('csv') + journalPart('csv', [odd]), { bom: true }) as string[][]
    expect(head!.slice(0, 7)).toEqual(['at', 'last at', 'times', 'severity', 'source', 'text', 'code'])
    expect(row!.slice(2, 7)).toEqual(['12', 'caution', 'Meters', 'says "=1+1";\nand, more', 'tcp.refused'])
    const [, formula] = parse(journalHead('csv') + journalPart('csv', [kept(1, start, { text: '=cmd()' })]), { bom: true }) as string[][]
    expect(formula![5]).not.toMatch(/^=/)
  })

  it('as JSON Lines have all of it', () => {
    const [line, rest] = journalPart('lines', [odd]).split('\n')
    expect(rest).toBe('')
    expect(JSON.parse(line!)).toEqual({ ...odd, at: new Date(start).toISOString(), lastAt: new Date(start + 61_000).toISOString() })
  })
})

describe('how it is kept', () => {
  it('is as usual where nothing is said, and refuses what cannot be', () => {
    expect(journalKeeping.parse({})).toEqual({ where: 'database', most: 200_000, days: 365, mostMb: 1000, deedDays: null, forward: null })
    const problem = (given: object) => journalKeeping.safeParse(given).error?.issues.map(({ path }) => path.join('.'))
    expect(problem({ where: 'memory', most: 200_000 })).toEqual(['most'])
    expect(problem({ where: 'memory', most: 5000 })).toBeUndefined()
    expect(problem({ forward: { host: 'logs', over: 'udp', tls: { mode: 'encrypted' } } })).toEqual(['forward.tls.mode'])
    expect(problem({ forward: { host: 'syslog://logs' } })).toEqual(['forward.host'])
  })
})

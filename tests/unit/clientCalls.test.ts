import Papa from 'papaparse'
import { describe, expect, it } from 'vitest'
import { CallBook, CallSource, mostItems } from '#core/calls/callBook'
import { callValue, payloadText, type Caller, type CountedCall, type HeldCall } from '#core/calls/call'
import { callsHead, callsPart } from '#core/calls/written'

const scada = { name: 'SCADA', from: '10.8.0.4', as: 'operator' }
const panel = { name: 'Panel', from: '10.8.0.9', as: 'anonymous' }
type Noted = HeldCall & CountedCall

/** A book, and one who looks at it all the time. */
const bookOf = () => {
  const book = new CallBook()
  const sources = new Map<string, CallSource>()
  const of = (caller: Caller) => {
    const known = sources.get(caller.name) ?? new CallSource(caller)
    sources.set(caller.name, known)
    return known
  }
  book.page({}, 1)
  return {
    book,
    note: (caller: Caller, noted: Noted, code = '', at?: number) => {
      const counted = { ...noted, code }
      if (book.counts(of(caller), counted, at)) book.hold(of(caller), counted, noted, at)
    },
    inVain: (caller: Caller, what: string, why: string) => book.inVain(of(caller), what, why),
  }
}
const call = (more: Partial<Noted> = {}): Noted => ({
  ...{ service: 'Read', outcome: 'well', status: 'Good', ms: 2, isTold: false, count: 1, bytes: 200 },
  tell: () => [{ what: 'berth/1/power', value: '12.5', status: 'Good', refused: false }],
  ...more,
})

describe('the book of calls', () => {
  it('holds the last ones, and says which are gone', () => {
    const { book, note } = bookOf()
    for (let n = 0; n < 6000; n++) note(scada, call())
    const page = book.page({}, 10)
    expect([page.last, page.first, page.calls.length, page.calls[0]!.n]).toEqual([6000, 1001, 10, 6000])
    expect(book.page({ before: 1003 }, 10).calls.map(({ n }) => n)).toEqual([1002, 1001])
    expect(book.page({ after: 5998 }, 10).calls.map(({ n }) => n)).toEqual([6000, 5999])
  })

  it('is bounded by what calls hold, too', () => {
    const { book, note } = bookOf()
    for (let n = 0; n < 100; n++) note(scada, call({ bytes: 1024 * 1024 }))
    const { first, last } = book.page({}, 1)
    expect(last - first + 1).toBe(16)
  })

  it('keeps one call that is larger than all that may be held', () => {
    const { book, note } = bookOf()
    note(scada, call())
    note(scada, call({ bytes: 100 * 1024 * 1024 }))
    expect(book.page({}, 10).calls.map(({ n }) => n)).toEqual([2])
  })

  it('goes by client, outcome, and words in whatever it says', () => {
    const { book, note } = bookOf()
    note(scada, call())
    note(panel, call({ service: 'Write', outcome: 'refused', status: 'BadUserAccessDenied' }))
    const [written, read] = book.page({}, 10).calls
    const numbers = (filter: Parameters<CallBook['page']>[0]) => book.page(filter, 10).calls.map(({ n }) => n)
    expect(numbers({ client: read!.client.id })).toEqual([read!.n])
    expect(numbers({ outcome: 'refused' })).toEqual([written!.n])
    expect(numbers({ text: 'POWER 12.5' })).toEqual([2, 1])
    expect(numbers({ text: 'power denied' })).toEqual([2])
    expect(numbers({ text: 'sluice' })).toEqual([])
  })

  it('lists so many items of a call and says how many more there were; what cannot be told stops nothing', () => {
    const { book, note } = bookOf()
    const many = (most: number) => Array.from({ length: most }, (_, i) => ({ what: `t${i}`, value: null, status: '', refused: false }))
    note(scada, call({ count: 10_000, tell: many }))
    note(scada, {
      ...call(),
      tell: () => {
        throw new Error('the node is gone')
      },
    })
    const [odd, long] = book.page({}, 2).calls
    expect([long!.items.length, long!.more]).toEqual([mostItems, 10_000 - mostItems])
    expect(odd!.items[0]).toMatchObject({ status: 'the node is gone' })
  })

  it('holds a part of very many while nobody looks, of what was refused as many, and counts each', () => {
    const { book, note } = bookOf()
    const later = Date.now() + 60_000
    for (let n = 0; n < 1000; n++) note(scada, call(), '', later)
    for (let n = 0; n < 80; n++) note(scada, call({ outcome: 'refused', status: 'BadNodeIdUnknown' }), 'BadNodeIdUnknown', later)
    note(scada, call(), '', later + 1000)
    expect(book.totals(later)[0]).toMatchObject({ calls: 1081, measured: { failures: 80 } })
    const { calls, last } = book.page({}, 500, later + 1000)
    // one is the slowest so far, which is always held
    expect([calls.length, last]).toEqual([102, 1081])
    expect(calls.filter(({ outcome }) => outcome === 'refused')).toHaveLength(50)
    // now somebody looks
    for (let n = 0; n < 300; n++) note(scada, call(), '', later + 1500)
    expect(book.page({ after: last }, 500, later + 2000).calls).toHaveLength(300)
  })

  it('counts by client: calls, what was told, what failed and why, the slowest', () => {
    const { book, note } = bookOf()
    for (let n = 0; n < 5; n++) note(scada, call({ ms: n }))
    note(scada, call({ service: 'Publish', ms: null, isTold: true }))
    note(panel, call({ outcome: 'refused', status: 'BadNodeIdUnknown', ms: 900, service: 'Browse' }), 'BadNodeIdUnknown')
    const [first, second] = book.totals(Date.now())
    expect(first).toMatchObject({
      client: scada,
      calls: 5,
      told: 1,
      measured: { requests: 5, failures: 0, most: 4 },
      slowest: { ms: 4, n: 5 },
    })
    expect(second).toMatchObject({
      client: panel,
      calls: 1,
      measured: { failures: 1, causes: { BadNodeIdUnknown: 1 } },
      slowest: { service: 'Browse' },
    })
  })

  it('names the item that was asked for in vain a thousand times, however many others there are', () => {
    const { book, inVain } = bookOf()
    for (let n = 0; n < 1000; n++) inVain(scada, 'berth/9/power', 'BadNodeIdUnknown')
    for (let n = 0; n < 5000; n++) inVain(panel, `made/up/${n}`, 'BadNodeIdUnknown')
    const { items, others } = book.askedInVain(3)
    expect(items[0]).toMatchObject({ client: scada, what: 'berth/9/power', times: 1000 })
    expect(items).toHaveLength(3)
    expect(items.reduce((sum, { times }) => sum + times, 0) + others).toBe(6000)
  })

  it('counts clients beyond those that are told apart together, and begins anew', () => {
    const { book, note } = bookOf()
    for (let n = 0; n < 700; n++) note({ ...scada, name: `client ${n}` }, call())
    const totals = book.totals(Date.now())
    expect(totals).toHaveLength(501)
    expect(totals[0]).toMatchObject({ client: { name: 'others' }, calls: 200 })
    book.reset(5)
    expect([book.totals(6), book.askedInVain(1).items, book.since, book.page({}, 1).calls.length]).toEqual([[], [], 5, 1])
  })
})

describe('values of calls', () => {
  it('are cut where they are long, and bytes are text where they are text', () => {
    expect([callValue(12.5), callValue(null), callValue(undefined)]).toEqual(['12.5', null, null])
    expect(callValue(Float64Array.from({ length: 30 }, (_, i) => i) as never)).toMatch(/^\[0, 1, .*, 19, and 10 more\]$/)
    expect(callValue('x'.repeat(5000))).toHaveLength(300)
    expect(payloadText(Buffer.from('Fähre'))).toBe('Fähre')
    expect(payloadText(Uint8Array.of(0xff, 0, 1))).toBe('ff 00 01')
    // a letter that the limit cuts in two is left out
    expect(payloadText(Buffer.from('ä'.repeat(2000)))).toBe('ä'.repeat(300))
    expect(payloadText(Buffer.from(`x${'ä'.repeat(2000)}`))).toMatch(/^xä+$/)
    expect(payloadText(new Uint8Array(100))).toMatch(/ … \(100 bytes\)$/)
  })
})

describe('calls in files', () => {
  const [shown] = (() => {
    const { book, note } = bookOf()
    note({ ...scada, name: 'A "client"\r\nof two lines' }, call({ count: 3 }), '', 1_700_000_000_000)
    return book.page({}, 1).calls
  })()

  it('are tables with an item a row, lines of JSON, and text without lines of its own', () => {
    const { data: table } = Papa.parse<string[]>(callsHead('csv') + callsPart('csv', [shown!]), { skipEmptyLines: true })
    expect(table).toHaveLength(2)
    expect(table[1]).toEqual(expect.arrayContaining(['A "client"\r\nof two lines', 'berth/1/power', '12.5']))
    expect(JSON.parse(callsPart('lines', [shown!]))).toMatchObject({ n: 1, at: '2023-11-14T22:13:20.000Z', more: 2 })
    const text = callsPart('text', [shown!]).split('\n')
    expect(text).toHaveLength(4)
    expect(text[1]).toBe('    berth/1/power = 12.5  Good')
    expect(text[2]).toBe('    and 2 more')
  })
})

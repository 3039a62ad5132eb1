import Papa from 'papaparse'
import { describe, expect, it } from 'vitest'
import { CallBook, mostItems } from '#core/calls/callBook'
import { callValue, payloadText, type NotedCall } from '#core/calls/call'
import { callsHead, callsPart } from '#core/calls/written'

const scada = { name: 'SCADA', from: '10.8.0.4', as: 'operator' }
const panel = { name: 'Panel', from: '10.8.0.9', as: 'anonymous' }
const call = (more: Partial<NotedCall> = {}): NotedCall => ({
  ...{ service: 'Read', outcome: 'well', status: 'Good', ms: 2, isTold: false, count: 1, bytes: 200 },
  tell: () => [{ what: 'berth/1/power', value: '12.5', status: 'Good', refused: false }],
  ...more,
})

describe('the book of calls', () => {
  it('holds the last ones, and says which are gone', () => {
    const book = new CallBook()
    for (let n = 0; n < 6000; n++) book.note(scada, call())
    const page = book.page({}, 10)
    expect([page.last, page.first, page.calls.length, page.calls[0]!.n]).toEqual([6000, 1001, 10, 6000])
    expect(book.page({ before: 1003 }, 10).calls.map(({ n }) => n)).toEqual([1002, 1001])
    expect(book.page({ after: 5998 }, 10).calls.map(({ n }) => n)).toEqual([6000, 5999])
  })

  it('is bounded by what calls hold, too', () => {
    const book = new CallBook()
    for (let n = 0; n < 100; n++) book.note(scada, call({ bytes: 1024 * 1024 }))
    const { first, last } = book.page({}, 1)
    expect(last - first + 1).toBe(16)
  })

  it('keeps one call that is larger than all that may be held', () => {
    const book = new CallBook()
    book.note(scada, call())
    book.note(scada, call({ bytes: 100 * 1024 * 1024 }))
    expect(book.page({}, 10).calls.map(({ n }) => n)).toEqual([2])
  })

  it('goes by client, outcome, and words in whatever it says', () => {
    const book = new CallBook()
    book.note(scada, call())
    book.note(panel, call({ service: 'Write', outcome: 'refused', status: 'BadUserAccessDenied' }))
    const [written, read] = book.page({}, 10).calls
    const numbers = (filter: Parameters<CallBook['page']>[0]) => book.page(filter, 10).calls.map(({ n }) => n)
    expect(numbers({ client: read!.client.id })).toEqual([read!.n])
    expect(numbers({ outcome: 'refused' })).toEqual([written!.n])
    expect(numbers({ text: 'POWER 12.5' })).toEqual([2, 1])
    expect(numbers({ text: 'power denied' })).toEqual([2])
    expect(numbers({ text: 'sluice' })).toEqual([])
  })

  it('lists so many items of a call and says how many more there were; what cannot be told stops nothing', () => {
    const book = new CallBook()
    const many = (most: number) => Array.from({ length: most }, (_, i) => ({ what: `t${i}`, value: null, status: '', refused: false }))
    book.note(scada, call({ count: 10_000, tell: many }))
    book.note(scada, {
      ...call(),
      tell: () => {
        throw new Error('the node is gone')
      },
    })
    const [odd, long] = book.page({}, 2).calls
    expect([long!.items.length, long!.more]).toEqual([mostItems, 10_000 - mostItems])
    expect(odd!.items[0]).toMatchObject({ status: 'the node is gone' })
  })

  it('counts by client: calls, what was told, what failed and why, the slowest', () => {
    const book = new CallBook()
    for (let n = 0; n < 5; n++) book.note(scada, call({ ms: n }))
    book.note(scada, call({ service: 'Publish', ms: null, isTold: true }))
    book.note(panel, call({ outcome: 'refused', status: 'BadNodeIdUnknown', ms: 900, service: 'Browse' }), 'BadNodeIdUnknown')
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
    const book = new CallBook()
    for (let n = 0; n < 1000; n++) book.inVain(scada, 'berth/9/power', 'BadNodeIdUnknown')
    for (let n = 0; n < 5000; n++) book.inVain(panel, `made/up/${n}`, 'BadNodeIdUnknown')
    const { items, others } = book.askedInVain(3)
    expect(items[0]).toMatchObject({ client: scada, what: 'berth/9/power', times: 1000 })
    expect(items).toHaveLength(3)
    expect(items.reduce((sum, { times }) => sum + times, 0) + others).toBe(6000)
  })

  it('counts clients beyond those that are told apart together, and begins anew', () => {
    const book = new CallBook()
    for (let n = 0; n < 700; n++) book.note({ ...scada, name: `client ${n}` }, call())
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
    const book = new CallBook()
    book.note({ ...scada, name: 'A "client"\r\nof two lines' }, call({ count: 3 }), '', 1_700_000_000_000)
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

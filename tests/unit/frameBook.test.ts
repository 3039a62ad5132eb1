import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { allFrames, wordsOf, type FrameFilter } from '#core/traffic/filter'
import { FrameBook } from '#core/traffic/frameBook'
import { TriggerWatch } from '#core/traffic/trigger'

/** Frames in bounded memory: matched, filtered, waited for. */

const request = (transaction: number, register = 40, unit = 11) => Uint8Array.of(0, transaction, 0, 0, 0, 6, unit, 3, 0, register, 0, 1)
const answer = (transaction: number, unit = 11) => Uint8Array.of(0, transaction, 0, 0, 0, 5, unit, 3, 2, 0, 7)
const refusal = (transaction: number, unit = 11) => Uint8Array.of(0, transaction, 0, 0, 0, 3, unit, 0x83, 2)

const bookOf = (limits = { frames: 1000, bytes: 1_000_000 }) => {
  const book = new FrameBook(limits)
  for (const id of [1, 2]) book.connect({ id, here: '', peer: `10.8.0.${id}:502`, kind: 'modbus-tcp', asks: true })
  const add = (at: number, out: boolean, bytes: Uint8Array, connection = 1) =>
    book.add({ at, connection, out, length: bytes.length, bytes })
  const passing = (filter: Partial<FrameFilter>) => [...book.passing({ ...allFrames, ...filter }, 0, book.end)]
  return { book, add, passing }
}

describe('requests and answers', () => {
  it('belong together by what both call themselves, within their connection', () => {
    const { book, add } = bookOf()
    add(100, true, request(1))
    add(101, true, request(2))
    add(102, true, request(1), 2)
    add(103.25, false, answer(2))
    add(107, false, answer(1))
    add(110, false, answer(1), 2)
    expect([0, 1, 2, 3, 4, 5].map((n) => book.row(n)).map((row) => [row!.partner, row!.answerMs])).toEqual([
      [4, 7],
      [3, 2.25],
      [5, 8],
      [1, 2.25],
      [0, 7],
      [2, 8],
    ])
  })

  it('are told apart from requests that nobody answers, once they had their time', () => {
    const { book, add } = bookOf()
    add(100, true, request(1))
    expect(book.row(0)!.outcome).toBe('fine')
    add(1200, true, request(2))
    expect([book.row(0)!.outcome, book.row(1)!.outcome]).toEqual(['unanswered', 'fine'])
    add(1300, false, answer(1))
    expect(book.row(0)!.outcome).toBe('fine')
  })
})

describe('a filter', () => {
  it('goes by words, outcome, connection, how long an answer took, and a field', () => {
    const { add, passing } = bookOf()
    add(100, true, request(1, 40, 11))
    add(105, false, answer(1, 11))
    add(200, true, request(2, 90, 13), 2)
    add(400, false, refusal(2, 13), 2)
    add(500, true, request(3, 40, 13))
    add(2000, true, request(4, 50, 11))
    expect(passing({ words: wordsOf('HOLDING/40') })).toEqual([0, 4])
    expect(passing({ words: wordsOf('holding unit 13') })).toEqual([2, 3, 4])
    expect(passing({ outcome: 'refused' })).toEqual([3])
    expect(passing({ outcome: 'unanswered' })).toEqual([4])
    expect(passing({ outcome: 'trouble' })).toEqual([3, 4])
    expect(passing({ connection: 2 })).toEqual([2, 3])
    expect(passing({ slowerMs: 100 })).toEqual([2, 3])
    expect(passing({ field: { name: 'unit', means: '13' } })).toEqual([2, 3, 4])
    expect(passing({ field: { name: 'unit', means: '13' }, words: ['exception'] })).toEqual([3])
  })
})

describe('memory', () => {
  it('is bounded by frames and by bytes, and what is left is as it was', () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 1, max: 300 }), { minLength: 1, maxLength: 400 }), (lengths) => {
        const book = new FrameBook({ frames: 50, bytes: 5000 })
        lengths.forEach((length, i) =>
          book.add({ at: i, connection: 1, out: i % 2 === 0, length, bytes: new Uint8Array(length).fill(i & 255) }),
        )
        expect(book.count).toBeLessThanOrEqual(50)
        expect(book.size).toBeLessThanOrEqual(5000)
        expect(book.end).toBe(lengths.length)
        for (let n = book.first; n < book.end; n++) {
          expect(book.row(n)).toMatchObject({ n, at: n, length: lengths[n], out: n % 2 === 0 })
          expect(book.bytesOf(n).every((byte) => byte === (n & 255)) && book.bytesOf(n).length === lengths[n]).toBe(true)
        }
        expect([book.row(book.first - 1), book.open(book.end)]).toEqual([null, null])
      }),
    )
  })

  it('is bounded where the oldest are small and a large one comes', () => {
    const book = new FrameBook({ frames: 50, bytes: 1000 })
    const add = (length: number) => book.add({ at: 0, connection: 1, out: true, length, bytes: new Uint8Array(length) })
    for (let i = 0; i < 40; i++) add(1)
    for (const length of [500, 450, 900]) add(length)
    expect([book.size, book.count]).toEqual([900, 1])
  })

  it('forgets the partner of what is gone, and the texts that nothing says any more', () => {
    const { book, add } = bookOf({ frames: 10, bytes: 1_000_000 })
    add(0, true, request(1))
    for (let i = 2; i < 30; i++) add(i, true, request(i))
    const n = add(31, false, answer(1))
    expect(book.row(n)).toMatchObject({ partner: null, answerMs: null })
    for (let i = 0; i < 60_000; i++)
      book.add({
        at: i,
        connection: 1,
        out: true,
        length: 12,
        bytes: Uint8Array.of(0, 1, 0, 0, 0, 6, i & 255, 3, (i >> 8) & 255, (i >> 16) & 255, 0, 1),
      })
    expect(book['texts']['all'].length).toBeLessThan(51_000)
    expect(book.row(book.end - 1)!.summary).toMatch(/^read holding/)
  })
})

describe('a trigger', () => {
  it('keeps what passed some time before the frame that is waited for, and some time after it', () => {
    const { book, add } = bookOf()
    const watch = new TriggerWatch({ filter: { ...allFrames, outcome: 'refused' }, beforeMs: 50, afterMs: 20 }, book)
    const pass = (at: number, out: boolean, bytes: Uint8Array) => {
      if (watch.takes(at)) watch.added(add(at, out, bytes), at)
    }
    for (let at = 0; at < 200; at += 10) pass(at, true, request(at & 255))
    expect(book.row(book.first)!.at).toBeGreaterThanOrEqual(130)
    pass(200, false, refusal(190))
    for (let at = 210; at < 400; at += 10) pass(at, true, request(at & 255))
    expect(watch.state).toEqual({ is: 'done', at: 200, n: 20 })
    expect(book.row(book.end - 1)!.at).toBe(220)
  })
})

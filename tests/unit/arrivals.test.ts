import { describe, expect, it } from 'vitest'
import type { Arrival } from '#engine/arrivals/arrival'
import { ArrivalBook } from '#engine/arrivals/arrivalBook'
import { ArrivalDoor } from '#engine/arrivals/arrivalDoor'

const message = (topic: string, text = '1'): Arrival => ({ topic, payload: new TextEncoder().encode(text), at: 1_000 })
const listener = (topic: string | ((topic: string) => boolean)) => {
  const taken: string[] = []
  return {
    taken,
    claim: { by: 'test', topic, take: ({ topic: t, payload }: Arrival) => void taken.push(`${t}=${String(Buffer.from(payload))}`) },
  }
}

describe('messages', () => {
  it('reach everybody who claims their topic, each once, also equal ones, in their order', () => {
    const book = new ArrivalBook(() => {})
    const [exact, below, other] = [listener('berth/1'), listener((topic) => topic.startsWith('berth/')), listener('berth/2')]
    for (const { claim } of [exact, below, other]) book.claim(claim)
    for (const text of ['5', '5', '6']) book.hand(message('berth/1', text))
    expect(exact.taken).toEqual(['berth/1=5', 'berth/1=5', 'berth/1=6'])
    expect(below.taken).toEqual(exact.taken)
    expect(other.taken).toEqual([])
    expect(book.list()).toEqual({ topics: [], count: 0, gaveWay: 0 })
    expect(book.arrived).toBe(3)
  })

  it('that nobody claims are listed until somebody does, and again when that one is gone', () => {
    const book = new ArrivalBook(() => {})
    for (const text of ['5', '{"a":1}']) book.hand(message('lost', text))
    book.hand(message('alone', 'x'))
    expect(book.list().topics).toMatchObject([
      { topic: 'lost', count: 2, form: 'JSON object', last: '{"a":1}', bytes: 7, at: 1000 },
      { topic: 'alone', count: 1, form: 'text' },
    ])
    const { claim, taken } = listener('lost')
    const letGo = book.claim(claim)
    expect(book.list().topics.map(({ topic }) => topic)).toEqual(['alone'])
    book.hand(message('lost'))
    letGo()
    book.hand(message('lost'))
    expect(taken).toEqual(['lost=1'])
    expect(book.list().count).toBe(2)
  })

  it('on ever new topics take no more room than is set, and those that are busy stay', () => {
    const book = new ArrivalBook(() => {})
    for (let i = 0; i < 3000; i++) {
      book.hand(message(`new/${i}`, 'x'.repeat(100_000)))
      book.hand(message('busy', String(i)))
    }
    const { topics, count, gaveWay } = book.list()
    expect([count, gaveWay]).toEqual([500, 2501])
    expect(topics[0]).toMatchObject({ topic: 'busy', count: 3000, last: '2999', form: 'number' })
    expect(topics).toHaveLength(200)
    expect(book['remembered'].size).toBeLessThanOrEqual(20_000)
  })

  it('longer than what is kept of them are told from their start, and hold on to nothing larger', () => {
    const book = new ArrivalBook(() => {})
    const pool = Buffer.alloc(1_000_000, 32)
    pool.write(JSON.stringify({ list: 'x'.repeat(40_000) }))
    book.hand({ topic: 'long', payload: pool.subarray(0, 40_011), at: 1 })
    book.hand({ topic: 'short', payload: pool.subarray(0, 8), at: 1 })
    const forms = book.list().topics.map(({ topic, form, bytes }) => [topic, form, bytes])
    expect(forms.sort()).toEqual([
      ['long', 'JSON object', 40_011],
      ['short', 'text', 8],
    ])
    const held = [...book['unclaimed']['topics'].values()].map(({ last }) => last.buffer.byteLength)
    expect(held).toEqual([16 * 1024, 8])
  })

  it('stop for nobody when one claimant fails, which is told once', () => {
    const told: string[] = []
    const book = new ArrivalBook((problem) => told.push(problem))
    book.claim({ by: 'a broken one', topic: 'a', take: () => JSON.parse('{') })
    const { claim, taken } = listener('a')
    book.claim(claim)
    book.hand(message('a'))
    book.hand(message('a'))
    expect(taken).toEqual(['a=1', 'a=1'])
    expect(told).toEqual([expect.stringContaining('a broken one')])
  })

  it('of a session that ended reach nobody, and its claims are gone', () => {
    const book = new ArrivalBook(() => {})
    const [first, second] = [new ArrivalDoor(book), new ArrivalDoor(book)]
    const mine = listener('a')
    first.claim(mine.claim)
    first.hand(message('a'))
    first.shut()
    first.hand(message('a'))
    expect(mine.taken).toEqual(['a=1'])
    second.hand(message('a'))
    expect(mine.taken).toEqual(['a=1'])
    expect(book.list().topics).toMatchObject([{ topic: 'a', count: 1 }])
  })
})

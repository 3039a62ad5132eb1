import { describe, expect, it } from 'vitest'
import { fault } from '#core/faults/catalogue'
import { quality } from '#core/tags/quality'
import { addStored, bringTo, emptyConfiguration, newsIn } from '#engine/configuration/site'
import { Backoff } from '#pacing/backoff'
import type { WriteOutcome } from '#engine/links/driver'
import { linkSentence, sentenceFor } from '#engine/links/modbus/sentences'
import { WriteQueue } from '#engine/links/writeQueue'
import { LiveViews, type LiveOrigin } from '#engine/live/liveViews'
import { TagTable } from '#engine/table/tagTable'
import { TagRegister } from '#engine/tags/tagRegister'
import type { UnitStatus } from '#shared/status'
import type { LiveValue, ValueOrigin } from '#shared/values'
import { pointTag } from '#shared/tags'
import { everything } from '../support/configured'
import { until } from '../support/until'

describe('pauses between attempts', () => {
  it('double up to the longest, spread over half of their length, and start over', () => {
    const backoff = new Backoff(100, 1000)
    const bounds = [100, 200, 400, 800, 1000, 1000]
    for (const most of bounds) {
      const pause = backoff.next()
      expect(pause).toBeGreaterThanOrEqual(most / 2)
      expect(pause).toBeLessThanOrEqual(most)
    }
    backoff.reset()
    expect(backoff.next()).toBeLessThanOrEqual(100)
  })

  it('do not overflow after days of failures', () => {
    const backoff = new Backoff(1000, 30_000)
    for (let i = 0; i < 5000; i++) backoff.next()
    expect(backoff.next()).toBeLessThanOrEqual(30_000)
  })
})

describe('the write queue', () => {
  const slowDevice = () => {
    const sent: number[] = []
    const waiting: (() => void)[] = []
    const send = (value: number) => () =>
      new Promise<WriteOutcome>((resolve) => {
        sent.push(value)
        waiting.push(() => resolve({ ok: true }))
      })
    return { sent, send, answer: () => waiting.shift()?.() }
  }

  it('sends one after the other, in order', async () => {
    const { sent, send, answer } = slowDevice()
    const queue = new WriteQueue({ keep: 'all', within: 5000 })
    const done = [1, 2, 3].map((value) => queue.push(value, 'tag', send(value)))
    expect(sent).toEqual([1])
    answer()
    await until(() => sent.length === 2)
    answer()
    await until(() => sent.length === 3)
    answer()
    expect(await Promise.all(done)).toEqual([{ ok: true }, { ok: true }, { ok: true }])
  })

  it('keeps only the latest of each tag where asked, and says so to the others', async () => {
    const { sent, send, answer } = slowDevice()
    const queue = new WriteQueue({ keep: 'latest', within: 5000 })
    const first = queue.push(1, 'a', send(1))
    const old = queue.push(1, 'a', send(2))
    const other = queue.push(2, 'b', send(3))
    const latest = queue.push(1, 'a', send(4))
    expect(await old).toMatchObject({ ok: false, fault: { code: 'write.superseded' } })
    for (let i = 0; i < 3; i++) {
      answer()
      await new Promise((resolve) => setImmediate(resolve))
    }
    expect(await Promise.all([first, latest, other])).toEqual([{ ok: true }, { ok: true }, { ok: true }])
    expect(sent).toEqual([1, 4, 3])
  })

  it('does not grow without end: what is too much is refused at once', async () => {
    const { send } = slowDevice()
    const queue = new WriteQueue({ keep: 'all', within: 5000 })
    for (let i = 0; i < 1001; i++) void queue.push(i, 'tag', send(i))
    expect(await queue.push(5000, 'one too many', send(0))).toMatchObject({ ok: false, fault: { code: 'write.queue-full' } })
  })
})

describe('sentences about a unit', () => {
  const round = { interval: 1000, points: 10, requests: 4, predictedMs: 60, measuredMs: 62 }
  const lane = { isOpen: true, fault: null, isClosedAfterReply: false, reopeningMs: 0 }
  const malformed = fault('modbus.malformed', { unit: 11, problem: 'an exception without its code' })
  const facts = (more = {}, health = {}) => ({
    health: { silentInARow: 0, silentSince: 0, leftOutUntil: 0, requests: 5, lastFault: null, ...health },
    lane,
    rounds: [round],
    refused: [],
    now: 100_000,
    ...more,
  })

  it.each([
    ['flowing', facts(), 'Round 62 ms of 1 s · 4 requests'],
    ['late', facts({ rounds: [{ ...round, measuredMs: 5600 }] }), 'A round takes 5.6 s, its tags ask for every 1 s'],
    ['late', facts({}, { silentInARow: 2 }), '2 requests in a row without a reply'],
    [
      'broken',
      facts({}, { silentInARow: 3, silentSince: 58_000, leftOutUntil: 118_000 }),
      'Silent for 42 s, left out of the round, tried again in 18 s',
    ],
    [
      'flowing',
      facts({ refused: ['holding/7', 'holding/7', 'holding/9', 'coil/1', 'coil/2'].map((address) => ({ address })) }),
      'Round 62 ms of 1 s · 4 requests · the device refuses holding/7, holding/9, coil/1 and 1 more',
    ],
    ['late', facts({}, { silentInARow: 2, lastFault: malformed }), malformed.what],
    [
      'broken',
      facts({}, { silentInARow: 3, silentSince: 58_000, leftOutUntil: 118_000, lastFault: malformed }),
      'Nothing usable for 42 s, left out of the round, tried again in 18 s',
    ],
    [
      'flowing',
      facts({ lane: { ...lane, isClosedAfterReply: true, reopeningMs: 3 } }),
      'Round 62 ms of 1 s · 4 requests · the device closes after each reply; opening again costs 3 ms each time',
    ],
    ['late', facts({}, { requests: 0 }), 'Waiting for the first reply'],
    [
      'broken',
      facts({ lane: { ...lane, isOpen: false, fault: fault('tcp.refused', { host: 'meters', port: 502 }) } }),
      'meters is there and refuses port 502.',
    ],
  ] as const)('%s', (flow, given, sentence) =>
    expect(sentenceFor(given)).toEqual({ flow, sentence, ...(sentence.startsWith('A round takes') ? { isSlow: true } : {}) }),
  )

  const unit = (number: string, flow: UnitStatus['flow'], sentence = 'Fine') =>
    ({ unit: number, flow, sentence, rounds: [round], lastFault: null, refused: [], refusedCount: 0 }) as never

  it('a link is late when some of its units are broken, and broken when all are', () => {
    expect(linkSentence([unit('11', 'flowing'), unit('12', 'broken', 'Silent for 42 s')])).toMatchObject({
      flow: 'late',
      sentence: 'Unit 12: silent for 42 s',
    })
    expect(linkSentence([unit('11', 'broken', 'Silent'), unit('12', 'broken', 'Silent')])).toMatchObject({
      flow: 'broken',
      sentence: 'Silent',
    })
    expect(linkSentence([unit('11', 'flowing'), unit('12', 'flowing')])).toMatchObject({
      flow: 'flowing',
      sentence: '2 units answer, 8 requests a round',
    })
    expect(linkSentence([])).toMatchObject({ flow: 'flowing' })
  })
})

describe('differences between configurations', () => {
  const link = (id: number, revision: number) => ({ id, revision }) as never
  it('are what has another revision, what is new, and what is gone', () => {
    const known = emptyConfiguration()
    const first = newsIn(everything(5, { link: [link(1, 1), link(2, 2)] }), known)
    expect(first.parts.link.set).toHaveLength(2)
    bringTo(known, first)
    const later = everything(7, { link: [link(2, 6), link(3, 7)] })
    expect(newsIn(later, known).parts.link).toEqual({ set: [link(2, 6), link(3, 7)], removed: [1] })
    bringTo(known, newsIn(later, known))
    expect(newsIn(later, known).parts.link).toEqual({ set: [], removed: [] })
  })

  it('do not take what cannot be read for removed', () => {
    const known = emptyConfiguration()
    bringTo(known, everything(1, { link: [link(1, 1)] }))
    const all = everything(2, {})
    addStored(all, 'link', { id: 1, revision: 2, name: 'Meters', kind: 'no such kind' })
    const news = newsIn(all, known)
    expect(news.parts.link).toEqual({ set: [], removed: [] })
    expect(news.unread).toMatchObject([{ subject: 'link', id: 1, name: 'Meters', problem: expect.stringContaining('kind') }])
  })
})

describe('live views', () => {
  const setUp = () => {
    const table = new TagTable()
    const tags = new TagRegister(table)
    const deliveries: { viewer: string; values: LiveValue[]; origin: LiveOrigin | null; taken(): void; fail(): void }[] = []
    const shown = (text: unknown) => ({ stages: [{ title: 'Passed on', text: String(text), detail: '' }] }) as ValueOrigin
    const views = new LiveViews(
      { table, tags, originOf: (id) => shown(table.values[tags.handleOf(id)!]) },
      (viewer, values, origin) => new Promise<void>((taken, fail) => deliveries.push({ viewer, values, origin, taken, fail })),
    )
    const make = (id: number) =>
      tags.set({ ...pointTag({ path: `tag ${id}`, linkId: 1, address: 'holding/1', type: 'int16' }), id, revision: 1 })
    return { table, tags, deliveries, views, make }
  }

  it('send what is on screen, newest values only, and wait until the page has taken them', async () => {
    const { table, deliveries, views, make } = setUp()
    const [one, two] = [make(1), make(2)]
    views.watch('page', [1], null)
    await until(() => deliveries.length === 1)
    for (let value = 0; value < 50; value++) {
      table.set(one.handle, value, quality.Good, value)
      table.set(two.handle, value, quality.Good, value)
      table.flush()
    }
    await new Promise((resolve) => setTimeout(resolve, 250))
    expect(deliveries).toHaveLength(1)
    deliveries[0]!.taken()
    await until(() => deliveries.length === 2)
    expect(deliveries[1]!.values).toMatchObject([{ id: 1, value: 49 }])
    views.close()
  })

  it('forget a viewer whose page cannot be reached', async () => {
    const { table, deliveries, views, make } = setUp()
    const one = make(1)
    views.watch('page', [1], null)
    await until(() => deliveries.length === 1)
    deliveries[0]!.fail()
    await new Promise((resolve) => setTimeout(resolve, 50))
    table.set(one.handle, 1, quality.Good, 1)
    table.flush()
    await new Promise((resolve) => setTimeout(resolve, 250))
    expect(deliveries).toHaveLength(1)
    views.close()
  })

  it('find tags that come only after the page asked for them', async () => {
    const { table, deliveries, views, make } = setUp()
    views.watch('page', [7], null)
    const tag = make(7)
    table.set(tag.handle, 70, quality.Good, 1)
    table.flush()
    views.resolveAgain()
    await until(() => deliveries.length === 1)
    expect(deliveries[0]!.values).toMatchObject([{ id: 7, value: 70 }])
    views.close()
  })

  it('carry a value and how it is made as they were at one moment', async () => {
    const { table, deliveries, views, make } = setUp()
    const one = make(1)
    views.watch('page', [], 1)
    await until(() => deliveries.length === 1)
    for (let value = 1; value < 40; value++) {
      table.set(one.handle, value, quality.Good, value)
      table.flush()
      deliveries.at(-1)!.taken()
      await new Promise((resolve) => setTimeout(resolve, 10))
    }
    views.close()
    expect(deliveries.length).toBeGreaterThan(3)
    for (const { values, origin } of deliveries) expect(origin!.origin!.stages[0]!.text).toBe(String(values[0]!.value ?? undefined))
  })

  it('do not show what took the place of a tag in the table', async () => {
    const { table, tags, deliveries, views, make } = setUp()
    const one = make(1)
    views.watch('page', [1, 3], null)
    await until(() => deliveries.length === 1)
    tags.release(tags.remove(1)!)
    const other = make(2)
    expect(other.handle).toBe(one.handle)
    deliveries[0]!.taken()
    table.set(other.handle, 22, quality.Good, 1)
    table.flush()
    await until(() => deliveries.length === 2)
    expect(deliveries[1]!.values).toEqual([])
    views.close()
  })
})

import { afterEach, expect, it } from 'vitest'
import { IntervalBuilder } from '#core/history/intervals'
import { quality } from '#core/tags/quality'
import type { SamplesAsked } from '#db/history/samples'
import { closeAll, type Closing } from '../support/engineOn'
import { openHttpOutlet } from '../support/httpOutlet'
import { noPast } from '../support/outletTag'

/** The past over HTTP; who asks is Node's own fetch. */

const closing: Closing = []
afterEach(() => closeAll(closing))
const open = (...args: [settings?: Record<string, unknown>, around?: Parameters<typeof openHttpOutlet>[2]]) =>
  openHttpOutlet(closing, ...args)
const everything = [{ folder: '', may: 'write' }]

it('tags tell of their past: samples page by page, and what became of windows', async () => {
  const noon = Date.UTC(2026, 10, 27, 12)
  const sample = (minutes: number, number: number) => ({
    at: noon + minutes * 60_000,
    arrived: noon,
    quality: quality.Good,
    number,
    text: null,
  })
  const stored = [sample(0, 1), sample(10, 4), sample(20, 7), sample(40, 0)]
  const past = {
    ...noPast,
    zone: () => 'Europe/Oslo',
    samples: ({ from, to, most }: SamplesAsked) => Promise.resolve(stored.filter(({ at }) => at >= from && at < to).slice(0, most)),
    intervals: (_: number, borders: readonly number[]) => {
      const builder = new IntervalBuilder(borders)
      for (const { at, number } of stored) builder.sample(at, number)
      return Promise.resolve(builder.done(noon + 3_600_000))
    },
  }
  const outlet = await open({ anonymous: [{ folder: 'berth', may: 'read' }] }, { past })
  outlet.tag('berth/1/power', 3, { unit: 'kW' })
  outlet.tag('secret/power', 3)
  const hour = 'from=2026-11-27T12:00:00Z&to=2026-11-27T13:00:00Z'
  const first = await outlet.ask(`/history/berth/1/power?${hour}&limit=3`)
  expect(first.body).toMatchObject({ path: 'berth/1/power', unit: 'kW', next: '2026-11-27T12:40:00.000Z' })
  expect((first.body!.items as { value: number }[]).map(({ value }) => value)).toEqual([1, 4, 7])
  const rest = await outlet.ask(`/history/berth/1/power?from=${first.body!.next as string}&to=2026-11-27T13:00:00Z`)
  expect(rest.body).toMatchObject({ items: [{ value: 0, time: '2026-11-27T12:40:00.000Z', quality: 'Good' }], next: null })
  const halves = await outlet.ask(`/history/berth/1/power?${hour}&each=30%20minutes&how=max`)
  expect(halves.body!.items).toEqual([
    { from: '2026-11-27T12:00:00.000Z', to: '2026-11-27T12:30:00.000Z', value: 7, quality: 'Good' },
    { from: '2026-11-27T12:30:00.000Z', to: '2026-11-27T13:00:00.000Z', value: 7, quality: 'Good' },
  ])
  for (const wrong of [
    'each=7minute',
    'each=fortnight',
    'how=median',
    'from=yesterday',
    'from=2026-11-28T00:00:00Z&to=2026-11-27T00:00:00Z',
    'limit=0',
    'from=0&each=second',
  ])
    expect(await outlet.ask(`/history/berth/1/power?${wrong}`)).toMatchObject({ status: 400 })
  expect((await outlet.ask(`/history/secret/power?${hour}`)).status).toBe(404)
})

it('tags have no past where the database is away, and say so', async () => {
  const outlet = await open({ anonymous: everything })
  outlet.tag('berth/1/power', 3)
  expect(await outlet.ask('/history/berth/1/power')).toMatchObject({
    status: 503,
    body: { type: 'urn:keen-conduit:fault:serve.no-history' },
  })
})

import { afterEach, describe, expect, it } from 'vitest'
import { bridgeContract } from '#core/bridges/settings'
import { bridgeDraft, bridgeSite, memoryTag } from '../support/bridgeSite'
import { closeAll, databaseFor, stateFolderFor, type Closing } from '../support/engineOn'
import { until } from '../support/until'
import { json, startWebApi } from '../support/webApi'

/** Bridges that take what a web API answers, and that hand records in there, against Node's own server. */

const closing: Closing = []
afterEach(() => closeAll(closing))

const operations = [
  { name: 'tariff', path: '/tariffs/{zone}' },
  { name: 'search', method: 'POST', path: '/search', body: '{"zone":"{zone}"}' },
  { name: 'hand_in', method: 'POST', path: '/calls', body: '{"n":"{n}","berth":"{berth}"}' },
]
const linkTo = (base: string, more: object = {}) => ({
  ...{ name: 'Office', kind: 'http' },
  settings: { base, operations, patience: { connect: 400, answer: 400, retryFirst: 100, retryMost: 200 }, ...more },
})
const onCount = [{ kind: 'change', tag: 'count' }]
const count = { name: 'count', kind: 'tag', path: 'count' }
const zone = { name: 'zone', kind: 'constant', value: 'sør/øst' }
const handIn = (linkId: number, more: object = {}) => ({
  ...{ kind: 'call', number: 1, linkId, operation: 'hand_in' },
  fields: [
    { into: 'n', from: 'count' },
    { into: 'berth', from: '"B2"' },
  ],
  ...more,
})

const siteWith = async (reply: Parameters<typeof startWebApi>[0], more: object = {}) => {
  const api = await startWebApi(reply)
  closing.push(() => api.stop())
  const site = await bridgeSite(closing)
  const link = await site.link(linkTo(api.base, more))
  await site.tags([memoryTag('count', 0), memoryTag('price', null), memoryTag('list', null, 'string')])
  return { ...site, api, office: link }
}
const bodies = (api: { asked: { method: string; body: string }[] }) =>
  api.asked.filter(({ method }) => method === 'POST').map(({ body }) => (JSON.parse(body) as { n: number }).n)

describe('an answer as an input of a bridge', () => {
  const into = (from: string, tag = 'price') => [{ kind: 'tags', number: 1, fields: [{ into: tag, from }] }]
  const tariff = (linkId: number, more: object = {}) => ({
    ...{ name: 'tariff', kind: 'call', linkId, operation: 'tariff', given: [{ into: 'zone', from: 'zone' }], path: '$.now' },
    ...more,
  })

  it('is asked for with what the inputs before it have, and a part of it is taken', async () => {
    const site = await siteWith((_, response) => json(response, { now: { price: 41.5 } }))
    await site.bridge(bridgeDraft({ when: onCount, take: [zone, tariff(site.office)], send: into('tariff_price') }))
    await site.write('count', 1)
    await until(() => site.value('price') === 41.5)
    expect(site.api.asked.map(({ url }) => url)).toEqual(['/tariffs/s%C3%B8r%2F%C3%B8st'])
  })
  it('makes a record of each element, and is text where it is no JSON', async () => {
    const site = await siteWith(({ url }, response) =>
      url === '/search' ? json(response, { found: [{ n: 7 }, { n: 8 }] }) : response.end('quiet'),
    )
    const search = { name: 'found', kind: 'call', linkId: site.office, operation: 'search', path: '$.found[*]', each: true }
    await site.bridge(
      bridgeDraft({
        when: onCount,
        take: [zone, { ...search, given: [{ into: 'zone', from: 'zone' }] }],
        send: [handIn(site.office, { fields: [{ into: 'n', from: 'found_n' }, { into: 'berth', from: 'zone' }] })], // prettier-ignore
      }),
    )
    await site.bridge(bridgeDraft({ when: onCount, take: [zone, tariff(site.office, { path: '' })], send: into('tariff', 'list') }))
    await site.write('count', 1)
    await until(() => site.value('list') === 'quiet')
    await until(() => bodies(site.api).filter((n) => n !== undefined).length === 2)
    expect(bodies(site.api).filter((n) => n !== undefined)).toEqual([7, 8])
  })
  it.each([
    ['refused', 404, '{}', 'answered with status 404'],
    ['of another form', 200, '{"later":1}', 'the answer has nothing at $.now'],
    ['broken off', 200, '{"now":', 'no JSON'],
    ['busy', 503, '{}', 'answered with status 503'],
  ])('that is %s skips the run, and says why', async (_, status, text, why) => {
    const site = await siteWith((_asked, response) => void response.writeHead(status).end(text))
    const id = await site.bridge(bridgeDraft({ when: onCount, take: [zone, tariff(site.office)], send: into('tariff_price') }))
    await site.write('count', 1)
    await until(() => site.status(id).skipped === 1)
    const [run] = site.engine.bridges.runs(id)!
    expect(run!.fault?.what).toContain(why)
  })
  it('comes to no turn where the link may make no more calls, and holds up nothing for long', async () => {
    const site = await siteWith((_, response) => json(response, { now: { price: 1 } }), { perMinute: 1 })
    const id = await site.bridge(bridgeDraft({ when: onCount, take: [zone, tariff(site.office)], send: into('tariff_price') }))
    await site.write('count', 1)
    await until(() => site.value('price') === 1)
    await site.write('count', 2)
    await until(() => site.status(id).skipped === 1)
    const why = site.engine.bridges.runs(id)!.find(({ fault }) => fault)?.fault?.what
    expect(why).toContain('came to no turn within 400 ms')
    expect(site.api.asked).toHaveLength(1)
  })
  it('is not asked for on trial where that could change something', async () => {
    const site = await siteWith((_, response) => json(response, { found: 1, now: { price: 3 } }))
    const search = { name: 'found', kind: 'call', linkId: site.office, operation: 'search', given: [{ into: 'zone', from: 'zone' }] }
    const preview = (take: object[]) =>
      site.engine.bridges.preview(bridgeContract.parse(bridgeDraft({ take, send: into('1') })), null, null)
    expect((await preview([zone, search])).fault?.what).toContain('POST may change something there')
    expect((await preview([zone, tariff(site.office)])).inputs[1]).toMatchObject({ text: '{"price":3}', parts: ['price'] })
    expect(site.api.asked.map(({ method }) => method)).toEqual(['GET'])
    const trial = { topic: 'quay/1', payload: '{"people":7}' }
    const sampled = await site.engine.bridges.preview(bridgeContract.parse(bridgeDraft({ send: into('1') })), null, trial)
    expect(sampled.message).toBe(trial.payload)
  })
})

describe('a call as a destination', () => {
  it('hands in one record after the other, each under a key of its own', async () => {
    const site = await siteWith((_, response) => json(response, {}, 201))
    const id = await site.bridge(bridgeDraft({ when: onCount, take: [count], send: [handIn(site.office)] }))
    for (let n = 1; n <= 5; n++) await site.write('count', n)
    await until(() => site.status(id).destinations[0]!.delivered === 5)
    expect(bodies(site.api)).toEqual([1, 2, 3, 4, 5])
    expect(site.api.asked[0]!.body).toBe('{"n":1,"berth":"B2"}')
    expect(new Set(site.api.asked.map(({ headers }) => headers['idempotency-key'])).size).toBe(5)
  })
  it.each(['all', 'latest'])('that was taken without our hearing of it comes again under the same key (kept: %s)', async (keep) => {
    const taken = new Map<string, number>()
    let cuts = 1
    const site = await siteWith(({ headers, body }, response) => {
      taken.set(String(headers['idempotency-key']), (JSON.parse(body) as { n: number }).n)
      // it is taken, and the line breaks before that is said
      if (cuts-- > 0) response.destroy()
      else json(response, {}, 201)
    })
    const id = await site.bridge(bridgeDraft({ when: onCount, take: [count], send: [handIn(site.office, { away: { keep } })] }))
    await site.write('count', 1)
    await until(() => site.status(id).destinations[0]!.delivered === 1)
    await site.write('count', 2)
    await until(() => site.status(id).destinations[0]!.delivered === 2)
    expect(site.api.asked).toHaveLength(3)
    expect([...taken.values()]).toEqual([1, 2])
  })
  it('waits while the far side is at work on the one before, and sends no record that was settled again', async () => {
    let says = 503
    const site = await siteWith((_, response) => json(response, {}, says))
    const id = await site.bridge(bridgeDraft({ when: onCount, take: [count], send: [handIn(site.office)] }))
    for (let n = 1; n <= 3; n++) await site.write('count', n)
    await until(() => site.status(id).destinations[0]!.kept === 3 && site.status(id).destinations[0]!.fault?.code === 'http.busy')
    says = 409
    await until(() => site.status(id).destinations[0]!.fault?.code === 'http.refused')
    expect(site.status(id).destinations[0]!.refused).toBe(0)
    const settled: number[] = []
    site.api.answers(({ body }, response) => {
      const { n } = JSON.parse(body) as { n: number }
      if (settled.length >= 2 && n === 3 && settled.length < 4) json(response, {}, settled.push(-1) && 503)
      else json(response, {}, settled.push(n) && 201)
    })
    await until(() => site.status(id).destinations[0]!.delivered === 3)
    expect(settled).toEqual([1, 2, -1, -1, 3])
  })
  it('that is refused for good goes aside, and one that is not let in is kept through a restart', async () => {
    const api = await startWebApi(({ body }, response) => json(response, {}, (JSON.parse(body) as { n: number }).n === 2 ? 422 : 201))
    closing.push(() => api.stop())
    const [base, folder] = [await databaseFor(closing), stateFolderFor(closing)]
    const first: Closing = []
    const site = await bridgeSite(first, base, folder)
    const link = await site.link(linkTo(api.base))
    await site.tags([memoryTag('count', 0)])
    const id = await site.bridge(bridgeDraft({ when: onCount, take: [count], send: [handIn(link)] }))
    for (let n = 1; n <= 3; n++) await site.write('count', n)
    await until(() => site.status(id).destinations[0]!.delivered === 2)
    await until(() => site.status(id).destinations[0]!.aside === 1)
    api.answers((_, response) => json(response, {}, 401))
    await site.write('count', 4)
    await until(() => site.status(id).destinations[0]!.kept === 1 && site.status(id).destinations[0]!.fault !== null)
    expect(site.status(id).destinations[0]!.fault).toMatchObject({ code: 'http.refused' })
    await closeAll(first)
    const before = api.asked.length
    const keys = api.asked.slice(-1).map(({ headers }) => headers['idempotency-key'])
    api.answers((_, response) => json(response, {}, 201))
    const after = await bridgeSite(closing, base, folder)
    await until(() => after.status(id)?.destinations[0]?.delivered === 1)
    expect(api.asked.slice(before).map(({ headers, body }) => [headers['idempotency-key'], body])).toEqual([
      [keys[0], '{"n":4,"berth":"B2"}'],
    ])
  })
  it('waits for its operation to come back, and shows what would leave before', async () => {
    const site = await siteWith((_, response) => json(response, {}, 201))
    const draft = bridgeDraft({ when: onCount, take: [count], send: [handIn(site.office, { operation: 'renamed' })] })
    const id = await site.bridge(draft)
    await site.write('count', 9)
    await until(() => site.status(id).destinations[0]!.fault?.code === 'http.call')
    expect(site.status(id).destinations[0]!.kept).toBe(1)
    const preview = await site.engine.bridges.preview(
      bridgeContract.parse(bridgeDraft({ take: [count], send: [handIn(site.office)] })),
      null,
      null,
    )
    expect(preview.destinations[0]!.lines).toEqual(['POST /calls  {"n":9,"berth":"B2"}'])
    await site.alter(id, { ...draft, send: [handIn(site.office)] })
    await until(() => site.status(id).destinations[0]!.delivered === 1)
    expect(bodies(site.api)).toEqual([9])
  })
})

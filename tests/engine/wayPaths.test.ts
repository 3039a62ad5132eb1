import { createServer } from 'node:net'
import { afterEach, describe, expect, it } from 'vitest'
import { freePort } from '../../launcher/ports.mjs'
import { PathBook } from '#engine/diagnosis/pathBook'
import { PathWatch } from '#engine/diagnosis/pathWatch'
import { walkOf } from '#engine/rpc/walks'
import type { PathKind, Verdict } from '#shared/diagnosis'
import type { CheckStep } from '#shared/status'
import { bridgeDraft, bridgeSite, memoryTag } from '../support/bridgeSite'
import { closeAll, linkTo, metersFor, outletAt, type Closing } from '../support/engineOn'
import { testSecurity } from '../support/security'
import { until } from '../support/until'

/** How far a value comes: from a real meter through formulas and bridges to an outlet, and what is said where it ends. */

const closing: Closing = []
afterEach(() => closeAll(closing))

const siteWithMeters = async () => {
  const meters = await metersFor(closing)
  const site = await bridgeSite(closing)
  const book = new PathBook(null)
  const paths = new PathWatch({ engine: site.engine, security: await testSecurity(), book })
  closing.push(() => Promise.resolve(paths.close()))
  const patience = { connect: 800, answer: 1000, retryFirst: 200, retryMost: 500 }
  const settings = { ...linkTo(meters.port).settings, patience }
  const linkId = await site.link({ ...linkTo(meters.port), settings })
  const walk = async (of: PathKind, id: number, entry: number | null = null) => {
    const walking = walkOf({ engine: site.engine, paths }, of, id, entry)
    if ('code' in walking) throw new Error(walking.what)
    const steps = new Map<string, CheckStep>()
    let verdict: Verdict | null = null
    for await (const part of walking.start(new AbortController().signal)) {
      if ('verdict' in part) verdict = part.verdict
      else steps.set(part.step, part)
    }
    return { steps: [...steps.values()], verdict: verdict as Verdict | null }
  }
  const point = (path: string, address: string, options: object = {}, more: object = {}) => ({
    ...{ path, type: 'float32', ...more },
    source: { kind: 'point', linkId, address, options },
  })
  const formula = (path: string, text: string, inputs: Record<string, string>) => ({
    ...{ path, type: 'float64' },
    source: { kind: 'formula', formula: text, inputs },
  })
  const idOf = (path: string) => site.engine.tags.byPath(path)!.id
  const outlet = async (port: number) => {
    const [made] = (await site.change((editor) => editor.insert('outlet', [outletAt(port)]))) as { id: number }[]
    return made!.id
  }
  return { ...site, ...meters, book, linkId, walk, point, formula, idOf, outlet }
}

const shape = ({ steps }: { steps: CheckStep[] }) => steps.map(({ joint, title, flow }) => `${joint}: ${title}, ${flow}`)

describe('the way of a value', () => {
  it('goes from the meter through a formula to an outlet, with a client of ours at its door', async () => {
    const site = await siteWithMeters()
    await site.tags([site.point('power', 'holding/40'), site.formula('double', '2 * p', { p: 'power' })])
    const port = await freePort()
    await site.outlet(port)
    const isOpen = () => site.engine.status().outlets[0]?.flow === 'flowing'
    await until(() => site.qualityAt('double') === 0 && isOpen(), Boolean, 30)
    // on a busy machine an answer may be late in just that moment
    const sound = (steps: CheckStep[]) => steps.every(({ flow }) => flow === 'flowing' || flow === 'waiting')
    const walked = await until(
      () => site.walk('tag', site.idOf('double')),
      ({ steps }) => sound(steps),
    )
    expect(shape(walked)).toEqual([
      'link: Name, flowing',
      'link: Port, flowing',
      expect.stringMatching(/^link: .*, flowing$/),
      'point: This point by itself, flowing',
      'point: What it means, flowing',
      'point: It moves, flowing',
      'tag: power, flowing',
      'tag: double, flowing',
      'outlet: Outlet, flowing',
      'outlet: A client of ours, flowing',
      'consumer: Its clients, waiting',
    ])
    const groups = [...new Set(walked.steps.map(({ group }) => group))]
    expect(groups).toEqual([`Meters at ${site.port}`, 'Its point, holding/40', 'Here', `Outlet at ${port}`])
    expect(walked.verdict).toBeNull()
    expect(site.book.of('tag', site.idOf('double'))[0]).toMatchObject({ outcome: 'sound', why: 'asked' })
  })

  it('ends where an input is missing, and says which tag reads it', async () => {
    const site = await siteWithMeters()
    await site.tags([site.formula('double', '2 * p', { p: 'powr' })])
    await until(() => site.engine.tags.byPath('double') !== undefined)
    const { verdict, steps } = await site.walk('tag', site.idOf('double'))
    expect(steps[0]).toMatchObject({ title: 'powr', flow: 'broken', fault: { code: 'tag.gone' } })
    expect(verdict!.causes[0]).toMatchObject({ id: 'tag-missing', side: 'entry', where: 'In the tags here' })
  })

  it('ends at the unit that is silent, however far from the tag that is asked for', async () => {
    const site = await siteWithMeters()
    await site.tags([
      site.point('power', '12:holding/40'),
      site.point('other', 'holding/40'),
      site.formula('double', '2 * p', { p: 'power' }),
    ])
    await until(() => site.qualityAt('double') === 0)
    site.gateway.meters.find(({ unit }) => unit === 12)!.fault.fault = 'silence'
    await until(() => site.qualityAt('double') !== 0, Boolean, 15)
    const { verdict, steps } = await site.walk('tag', site.idOf('double'))
    expect(verdict!.causes[0]).toMatchObject({ id: 'unit-off', side: 'device' })
    expect(steps.filter(({ fault }) => fault).map(({ joint }) => joint)).toEqual(['point'])
    expect(steps.find(({ title }) => title === 'double')).toMatchObject({ flow: 'broken' })
  })

  it('does not dial a link that is switched off', async () => {
    const site = await siteWithMeters()
    const spare = await metersFor(closing)
    const off = await site.link({ ...linkTo(spare.port), name: 'Spare meters', on: false })
    await site.tags([{ path: 'power', type: 'float32', source: { kind: 'point', linkId: off, address: 'holding/40' } }])
    await until(() => site.engine.tags.byPath('power') !== undefined)
    const { steps } = await site.walk('tag', site.idOf('power'))
    expect(steps[0]).toMatchObject({ joint: 'link', fault: { code: 'link.off' } })
    expect(spare.accepted()).toBe(0)
  })
})

describe('a point that gives something else than it is taken for', () => {
  it.each([
    ['words in the other order', 'holding/40', { order: 'ABCD' }, 'order-or-type', /float32 CDAB/],
    ['one register too high, where nothing is', 'holding/45', {}, 'off-by-one', /holding\/44/],
    ['a table that has nothing there', 'input/40', {}, 'other-table', /holding\/40/],
    ['nothing far and wide', 'holding/900', {}, 'nothing-there', /holding\/900/],
  ])('is named: %s', async (_, address, options, cause, title) => {
    const site = await siteWithMeters()
    await site.tags([site.point('good', 'holding/64'), site.point('odd', address, options)])
    await until(() => site.qualityAt('good') === 0)
    const { verdict, steps } = await site.walk('tag', site.idOf('odd'))
    expect({ cause: verdict?.causes[0]?.id, side: verdict?.causes[0]?.side }).toEqual({ cause, side: 'entry' })
    expect(verdict!.causes[0]!.title).toMatch(title)
    expect(steps.filter(({ joint, fault }) => joint === 'link' && fault)).toEqual([])
  })

  it('is named: a value a whole range beyond its range', async () => {
    const site = await siteWithMeters()
    const more = { range: { low: 0, high: 10 }, unit: 'Hz' }
    await site.tags([site.point('frequency', 'holding/40', {}, more)])
    await until(() => site.qualityAt('frequency') === 0)
    const { verdict } = await site.walk('tag', site.idOf('frequency'))
    expect(verdict!.causes[0]!.for.join()).toContain('far beyond its range of 0 to 10')
  })

  it('is named: a measured value that stands still while others move, and a gateway of which nothing moves', async () => {
    const site = await siteWithMeters()
    await site.tags([site.point('still', 'holding/66'), site.point('moving', 'holding/40'), site.point('other', 'holding/42')])
    const paths = ['still', 'moving', 'other']
    await until(() => paths.every((path) => site.qualityAt(path) === 0))
    const { table, tags } = site.engine
    const since = (path: string, ms: number) => (table.sourceTime[tags.byPath(path)!.handle] = Date.now() - ms)
    // nobody waits an hour in a test: the table is told that it has been one
    for (const channel of site.gateway.meters[0]!.channels) if (channel.type === 'float32') channel.from = () => 0.93871
    await until(() => site.value('moving') === site.value('still'))
    since('still', 3_600_000)
    const first = await site.walk('tag', site.idOf('still'))
    expect(first.verdict!.causes[0]).toMatchObject({ id: 'source-still', side: 'device' })
    expect(first.verdict!.causes[0]!.for.join()).toContain('2 of 2 other tags of the same link moved meanwhile')
    since('moving', 3_700_000)
    since('other', 3_700_000)
    const second = await site.walk('tag', site.idOf('still'))
    expect(second.verdict!.causes[0]).toMatchObject({ id: 'gateway-still', side: 'device' })
  })
})

describe('the way of a record', () => {
  const toTag = (from: string, into: string) =>
    bridgeDraft({
      when: [{ kind: 'change', tag: from }],
      take: [{ name: 'p', kind: 'tag', path: from }],
      send: [{ kind: 'tags', number: 1, fields: [{ into, from: 'p' }] }],
    })

  it('goes from what sets it off to the receipt', async () => {
    const site = await siteWithMeters()
    await site.tags([memoryTag('power', 1), memoryTag('copy', 0)])
    const id = await site.bridge(toTag('power', 'copy'))
    await site.write('power', 2)
    await until(() => (site.engine.bridges.runs(id) ?? []).some(({ outcome }) => outcome === 'sent'))
    const { steps, verdict } = await site.walk('bridge', id)
    expect(verdict).toBeNull()
    expect(steps.map(({ title, flow }) => [title, flow])).toEqual([
      ['When power changes', 'flowing'],
      ['It ran', 'flowing'],
      ['What it takes', 'flowing'],
      ['It fits', 'flowing'],
      ['What waits', 'flowing'],
      ['Receipt', 'flowing'],
    ])
    expect(steps.at(-1)!.evidence).toMatch(/^taken within/)
  })

  it('ends at a tag that is not there, at a source that is bad, and at a receiver that is away', async () => {
    const site = await siteWithMeters()
    await site.tags([site.point('power', 'holding/40'), site.point('gone', '12:holding/900'), memoryTag('copy', 0)])
    await until(() => site.qualityAt('power') === 0)
    const missing = await site.bridge(toTag('powr', 'copy'))
    const bad = await site.bridge({ ...toTag('gone', 'copy'), name: 'From a bad tag' })
    const away = await site.link({ name: 'Store', kind: 'mqtt', settings: { host: '127.0.0.1', port: 1, patience: { connect: 300 } } })
    const topic = { kind: 'topic', number: 1, linkId: away, topic: 'power', fields: [{ into: 'p', from: 'p' }] }
    const toBroker = await site.bridge({ ...toTag('power', 'copy'), name: 'To a broker', send: [topic] })
    const stopOf = async (id: number) => {
      const { verdict, steps } = await site.walk('bridge', id)
      return { step: steps.find(({ step }) => step === verdict?.step)!, cause: verdict!.causes[0]! }
    }
    expect(await stopOf(missing)).toMatchObject({ step: { joint: 'tag' }, cause: { id: 'tag-missing', side: 'entry' } })
    expect(await stopOf(bad)).toMatchObject({ step: { title: 'When gone changes', fault: { code: 'bridge.bad-source' } } })
    // what is measured further is of the link that it stops at
    const refused = await stopOf(toBroker)
    expect(refused).toMatchObject({ step: { joint: 'receiver', group: 'Store', fault: { code: 'tcp.refused' } } })
    // another broker may run on this machine, at the usual port
    expect(['nobody-listens', 'wrong-port']).toContain(refused.cause.id)
  })
})

describe('an outlet', () => {
  it('is checked by itself when it cannot open, and says who is to do what', async () => {
    const squatter = createServer()
    const port = await new Promise<number>((resolve) =>
      squatter.listen(0, '127.0.0.1', () => resolve((squatter.address() as { port: number }).port)),
    )
    closing.push(() => new Promise((resolve) => squatter.close(resolve)))
    const site = await siteWithMeters()
    const id = await site.outlet(port)
    const stopped = () => site.book.of('outlet', id).find(({ outcome }) => outcome === 'stopped')
    await until(() => stopped() !== undefined, Boolean, 25)
    const record = stopped()
    expect(record).toMatchObject({ why: 'failure' })
    expect(record!.verdict!.causes[0]).toMatchObject({ id: 'port-taken', side: 'here', where: 'On this machine' })
  })
})

import { afterEach, describe, expect, it } from 'vitest'
import { quality } from '#core/tags/quality'
import { changeConfiguration } from '#db/configuration'
import type { LinkBrowser } from '#engine/links/driver'
import { closeAll, databaseFor, engineOn, type Closing } from '../support/engineOn'
import { checkAll, openOpcua } from '../support/opcuaSession'
import type { Wanted } from '../support/points'
import { testSecurity } from '../support/security'
import { PlainServer } from '../support/ua/plainServer'
import { variable } from '../support/ua/space'
import { status } from '../support/ua/status'
import { until } from '../support/until'
import { opcuaSettings } from '#core/opcua/settings'
import type { CheckStep } from '#shared/status'
import { plainLink } from '#shared/links/link'
import { pointTag } from '#shared/tags'

/** A server that shares no code with the product, with habits that real ones have. */

const plant = 'urn:port:berth-3'
const other = 'urn:port:berth-4'

const closing: Closing = []
afterEach(() => closeAll(closing))

const startServer = async () => {
  const server = await PlainServer.start([plant, other])
  closing.push(() => server.stop())
  server.space.add({ id: 'ns=1;s=Berth', name: 'Berth', parent: 'i=85' })
  server.space.add(variable('ns=1;s=Berth', 'Level', 'Double', 4.25))
  server.space.add(variable('ns=1;s=Berth', 'Pump', 'Int32', 7, { writable: true }))
  server.space.add({ id: 'ns=2;s=Level', name: 'Level', parent: 'i=85', variant: { type: 'Double', value: 99 } })
  return server
}

const settingsFor = (server: PlainServer, reading: Record<string, unknown> = {}) =>
  opcuaSettings.parse({
    address: `127.0.0.1:${server.port}`,
    policy: 'None',
    mode: 'None',
    identity: { kind: 'anonymous' },
    reading: { publishing: 50, sampling: 50, ...reading },
    patience: { connect: 2000, answer: 2000, retryFirst: 100, retryMost: 400 },
  })

const open = async (server: PlainServer, wanted: Wanted[], reading: Record<string, unknown> = {}) => {
  const link = openOpcua(settingsFor(server, reading), await testSecurity(), wanted)
  closing.push(() => link.session.close())
  return link
}

const uaTag = (linkId: number, path: string, address: string) => pointTag({ path, linkId, address, type: 'float64' })

const level: Wanted = { address: `nsu=${plant};s=Level`, type: 'float64' }
const pump: Wanted = { address: `nsu=${plant};s=Pump`, type: 'int32' }

describe('a server of another make', () => {
  it('is checked, watched, browsed and written', async () => {
    const server = await startServer()
    const steps = await checkAll(settingsFor(server), await testSecurity())
    expect(steps.map(({ step, fault }) => [step, fault?.what])).toEqual(steps.map(({ step }) => [step, undefined]))
    const link = await open(server, [level, pump])
    await until(() => link.value(0) === 4.25 && link.value(1) === 7)
    server.space.set('ns=1;s=Level', 4.5)
    await until(() => link.value(0) === 4.5 && link.quality(0) === quality.Good)
    expect(await link.write(1, 12)).toEqual({ ok: true })
    expect(link.value(1)).toBe(12)
    const { nodes } = await (link.session.browser() as LinkBrowser).children({ address: `nsu=${plant};s=Berth`, member: '' })
    expect(nodes.map(({ name }) => name)).toEqual(['Level', 'Pump'])
  })
})

describe('a server with room for one session only', () => {
  it('is checked over the session of the link, not beside it', async () => {
    const server = await startServer()
    server.habits.sessions = 1
    const link = await open(server, [level])
    await until(() => link.quality(0) === quality.Good)
    const steps: CheckStep[] = []
    for await (const step of link.session.check()!) steps.push(step)
    expect(steps.filter(({ flow }) => flow !== 'waiting').map(({ flow }) => flow)).toEqual(Array(8).fill('flowing'))
    expect(steps.at(-1)).toMatchObject({ step: 'value', evidence: expect.stringContaining('runs') as string })
    const beside = await checkAll(settingsFor(server), await testSecurity())
    expect(beside.find(({ fault }) => fault)?.fault?.code).toBe('opcua.too-many')
    server.cut(true)
    await until(() => link.session.check() === null)
  })
})

describe('how much it takes at once', () => {
  const many = async () => {
    const server = await startServer()
    for (let i = 0; i < 8; i++) {
      server.space.add({ id: `ns=1;s=Row${i}`, name: `Row${i}`, parent: 'ns=1;s=Berth' })
      for (let k = 0; k < 9; k++) server.space.add(variable(`ns=1;s=Row${i}`, `R${i}.C${k}`, 'Double', i * 10 + k))
    }
    return server
  }
  const below = async (browser: LinkBrowser) => {
    const names: string[] = []
    for await (const part of browser.branch({ address: '', member: '' }, new AbortController().signal)) {
      expect(part.failed).toEqual([])
      names.push(...part.points.map((point) => point.names.join('/')))
    }
    return names.sort()
  }
  const cells: Wanted[] = Array.from({ length: 72 }, (_, i) => ({
    address: `nsu=${plant};s=R${Math.floor(i / 9)}.C${i % 9}`,
    type: 'float64',
  }))

  it.each([
    ['as it tells', true],
    ['other than it tells', false],
  ])('is kept to, %s', async (_, tells) => {
    const server = await many()
    Object.assign(server.habits, { takes: { read: 11, write: 1, browse: 3, translate: 1, items: 7 }, referencesAtOnce: 4 })
    Object.assign(server.habits, { continuationPoints: 2 })
    if (tells) server.space.told = server.habits.takes
    const link = await open(server, cells)
    await until(() => cells.every((_, i) => link.value(i) === Math.floor(i / 9) * 10 + (i % 9)))
    expect(await below(link.session.browser() as LinkBrowser)).toHaveLength(75)
    expect(link.session.status()).toMatchObject({ flow: 'flowing', refused: [] })
    expect([...server.sessions.values()].map(({ left }) => left.size)).toEqual([0])
  })
})

describe('one silent subscription among living ones', () => {
  it('is read instead, told, and the others go on', async () => {
    const server = await startServer()
    const slow: Wanted = { ...pump, more: { interval: 200 } }
    const link = await open(server, [level, slow])
    await until(() => link.quality(0) === quality.Good && link.quality(1) === quality.Good)
    server.habits.silentIntervals = [200]
    await until(() => link.session.status().flow === 'late', Boolean, 30)
    expect(link.session.status().sentence).toContain('in 1 of 2 subscriptions')
    server.space.set('ns=1;s=Pump', 8)
    await until(() => link.value(1) === 8)
    server.habits.silentIntervals = []
    await until(() => link.session.status().flow === 'flowing', Boolean, 30)
  }, 60_000)
})

describe('a subscription that cannot be had again', () => {
  it('is asked for until it is there; meanwhile nothing is taken for good', async () => {
    const server = await startServer()
    const link = await open(server, [level], { readInstead: false })
    await until(() => link.quality(0) === quality.Good)
    server.habits.subscriptions = 0
    for (const { subscriptions } of server.sessions.values()) subscriptions.close()
    link.session.update(settingsFor(server, { publishing: 60, readInstead: false }))
    server.space.set('ns=1;s=Level', 6)
    await until(() => server.asked.filter((name) => name === 'CreateSubscription').length > 2)
    expect(link.session.status()).toMatchObject({ flow: 'late', fault: { code: 'opcua.too-many' } })
    expect(link.quality(0)).not.toBe(quality.Good)
    server.habits.subscriptions = Infinity
    await until(() => link.value(0) === 6 && link.quality(0) === quality.Good)
    await until(() => link.session.status().flow === 'flowing')
  })
})

describe('namespaces that move', () => {
  it('take their tags along, also those that were typed by number', async () => {
    const server = await startServer()
    const link = await open(server, [level, { address: 'ns=1;s=Level', type: 'float64' }])
    await until(() => link.value(0) === 4.25 && link.value(1) === 4.25)
    expect(link.kept.get(link.points[1]!.handle)).toBe(`nsu=${plant};s=Level`)
    server.space.move([other, plant])
    server.space.set('ns=1;s=Level', 5.5)
    server.cut(true)
    await until(() => link.value(0) === 5.5)
    await until(() => link.quality(1) === quality.Good)
    expect(link.value(1)).toBe(5.5)
  })

  it('a number that the server does not have is told', async () => {
    const server = await startServer()
    const link = await open(server, [{ address: 'ns=9;s=Level', type: 'float64' }])
    await until(() => link.quality(0) === quality.BadNodeIdUnknown)
    expect(link.session.origin(link.points[0]!.handle)?.fault?.what).toContain('no namespace number 9')
    expect(link.kept.size).toBe(0)
  })

  it('are written into the configuration as soon as they are known', async () => {
    const server = await startServer()
    const fresh = await databaseFor(closing)
    const settings = settingsFor(server)
    const { db } = fresh
    const { result } = await changeConfiguration(db, 'test', 'site', async (editor) => {
      const [link] = await editor.insert('link', [{ ...plainLink, name: 'Berth', kind: 'opcua', settings }])
      return editor.insert('tag', [uaTag(link!.id, 'berth/level', 'ns=1;s=Level'), uaTag(link!.id, 'berth/gone', 'ns=9;s=Level')])
    })
    const { valueOf, engine } = await engineOn(closing, fresh)
    const addresses = async () => (await db.selectFrom('tag').select('address').orderBy('id').execute()).map(({ address }) => address)
    await until(addresses, ([first]) => first === `nsu=${plant};s=Level`)
    expect(await addresses()).toEqual([`nsu=${plant};s=Level`, 'ns=9;s=Level'])
    await until(() => valueOf(result[0]!.id) === 4.25)
    const last = await db.selectFrom('revision').selectAll().orderBy('number', 'desc').executeTakeFirstOrThrow()
    expect(last).toMatchObject({ who: 'Engine', what: 'Kept the addresses of 1 tag by the URIs of their namespaces' })
    await until(() => engine.status().configurationRevision === last.number)
  })

  it('are asked for when a tag is saved', async () => {
    const server = await startServer()
    const link = await open(server, [level])
    await until(() => link.quality(0) === quality.Good)
    expect(link.session.lasting(['ns=2;s=Level', 'ns=9;s=Level', `nsu=${plant};i=5`])).toEqual([
      `nsu=${other};s=Level`,
      null,
      `nsu=${plant};i=5`,
    ])
  })
})

describe('a server that starts anew', () => {
  it('has its items watched again, though the subscription that took the place of the old one gives signs of life', async () => {
    const server = await startServer()
    const link = await open(server, [level])
    await until(() => link.value(0) === 4.25)
    server.cut(true)
    await until(() => link.journal.entries.some(({ text }) => text === 'Connected again.'))
    server.space.set('ns=1;s=Level', 9)
    await until(() => link.value(0) === 9 && link.quality(0) === quality.Good)
  })
})

describe('a deadband that it does not take', () => {
  it('is left out, and told', async () => {
    const server = await startServer()
    server.habits.refusesFilters = true
    const link = await open(server, [{ ...level, more: { options: { deadband: { kind: 'absolute', value: 1 } } } }])
    await until(() => link.value(0) === 4.25)
    server.space.set('ns=1;s=Level', 4.5)
    await until(() => link.value(0) === 4.5)
    const stages = link.session.origin(link.points[0]!.handle)!.stages
    expect(stages[0]!.detail).toContain('without the deadband')
    expect(link.journal.entries.map(({ text }) => text).join()).toContain('takes no deadband')
  })
})

describe('values that a type cannot hold', () => {
  it('are not passed on as something else', async () => {
    const server = await startServer()
    server.space.set('ns=1;s=Level', 11.58)
    const link = await open(server, [{ ...level, type: 'int16' }, level])
    await until(() => link.value(1) === 11.58)
    expect(link.quality(0)).toBe(quality.BadTypeMismatch)
    const origin = link.session.origin(link.points[0]!.handle)!
    expect(origin.fault).toMatchObject({ code: 'opcua.unfit', what: 'The server tells 11.58, which int16 cannot hold exactly.' })
    server.space.set('ns=1;s=Level', 12)
    await until(() => link.value(0) === 12 && link.quality(0) === quality.Good)
  })

  it('are not written as something else', async () => {
    const server = await startServer()
    const link = await open(server, [{ ...pump, type: 'float64' }, pump])
    await until(() => link.value(0) === 7)
    for (const index of [0, 1]) {
      const outcome = await link.write(index, 1.5)
      expect(outcome).toMatchObject({ ok: false, fault: { code: 'write.value' } })
      expect(server.space.read('ns=1;s=Pump', 13).variant!.value).toBe(7)
    }
  })

  it('and those that the server finds out of range are not confused', async () => {
    const server = await startServer()
    server.space.add(variable('ns=1;s=Berth', 'Setpoint', 'Double', 1, { writable: true, refusesWrites: status.BadOutOfRange }))
    const link = await open(server, [{ address: `nsu=${plant};s=Setpoint`, type: 'float64' }])
    await until(() => link.value(0) === 1)
    const outcome = await link.write(0, 5000)
    expect(outcome).toMatchObject({ ok: false, fault: { code: 'write.refused' } })
    const what = outcome.ok ? '' : outcome.fault.what
    expect(what).toContain('outside of the range that is taken there')
  })

  it('a write that is taken and cannot be read back is not told as failed', async () => {
    const server = await startServer()
    server.space.add(variable('ns=1;s=Berth', 'Command', 'Int32', 0, { writable: true, writeOnly: true }))
    const link = await open(server, [level, { address: `nsu=${plant};s=Command`, type: 'int32' }])
    await until(() => link.quality(0) === quality.Good)
    expect(await link.write(1, 3)).toEqual({ ok: true })
    expect(server.space.find('ns=1;s=Command')!.variant!.value).toBe(3)
  })
})

describe('a queue longer than one', () => {
  it('reaches whoever wants every sample whole, in order and with the times of the source; the tag has the last', async () => {
    const server = await startServer()
    const link = await open(server, [level], { publishing: 300, queue: 50 })
    await until(() => link.quality(0) === quality.Good)
    const { ring } = link.table.follow(link.points[0]!.handle, 100)
    const told: number[][] = []
    link.table.listen((handles) => told.push([...handles]))
    const sent = Array.from({ length: 40 }, (_, i) => i + 0.5)
    for (const value of sent) {
      server.space.set('ns=1;s=Level', value)
      await new Promise((resolve) => setTimeout(resolve, 2))
    }
    await until(() => link.value(0) === 39.5)
    const samples = ring.drain()
    expect(samples.map(({ value }) => value)).toEqual([4.25, ...sent])
    const times = samples.slice(1).map(({ sourceTime }) => sourceTime)
    expect(times).toEqual([...times].sort((a, b) => a - b))
    expect(new Set(times).size).toBeGreaterThan(10)
    expect(samples.every((sample) => sample.quality === quality.Good)).toBe(true)
    expect(ring.lost).toBe(0)
    expect(told.length).toBeLessThan(sent.length)
  })
})

import type { OPCUAServer } from 'node-opcua'
import { afterEach, describe, expect, it } from 'vitest'
import { quality } from '#core/tags/quality'
import { changeConfiguration } from '#db/configuration'
import { freePort } from '../../launcher/ports.mjs'
import { startArm } from '../support/arm'
import { closeAll, databaseFor, engineOn, linkTo, metersFor, powerTag, type Closing } from '../support/engineOn'
import { openSession, settingsFor } from '../support/modbusSession'
import { armNode, openOpcua, opcuaSettingsFor } from '../support/opcuaSession'
import { relayTo } from '../support/relay'
import { testSecurity } from '../support/security'
import { until } from '../support/until'
import { thingOf } from '#db/rows'
import type { TagDraft } from '#shared/tags'

/** Good means known good: from the present source, address and type. */

const closing: Closing = []
afterEach(() => closeAll(closing))

const waits = quality.BadWaitingForInitialData

/** A link with a tag that is Good, to meters that can be made silent. */
const oneTag = async () => {
  const meters = await metersFor(closing)
  const base = await databaseFor(closing)
  const started = await engineOn(closing, base)
  const { result } = await changeConfiguration(base.db, 'test', 'made', async (editor) => {
    const [link] = await editor.insert('link', [linkTo(meters.port)])
    const [tag] = await editor.insert('tag', [powerTag(link!.id, 'power')])
    return { link: link!, tag: tag! }
  })
  await until(() => started.engine.status().goodTags === 1)
  const silence = () => meters.gateway.meters.forEach(({ fault }) => (fault.fault = 'silence'))
  const applied = (revision: number) => until(() => started.engine.effectOf(revision).state === 'in force')
  return { ...meters, ...base, ...started, ...result, silence, applied }
}

/** What is changed of a tag; of its source the rest stays. */
const patchOf = (row: unknown, patch: object) => {
  const { source } = thingOf('tag', row)
  return ('source' in patch ? { source: { ...source, ...(patch.source as object) } } : patch) as Partial<TagDraft>
}

describe('a tag that gets another source', () => {
  it.each([
    ['address', { source: { address: 'holding/42' } }],
    ['type', { type: 'int16' as const }],
    ['word order', { source: { options: { order: 'ABCD' } } }],
    ['scaling', { scaling: { gain: 0.1, offset: 0 } }],
    ['unit to be converted', { rawUnit: 'kW', unit: 'MW' }],
    ['choice for odd values', { odd: { nan: 'pass' as const } }],
    [
      'ranges',
      {
        scaling: {
          kind: 'ranges' as const,
          raw: { low: 0, high: 9 },
          to: { low: 0, high: 1 },
          curve: 'linear' as const,
          clamp: 'none' as const,
          inverted: false,
        },
      },
    ],
  ])('waits for it from that moment: another %s', async (_, patch) => {
    const { db, tag, silence, applied, valueOf, qualityOf } = await oneTag()
    silence()
    const { revision } = await changeConfiguration(db, 'test', 'changed', (editor) => editor.update('tag', tag, patchOf(tag, patch)))
    await applied(revision)
    expect([valueOf(tag.id), qualityOf(tag.id)]).not.toContain(quality.Good)
    expect(valueOf(tag.id)).toBeUndefined()
  })

  it('keeps what it has where only name, unit or access change', async () => {
    const { db, tag, applied, valueOf, qualityOf } = await oneTag()
    const before = valueOf(tag.id)
    const { revision } = await changeConfiguration(db, 'test', 'changed', (editor) =>
      editor.update('tag', tag, { path: 'other/name', unit: 'kW', access: 'readwrite' }),
    )
    await applied(revision)
    expect(qualityOf(tag.id)).toBe(quality.Good)
    expect(valueOf(tag.id)).toBe(before)
  })

  it('waits also where its link goes elsewhere, or another unit is meant', async () => {
    const { db, link, tag, silence, applied, valueOf, qualityOf, engine } = await oneTag()
    silence()
    const settings = link.settings as Record<string, unknown>
    const unit = await changeConfiguration(db, 'test', 'unit', (editor) =>
      editor.update('link', link, { settings: { ...settings, unit: 12 } as never }),
    )
    await applied(unit.revision)
    expect([valueOf(tag.id), qualityOf(tag.id)]).toEqual([undefined, waits])
    const { revision } = await changeConfiguration(db, 'test', 'host', async (editor) =>
      editor.update('link', unit.result, { settings: { ...settings, port: await freePort() } as never }),
    )
    await applied(revision)
    expect(valueOf(tag.id)).toBeUndefined()
    await until(() => qualityOf(tag.id) === quality.BadNotConnected)
    expect(engine.status().goodTags).toBe(0)
  })
})

describe('a unit that is left out', () => {
  const hour = 3_600_000
  it('is told at once by tags that join it, and all come back with it, however long their interval', async () => {
    const { port, gateway } = await metersFor(closing)
    const settings = settingsFor(port, { patience: { answer: 50 }, leaveOut: { after: 2, for: 700 } })
    const slow = [{ address: '11:holding/40', type: 'float32' as const, more: { interval: hour } }]
    const link = openSession(settings, [{ address: '11:holding/42', type: 'float32' }, ...slow])
    closing.push(() => link.session.close())
    await until(() => link.quality('11:holding/40') === quality.Good)
    gateway.meters[0]!.fault.fault = 'silence'
    await until(() => link.quality('11:holding/40') === quality.BadNoCommunication)
    const late = { ...link.points[0]!, handle: link.table.allocate(), address: '11:holding/60' }
    link.session.setPoints([late], [])
    await until(() => link.table.quality[late.handle] === quality.BadNoCommunication, Boolean, 1)
    gateway.meters[0]!.fault.fault = null
    await until(() => link.quality('11:holding/40') === quality.Good && link.table.quality[late.handle] === quality.Good)
  })
})

describe('a handle that goes to another tag', () => {
  it('gets no reply that was under way for its last', async () => {
    const { port } = await metersFor(closing)
    const relay = await relayTo(port)
    closing.push(() => relay.close())
    const [gone, stays] = ['11:holding/40', '11:holding/42']
    const settings = settingsFor(relay.port, { patience: { answer: 5000 }, interval: 50 })
    const {
      session,
      table,
      points,
      quality: qualityOf,
    } = openSession(settings, [
      { address: gone, type: 'float32' },
      { address: stays, type: 'float32' },
    ])
    closing.push(() => session.close())
    await until(() => qualityOf(gone) === quality.Good && qualityOf(stays) === quality.Good)
    const [first, second] = points.map(({ handle }) => handle) as [number, number]
    relay.hold()
    const heldAt = Date.now()
    await until(() => Date.now() - heldAt > 200)
    session.setPoints([], [first])
    table.release(first)
    expect(table.allocate()).toBe(first)
    relay.letGo()
    await until(() => table.seenAt[second]! > heldAt + 200)
    expect([table.values[first], table.quality[first]]).toEqual([undefined, waits])
  })
})

describe('a write', () => {
  it('that could not be sent in time is not sent later', async () => {
    const { port, gateway } = await metersFor(closing)
    const meter = gateway.meters[0]!
    const settings = settingsFor(port, { patience: { answer: 600 }, leaveOut: { after: 0 }, writes: { within: 200 } })
    const link = openSession(settings, [{ address: '11:holding/90', type: 'float32', more: { options: { order: 'CDAB' } } }])
    closing.push(() => link.session.close())
    await until(() => link.quality('11:holding/90') === quality.Good)
    const before = link.value('11:holding/90')
    meter.fault.fault = 'silence'
    const outcomes = await Promise.all([link.write('11:holding/90', 601), link.write('11:holding/90', 602)])
    expect(outcomes.map((outcome) => !outcome.ok && outcome.fault.code)).toEqual(['write.unknown', 'write.expired'])
    meter.fault.fault = null
    await until(() => link.quality('11:holding/90') === quality.Good)
    expect(link.value('11:holding/90')).toBe(before)
  })

  it('that went wrong on our side does not hold up those behind it', async () => {
    const { port } = await metersFor(closing)
    const link = openSession(settingsFor(port), [{ address: '11:holding/90', type: 'float32', more: { options: { order: 'CDAB' } } }])
    closing.push(() => link.session.close())
    await until(() => link.quality('11:holding/90') === quality.Good)
    const lane = link.session['lanes'][0]!
    const write = lane.write.bind(lane)
    lane.write = () => Promise.reject(new Error('no such wire'))
    expect(await link.write('11:holding/90', 610)).toMatchObject({ ok: false, fault: { code: 'ours.unexpected' } })
    lane.write = write
    expect(await link.write('11:holding/90', 620)).toEqual({ ok: true })
  })
})

/** The server's own subscriptions; without its timer one is as good as dead. */
const subscriptionsOf = (server: OPCUAServer) => {
  const { _sessions } = server.engine as unknown as { _sessions: Record<string, { publishEngine: { subscriptions: Stoppable[] } }> }
  return Object.values(_sessions).flatMap(({ publishEngine }) => publishEngine.subscriptions)
}
interface Stoppable {
  publishingInterval: number
  _stop_timer(): void
}

describe('over OPC UA', () => {
  const asConduit = { identity: { kind: 'password', user: 'conduit', password: { plain: 'plug-and-socket' } } }

  const behindRelay = async (wanted: Parameters<typeof openOpcua>[2], more: Record<string, unknown> = {}) => {
    const plant = await startArm(1)
    closing.push(() => plant.stop())
    const relay = await relayTo(plant.port)
    closing.push(() => relay.close())
    const settings = opcuaSettingsFor(relay.port, { patience: { connect: 1000, answer: 1000, retryFirst: 100, retryMost: 400 }, ...more })
    const link = openOpcua(settings, await testSecurity(), wanted)
    closing.push(() => link.session.close())
    await until(() => link.quality(0) === quality.Good)
    return { plant, relay, link, settings }
  }

  it('a write that was told to have failed does not reach the server afterwards', async () => {
    const { plant, relay, link } = await behindRelay([{ address: armNode('Plug.Target.Extension'), type: 'float64' }], asConduit)
    const before = plant.arm.state.targetExtension
    relay.hold()
    expect(await link.write(0, before + 1)).toMatchObject({ ok: false })
    relay.letGo()
    await until(() => link.session.status().flow === 'flowing' && link.quality(0) === quality.Good)
    await new Promise((resolve) => setTimeout(resolve, 500))
    expect(plant.arm.state.targetExtension).toBe(before)
  }, 60_000)

  it('a link that signs in as somebody else waits for what that one gets', async () => {
    const { link, settings, relay } = await behindRelay([{ address: armNode('Plug.Target.Extension'), type: 'float64' }])
    relay.hold()
    link.session.update({ ...settings, ...opcuaSettingsFor(relay.port, asConduit) })
    expect([link.value(0), link.quality(0)]).toEqual([undefined, waits])
    await until(() => link.quality(0) !== quality.Good)
  }, 60_000)

  it('one silent subscription among living ones is told, its tags alone are doubted, and read instead', async () => {
    const { plant, link } = await behindRelay([
      { address: armNode('Plug.Position.Extension'), type: 'float32', more: { interval: 50 } },
      { address: armNode('Plug.Position.Slew'), type: 'float32', more: { interval: 200 } },
    ])
    await until(() => link.quality(1) === quality.Good)
    subscriptionsOf(plant.server['server']!)
      .find(({ publishingInterval }) => publishingInterval === 200)!
      ._stop_timer()
    const codes = new Set<number>()
    link.table.listen(() => codes.add(link.quality(0)))
    const status = await until(
      () => link.session.status(),
      ({ fault }) => fault?.code === 'opcua.silent-publish',
    )
    expect(status.sentence).toMatch(/in 1 of 2 subscriptions/)
    plant.arm.state.slew = 12.5
    await until(() => link.value(1) === 12.5 && link.quality(1) === quality.Good)
    expect([...codes]).toEqual([quality.Good])
    const told = () => link.journal.entries.filter(({ text }) => text.startsWith('Reads work')).length
    expect(told()).toBe(1)
    await until(() => link.session.status().flow === 'flowing', Boolean, 40)
    expect(told()).toBe(1)
    expect(link.journal.entries.filter(({ text }) => text.startsWith('Notifications come again'))).toHaveLength(1)
  }, 80_000)
})

import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest'
import { quality, qualityName } from '#core/tags/quality'
import { namesText } from '#core/tags/valueNames'
import { armNamespace } from '#standins/opcua/armNodes'
import type { Security } from '#engine/trust/security'
import { startArm } from '../support/arm'
import { armNode, checkAll, openOpcua, opcuaSettingsFor, trusting } from '../support/opcuaSession'
import { testSecurity } from '../support/security'
import { until } from '../support/until'

let plant: Awaited<ReturnType<typeof startArm>>
let security: Security
const closing: (() => Promise<void>)[] = []

beforeAll(async () => {
  plant = await startArm(1, 300)
  security = await testSecurity()
}, 30_000)
afterEach(async () => {
  for (const close of closing.splice(0)) await close()
})
afterAll(() => plant.stop())

const open = (wanted: Parameters<typeof openOpcua>[2], more: Record<string, unknown> = {}) => {
  const link = openOpcua(opcuaSettingsFor(plant.port, more), security, wanted)
  closing.push(() => link.session.close())
  return link
}

const allGood = (link: ReturnType<typeof openOpcua>) =>
  until(
    () => link.points.every((_, i) => link.quality(i) === quality.Good),
    (good) => good,
  )

describe('watching', () => {
  it('brings scalars, text, times, arrays, wide integers and members of structures, each in its type', async () => {
    const link = open([
      { address: armNode('Plug.Position.Extension'), type: 'float32' },
      { address: armNode('Global.SerialNumber'), type: 'string' },
      { address: armNode('Global.HomedAt'), type: 'datetime' },
      { address: armNode('Plug.Position.Limits'), type: 'float32[]' },
      { address: armNode('Global.Operations'), type: 'uint64' },
      { address: armNode('Plug.Position.InEnvelope'), type: 'bool' },
      { address: armNode('Plug.Position.Actual'), type: 'float32', more: { options: { member: 'Target.Slew' } } },
      { address: armNode('Plug.Position.Limits'), type: 'float32', more: { options: { member: '[3]' } } },
    ])
    await allGood(link)
    const { state } = plant.arm
    expect(link.value(0)).toBeCloseTo(state.extension, 5)
    expect(link.value(1)).toBe('CA-2017')
    expect(link.value(2)).toBe(state.homedAt)
    expect(link.value(3)).toEqual([0, 4.5, -90, 90, -10, 80])
    expect(link.value(4)).toBe(18_205n)
    expect(link.value(5)).toBe(true)
    expect(link.value(6)).toBeCloseTo(state.targetSlew, 5)
    expect(link.value(7)).toBe(90)
    expect(link.session.status()).toMatchObject({ flow: 'flowing', sentence: expect.stringMatching(/7 items in 1 subscription/) as string })
  })

  it('follows a change at the source, and keeps the source’s time', async () => {
    const link = open([{ address: armNode('Plug.Target.Extension'), type: 'float32' }])
    await allGood(link)
    plant.arm.state.targetExtension = 2.5
    await until(
      () => link.value(0),
      (value) => value === 2.5,
    )
    expect(Math.abs(link.sourceTime(0) - Date.now())).toBeLessThan(2000)
    plant.arm.state.targetExtension = 1.3
  })

  it('says which nodes the server does not have, by code and in words, while the others flow', async () => {
    const link = open([
      { address: armNode('Plug.Position.Extension'), type: 'float32' },
      { address: armNode('Plug.Position.Nowhere'), type: 'float32' },
      { address: 'nsu=urn:another:plant;s=Tank', type: 'float32' },
    ])
    await until(
      () =>
        link.quality(0) === quality.Good && link.quality(1) === quality.BadNodeIdUnknown && link.quality(2) === quality.BadNodeIdUnknown,
      (settled) => settled,
    )
    const status = link.session.status()
    expect(status).toMatchObject({ flow: 'flowing', sentence: expect.stringContaining('2 tags not given by the server') as string })
    expect(status.refused!.map(({ address, why }) => [address, why])).toEqual([
      [armNode('Plug.Position.Nowhere'), expect.stringContaining('no node') as string],
      ['nsu=urn:another:plant;s=Tank', expect.stringContaining('no namespace urn:another:plant') as string],
    ])
  })

  it('reads a value as another type where nothing is lost, and refuses where something would be', async () => {
    const link = open([
      { address: armNode('Reel.Step'), type: 'float64' },
      { address: armNode('Global.SerialNumber'), type: 'float64' },
      { address: armNode('Plug.Position.InEnvelope'), type: 'string' },
    ])
    await until(
      () => link.quality(1),
      (code) => code === quality.BadTypeMismatch,
    )
    expect(link.value(0)).toBe(plant.arm.state.step)
    expect(link.value(2)).toBe('true')
  })
})

describe('writing', () => {
  const asConduit = { identity: { kind: 'password', user: 'conduit', password: { plain: 'plug-and-socket' } } }

  it('writes with the node’s own type and reads back what the server holds', async () => {
    const link = open([{ address: armNode('Plug.Target.Extension'), type: 'float64' }], asConduit)
    await allGood(link)
    expect(await link.write(0, 3.25)).toEqual({ ok: true })
    expect(plant.arm.state.targetExtension).toBe(3.25)
    expect(link.value(0)).toBe(3.25)
  })

  it('tells the server’s refusal in words: a stranger may not, and nobody may write what is read-only', async () => {
    const stranger = open([{ address: armNode('Plug.Target.Extension'), type: 'float32' }])
    await allGood(stranger)
    expect(await stranger.write(0, 1)).toMatchObject({ ok: false, fault: { code: 'write.refused', evidence: 'BadUserAccessDenied' } })
    const link = open([{ address: armNode('Reel.Step'), type: 'int16' }], asConduit)
    await allGood(link)
    expect(await link.write(0, 7)).toMatchObject({ ok: false, fault: { code: 'write.refused', evidence: 'BadNotWritable' } })
    expect(await link.write(0, 70_000)).toMatchObject({ ok: false, fault: { code: 'write.value' } })
    expect(await link.write(0, 'many')).toMatchObject({ ok: false, quality: quality.BadTypeMismatch })
  })
})

describe('after a break', () => {
  it('takes up session and items when only the connection was lost', async () => {
    const link = open([{ address: armNode('Plug.Position.Extension'), type: 'float32' }])
    await allGood(link)
    plant.server.dropConnections()
    await until(
      () => link.quality(0),
      (code) => code !== quality.Good,
    )
    await allGood(link)
    expect(link.journal.entries.map(({ text }) => text)).toContain('Connected again.')
    plant.arm.state.extension = 2.125
    await until(
      () => link.value(0),
      (value) => value === 2.125,
    )
  })

  it('signs in anew when the server dropped the sessions, without a second set of items', async () => {
    const link = open([{ address: armNode('Plug.Position.Slew'), type: 'float32' }])
    await allGood(link)
    plant.server.dropSessions()
    await until(
      () => link.quality(0),
      (code) => code !== quality.Good,
    )
    await allGood(link)
    plant.arm.state.slew = 33
    await until(
      () => link.value(0),
      (value) => value === 33,
    )
    expect(link.session.status().sentence).toMatch(/1 item in 1 subscription/)
  })

  it('finds its nodes by namespace URI after a restart with another order, and never shows a stranger’s value', async () => {
    const link = open([{ address: armNode('Plug.Position.Extension'), type: 'float64' }])
    await allGood(link)
    const seen = new Set<unknown>()
    const stop = link.table.listen(() => seen.add(link.value(0)))
    await plant.server.setFault('reordered', true)
    await until(
      () => link.quality(0) === quality.Good && link.session.status().flow === 'flowing',
      (back) => back,
      20,
    )
    stop()
    expect(seen.has(-999)).toBe(false)
    expect(link.value(0)).toBeCloseTo(plant.arm.state.extension, 4)
    await plant.server.setFault('reordered', false)
  }, 40_000)
})

describe('notifications that stay out', () => {
  it('are told from a lost connection, and values are read instead', async () => {
    const link = open([{ address: armNode('Plug.Position.Extension'), type: 'float32' }], { reading: { publishing: 100, sampling: 50 } })
    await allGood(link)
    await plant.server.setFault('publishes-nothing', true)
    const status = await until(
      () => link.session.status(),
      ({ fault }) => fault?.code === 'opcua.silent-publish',
      20,
    )
    expect(status).toMatchObject({ flow: 'late', sentence: expect.stringMatching(/Reads work, but nothing has been published/) as string })
    plant.arm.state.extension = 0.75
    await until(
      () => link.value(0),
      (value) => value === 0.75,
    )
    await plant.server.setFault('publishes-nothing', false)
    await until(
      () => link.session.status().flow,
      (flow) => flow === 'flowing',
      40,
    )
  }, 80_000)
})

describe('looking around', () => {
  it('shows scopes by their full path, opens structures and arrays, and gives type, unit and range', async () => {
    const link = open([])
    const browser = await until(
      () => link.session.browser(),
      (found) => !('code' in found),
    )
    if ('code' in browser) throw new Error('no browser')
    const root = await browser.children({ address: '', member: '' })
    expect(root.nodes.map(({ name }) => name)).toContain('CableArm')
    const plug = await browser.children({ address: armNode('Plug.Position'), member: '' })
    expect(plug.nodes.map(({ name }) => name)).toEqual(['Extension', 'Slew', 'Elevation', 'InEnvelope', 'SeatForce', 'Limits', 'Actual'])
    const actual = await browser.children({ address: armNode('Plug.Position.Actual'), member: '' })
    expect(actual.nodes.map(({ member }) => member)).toEqual(['Extension', 'Slew', 'Elevation', 'InEnvelope', 'Target'])
    const target = await browser.children({ address: armNode('Plug.Position.Actual'), member: 'Target' })
    expect(target.nodes.map(({ member }) => member)).toEqual(['Target.Extension', 'Target.Slew'])
    const [extension, envelope, slew, folder] = await browser.details([
      { address: armNode('Plug.Position.Extension'), member: '' },
      { address: armNode('Plug.Position.Actual'), member: 'InEnvelope' },
      { address: armNode('Plug.Position.Actual'), member: 'Target.Slew' },
      { address: armNode('Plug.Position'), member: '' },
    ])
    expect(extension).toMatchObject({
      type: 'float32',
      typeName: 'Float',
      access: 'read',
      unit: 'm',
      range: { low: 0, high: 4.5 },
      samplesEvery: 50,
    })
    expect(envelope).toMatchObject({ type: 'bool' })
    expect(slew).toMatchObject({ type: 'float32', typeName: 'Float' })
    expect(folder).toMatchObject({ type: null, children: 7 })
  })

  it('tells what values are called: by their properties, or by the enumeration that is their type', async () => {
    const link = open([])
    const browser = await until(
      () => link.session.browser(),
      (found) => !('code' in found),
    )
    if ('code' in browser) throw new Error('no browser')
    const places = [armNode('Reel.Step'), armNode('Safety.Clamped'), 'i=2259', armNode('Reel.Extension')]
    const told = await browser.details(places.map((address) => ({ address, member: '' })))
    expect(told.map(({ type, names }) => [type, names && namesText(names)])).toEqual([
      ['int16', '10 = reaches out; 40 = coupled; 70 = draws back'],
      ['bool', '0 = free; 1 = clamped'],
      ['int32', expect.stringMatching(/^0 = Running; 1 = Failed; /)],
      ['float32', undefined],
    ])
  })

  it('finds by name and by path, and takes a branch whole', async () => {
    const link = open([])
    const browser = await until(
      () => link.session.browser(),
      (found) => !('code' in found),
    )
    if ('code' in browser) throw new Error('no browser')
    const paths = async (text: string) => {
      const found: string[] = []
      for await (const part of browser.search(text, new AbortController().signal))
        found.push(...part.found.map(({ names }) => names.join('/')))
      return found
    }
    expect(await paths('extension')).toEqual([
      'CableArm/Global/Extension',
      'CableArm/Programs/Reel/Extension',
      'CableArm/Programs/Plug/Position/Extension',
      'CableArm/Programs/Plug/Target/Extension',
    ])
    expect(await paths('position/ext')).toEqual(['CableArm/Programs/Plug/Position/Extension'])
    let points = 0
    for await (const part of browser.branch({ address: armNode('Diagnostics'), member: '' }, new AbortController().signal))
      points += part.points.length
    expect(points).toBe(300)
  })
})

describe('certificates', () => {
  const secured = { policy: 'Basic256Sha256', mode: 'SignAndEncrypt' }
  const stepOf = async (name: string, more: Record<string, unknown> = secured) =>
    (await checkAll(opcuaSettingsFor(plant.port, more), security)).find(({ step }) => step === name)!

  it('stops at one that nobody decided about, and shows it', async () => {
    security.trust.set([])
    const theirs = await stepOf('theirs')
    expect(theirs.fault?.code).toBe('certificate.unknown')
    expect(theirs.certificate).toMatchObject({
      facts: { name: 'Cable arm berth 1', applicationUri: 'urn:harrow-sound:cable-arm:1', selfSigned: true },
      problems: [],
    })
  })

  it('says what to press there when the far side refuses ours, and flows by itself once that is done', async () => {
    security.trust.set([trusting(plant.server.certificate)])
    const link = open([{ address: armNode('Plug.Position.Extension'), type: 'float32' }], secured)
    const status = await until(
      () => link.session.status(),
      ({ fault }) => fault?.code === 'opcua.we-are-refused',
      10,
    )
    expect(status.fault?.next).toContain('Keen Conduit on')
    const waiting = plant.server.clients().find(({ trusted }) => !trusted)!
    expect(waiting.fingerprint).toBe(security.own.facts.fingerprint)
    expect(await plant.server.trust(waiting.fingerprint)).toBe(true)
    await allGood(link)
    expect(link.session.status().flow).toBe('flowing')
    security.trust.set([])
    await until(
      () => link.session.status().fault?.code,
      (code) => code === 'certificate.unknown',
    )
    expect(qualityName(link.quality(0))).toBe('BadNotConnected')
  }, 30_000)

  it('a decision turns a waiting link to flowing at once, and a refusal is told as one', async () => {
    security.trust.set([trusting(plant.server.certificate, 'refused')])
    expect((await stepOf('theirs')).fault?.code).toBe('certificate.refused')
    const link = open([{ address: armNode('Plug.Position.Extension'), type: 'float32' }], {
      ...secured,
      patience: { retryFirst: 60_000, retryMost: 60_000 },
    })
    await until(
      () => link.session.status().fault?.code,
      (code) => code === 'certificate.refused',
    )
    security.trust.set([trusting(plant.server.certificate)])
    await allGood(link)
  }, 20_000)

  it.each([
    ['expired', 'certificate.expired'],
    ['not-yet', 'certificate.not-yet'],
    ['other-host', 'certificate.host'],
    ['short-key', 'certificate.key-short'],
  ] as const)(
    'names what is wrong with one that is %s',
    async (odd, code) => {
      await plant.server.setFault(odd, true)
      const der = plant.server.certificate
      security.trust.set([trusting(der)])
      expect((await stepOf('theirs')).fault?.code).toBe(code)
      if (odd !== 'short-key') {
        security.trust.set([trusting(der, 'trusted', [odd === 'other-host' ? 'host' : odd])])
        expect((await stepOf('theirs')).fault).toBeNull()
      }
      await plant.server.setFault(odd, false)
    },
    20_000,
  )

  it('every policy and mode that is offered carries values once both sides trust', async () => {
    security.trust.set([trusting(plant.server.certificate)])
    await plant.server.trustCertificate(security.own.der)
    for (const policy of ['Basic256Sha256', 'Aes128_Sha256_RsaOaep', 'Aes256_Sha256_RsaPss'])
      for (const mode of ['Sign', 'SignAndEncrypt']) expect((await stepOf('value', { policy, mode })).fault, `${policy} ${mode}`).toBeNull()
  }, 30_000)
})

describe('bad input and odd servers', () => {
  it('a wrong password, a policy that is not offered, and a service that is no OPC UA are each named', async () => {
    const wrong = { identity: { kind: 'password', user: 'conduit', password: { plain: 'guess' } } }
    const at = async (name: string, more: Record<string, unknown>) =>
      (await checkAll(opcuaSettingsFor(plant.port, more), security)).find(({ step }) => step === name)!.fault
    expect((await at('signin', wrong))?.code).toBe('opcua.user-refused')
    const { createServer } = await import('node:http')
    const web = createServer((_request, response) => response.end('hello'))
    await new Promise<void>((resolve) => web.listen(0, '127.0.0.1', resolve))
    const { port } = web.address() as { port: number }
    expect((await at('hello', { address: `127.0.0.1:${port}` }))?.code).toBe('opcua.not-opcua')
    web.close()
    expect((await at('port', { address: '127.0.0.1:1' }))?.code).toBe('tcp.refused')
    expect((await at('name', { address: 'nobody.quay.invalid' }))?.code).toBe('name.unknown')
  })

  it('an endpoint that names a host nobody knows is used by the address that answered', async () => {
    await plant.server.setFault('wrong-host', true)
    const steps = await checkAll(opcuaSettingsFor(plant.port), security)
    expect(steps.every(({ flow }) => flow === 'flowing')).toBe(true)
    await plant.server.setFault('wrong-host', false)
  }, 20_000)

  it('a clock that is wrong is told where the first value is read', async () => {
    await plant.server.setFault('clock-wrong', true)
    const steps = await checkAll(opcuaSettingsFor(plant.port), security)
    expect(steps.find(({ step }) => step === 'value')!.evidence).toMatch(/its clock is 2 h behind ours/)
    await plant.server.setFault('clock-wrong', false)
  })
})

describe('namespaces', () => {
  it('are the arm’s own', () => expect(armNamespace(1)).toBe('urn:harrow-sound:cable-arm:1:program'))
})

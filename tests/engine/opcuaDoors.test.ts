import { afterEach, describe, expect, it } from 'vitest'
import { MessageSecurityMode, OPCUAClient, SecurityPolicy, UserTokenType } from 'node-opcua'
import { quality } from '#core/tags/quality'
import { tagNamespace } from '#engine/outlets/opcua/addressSpace'
import { securedClient } from '#engine/opcua/dialling'
import type { Security } from '#engine/trust/security'
import { freePort } from '../../launcher/ports.mjs'
import { opcuaSettingsFor, trusting } from '../support/opcuaSession'
import { named, openOutlet, securedScada, withPassword } from '../support/outlet'
import { endpointsByWire } from '../support/ua/endpoints'
import { until } from '../support/until'
import { Wire } from '#engine/wire/wire'

/** Doors of an outlet: who is let in by which, who waits, and what happens to the others meanwhile. */

const closing: (() => Promise<unknown>)[] = []
afterEach(async () => {
  for (const close of closing.splice(0).reverse()) await close()
})

const encrypted = { policies: ['Basic256Sha256'], modes: ['SignAndEncrypt'] }

const serve = async (settings: object) => {
  const outlet = await openOutlet(settings, {
    write: (handle, value) => {
      outlet.table.set(handle, value, quality.Good, Date.now())
      return Promise.resolve({ ok: true })
    },
  })
  const { session, table } = outlet
  closing.push(() => session.close())
  const limit = outlet.tag('limit', { writable: true, unit: 'kW' })
  session.setTags([limit], [])
  table.set(limit.handle, 1, quality.Good, Date.now())
  await until(() => session.status().details!.doors.length > 0 && session.status().details!.doors.every(({ flow }) => flow !== 'late'))
  return outlet
}

const scada = (outlet: { security: Security }, port: number) => securedScada(outlet.security.own.der, port, closing)

describe('the door', () => {
  it('keeps strangers out and shows who waits; once let in they come in, and once trust is taken back they are out', async () => {
    const port = await freePort()
    const outlet = await serve({ doors: [{ port, ...encrypted }] })
    const client = await scada(outlet, port)
    await expect(client.dial()).rejects.toThrow(/BadSecurityChecksFailed|BadCertificateUntrusted/)
    await expect(client.dial()).rejects.toThrow()
    const [knock] = outlet.session.status().details.waiting
    expect(knock).toMatchObject({ tries: 2, facts: { fingerprint: client.security.own.facts.fingerprint } })
    expect(knock!.from).toMatch(/127\.0\.0\.1/)
    expect(outlet.journal.entries.map(({ text }) => text)).toContainEqual(expect.stringMatching(/is at the door/))
    outlet.security.trust.set([trusting(client.security.own.der)])
    const inside = await client.dial()
    expect(await inside.value('limit')).toBe(1)
    expect(outlet.session.status()).toMatchObject({
      details: { waiting: [] },
      clients: [{ security: expect.stringMatching(/Basic256Sha256/) as string }],
    })
    outlet.security.trust.set([trusting(client.security.own.der, 'refused')])
    await until(() => outlet.session.status().clients.length === 0)
    await expect(client.dial()).rejects.toThrow()
    expect(outlet.session.status().details.waiting).toEqual([])
  }, 30_000)

  it('takes names with their passwords, and lets only those write who may', async () => {
    const port = await freePort()
    const users = [
      { name: 'scada', key: withPassword('in-the-control-room'), rules: [{ folder: '', may: 'write' }] },
      { name: 'panel', key: withPassword('on-the-quay-side') },
    ]
    const outlet = await serve({ doors: [{ port, ...encrypted, anonymous: false, names: true }], users })
    const client = await scada(outlet, port)
    outlet.security.trust.set([trusting(client.security.own.der)])
    await expect(client.dial()).rejects.toThrow(/ANONYMOUS/)
    await expect(client.dial(named('scada', 'guess'))).rejects.toThrow(/BadUserAccessDenied|BadIdentityTokenRejected/)
    await expect(client.dial(named('nobody', 'of nobody'))).rejects.toThrow(/BadUserAccessDenied|BadIdentityTokenRejected/)
    const writer = await client.dial(named('scada', 'in-the-control-room'))
    expect(await writer.write(tagNamespace, 'limit', 7)).toBe('Good')
    expect(outlet.written.map(({ value }) => value)).toEqual([7])
    const reader = await client.dial(named('panel', 'on-the-quay-side'))
    expect(await reader.value('limit')).toBe(7)
    expect(await reader.write(tagNamespace, 'limit', 8)).toBe('BadUserAccessDenied')
    expect(outlet.written.map(({ value }) => value)).toEqual([7])
  }, 30_000)
})

describe('our certificate', () => {
  it('is shown at every door, and so is the one that takes its place', async () => {
    const port = await freePort()
    const outlet = await serve({ doors: [{ port, ...encrypted }] })
    const shown = async () => (await endpointsByWire('127.0.0.1', port))[0]!.certificate
    const before = outlet.security.own.der
    expect((await shown()).equals(before)).toBe(true)
    await outlet.security.own.renew()
    expect(outlet.security.own.der.equals(before)).toBe(false)
    await until(() =>
      shown().then(
        (certificate) => certificate.equals(outlet.security.own.der),
        () => false,
      ),
    )
  }, 30_000)
})

describe('several doors', () => {
  it('a client that names the address of an easier door has to come in as its own door asks', async () => {
    const [easy, strict] = [await freePort(), await freePort()]
    const outlet = await serve({
      doors: [
        { port: easy, ...encrypted },
        { port: strict, ...encrypted, anonymous: false, names: true },
      ],
    })
    const client = await scada(outlet, strict)
    outlet.security.trust.set([trusting(client.security.own.der)])
    const settings = opcuaSettingsFor(strict, { policy: 'Basic256Sha256', mode: 'SignAndEncrypt' })
    const dialling = securedClient(client.security.own, client.security.trust, settings, outlet.security.own.der, new Wire())
    closing.push(() => dialling.disconnect())
    await dialling.connect(`opc.tcp://127.0.0.1:${strict}`)
    Object.assign(dialling, { endpointUrl: `opc.tcp://127.0.0.1:${easy}` })
    await expect(dialling.createSession({ type: UserTokenType.Anonymous })).rejects.toThrow()
    expect(outlet.session.status().clients).toEqual([])
  }, 30_000)

  const plain = async (port: number) => {
    const client = OPCUAClient.create({
      endpointMustExist: false,
      securityMode: MessageSecurityMode.None,
      securityPolicy: SecurityPolicy.None,
      connectionStrategy: { maxRetry: 0 },
    })
    closing.push(() => client.disconnect())
    let broken = false
    client.on('connection_lost', () => (broken = true))
    client.on('close', () => (broken = true))
    await client.connect(`opc.tcp://127.0.0.1:${port}`)
    const session = await client.createSession()
    return { read: async () => (await session.read({ nodeId: 'i=2259', attributeId: 13 })).statusCode.name, isBroken: () => broken }
  }

  it('each offer what is theirs, as the wire says', async () => {
    const [first, second] = [await freePort(), await freePort()]
    await serve({
      doors: [
        { port: first },
        {
          port: second,
          policies: ['Basic256Sha256', 'Aes256_Sha256_RsaPss'],
          modes: ['Sign', 'SignAndEncrypt'],
          anonymous: false,
          names: true,
          giveOut: 'conduit.port.example',
        },
      ],
    })
    expect((await endpointsByWire('127.0.0.1', first)).map(({ url, mode, tokens }) => ({ url, mode, tokens }))).toEqual([
      { url: `opc.tcp://127.0.0.1:${first}`, mode: 1, tokens: [0] },
    ])
    const offered = await endpointsByWire('127.0.0.1', second)
    expect(offered.map(({ policy, mode }) => `${policy.split('#')[1]} ${mode}`).sort()).toEqual([
      'Aes256_Sha256_RsaPss 2',
      'Aes256_Sha256_RsaPss 3',
      'Basic256Sha256 2',
      'Basic256Sha256 3',
    ])
    for (const { url, tokens } of offered) {
      expect(url).toBe(`opc.tcp://conduit.port.example:${second}`)
      expect(tokens).toEqual([1])
    }
  }, 30_000)

  it('open and close one by one: who came in by another never notices', async () => {
    const [first, second, third] = [await freePort(), await freePort(), await freePort()]
    const outlet = await serve({ doors: [{ port: first }, { port: second }] })
    const [stays, goes] = [await plain(first), await plain(second)]
    outlet.update({ doors: [{ port: first }, { port: third }] })
    await until(() => outlet.session.status().details!.doors.some(({ port, flow }) => port === third && flow === 'flowing'))
    await until(() => goes.isBroken())
    expect(stays.isBroken()).toBe(false)
    outlet.update({ doors: [{ port: second }, { port: first }, { port: third }] })
    await until(() => outlet.session.status().details!.doors.length === 3)
    expect(outlet.session.status().details!.doors.map(({ port }) => port)).toEqual([second, first, third])
    expect(stays.isBroken()).toBe(false)
    expect(await stays.read()).toBe('Good')
    expect(await (await plain(third)).read()).toBe('Good')
  }, 30_000)

  it('fail one by one: a port that is taken and an interface that is not there leave the others open', async () => {
    const [first, second] = [await freePort(), await freePort()]
    const outlet = await serve({ doors: [{ port: first }] })
    outlet.update({ doors: [{ port: first }, { port: second, interface: '203.0.113.9' }, { port: second, on: false }] })
    await until(() => outlet.session.status().details!.doors.length === 3)
    const status = await until(
      () => outlet.session.status(),
      ({ details }) => details!.doors[1]?.fault !== null,
    )
    expect(status).toMatchObject({
      flow: 'late',
      fault: { code: 'outlet.no-interface' },
      details: { doors: [{ flow: 'flowing' }, { flow: 'broken', fault: { code: 'outlet.no-interface' } }, { flow: 'off' }] },
    })
    expect(await (await plain(first)).read()).toBe('Good')
  }, 30_000)
})

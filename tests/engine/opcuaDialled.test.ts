import { createServer, type Socket } from 'node:net'
import { afterEach, describe, expect, it } from 'vitest'
import { AttributeIds, ClientReverseConnect, OPCUAClient } from 'node-opcua'
import { quality } from '#core/tags/quality'
import { tagNamespace } from '#engine/outlets/opcua/addressSpace'
import { freePort } from '../../launcher/ports.mjs'
import { closeAll, type Closing } from '../support/engineOn'
import { opcuaSettings } from '#core/opcua/settings'
import { checkAll, openOpcua, trusting } from '../support/opcuaSession'
import { opcuaDetailsOf, openOutlet } from '../support/outlet'
import { testSecurity } from '../support/security'
import { until } from '../support/until'

/** Clients that an outlet dials, because nothing can dial it (OPC 10000-6, 7.1.3). */

const closing: Closing = []
afterEach(() => closeAll(closing))

const inClear = { policies: ['None'] }
const closedDoor = { on: false }

const serve = async (dialled: object[]) => {
  const outlet = await openOutlet({ doors: [closedDoor], dialled, anonymous: [{ folder: '', may: 'write' }] }, { write })
  function write(handle: number, value: unknown) {
    outlet.table.set(handle, value as number, quality.Good, Date.now())
    outlet.table.flush()
    return Promise.resolve({ ok: true as const })
  }
  closing.push(() => outlet.session.close())
  const limit = outlet.tag('limit', { writable: true })
  outlet.session.setTags([limit], [])
  outlet.table.set(limit.handle, 1, quality.Good, Date.now())
  const dialledNow = () => opcuaDetailsOf(outlet.session.status()).dialled
  return { ...outlet, limit, dialledNow }
}

const limitOf = `nsu=${tagNamespace};s=limit`

const awaiting = async (port: number, more: object = {}) => {
  const security = await testSecurity()
  const settings = opcuaSettings.parse({
    awaits: { port },
    reading: { publishing: 50, sampling: 20 },
    patience: { answer: 4000, retryFirst: 100, retryMost: 400 },
    ...more,
  })
  const open = () => {
    const link = openOpcua(settings, security, [{ address: limitOf, type: 'float64' }])
    closing.push(() => link.session.close())
    return link
  }
  return { security, settings, open }
}

describe('a client that is dialled', () => {
  it('of another make takes up our connection and reads over it, more than once', async () => {
    const port = await freePort()
    const outlet = await serve([{ host: '127.0.0.1', port, ...inClear }])
    const listener = new ClientReverseConnect(`opc.tcp://127.0.0.1:${port}`)
    await listener.start()
    closing.push(() => listener.stop())
    const come = async () => {
      const client = OPCUAClient.create({ endpointMustExist: false, connectionStrategy: { maxRetry: 0 } })
      closing.push(() => client.disconnect())
      await client.connectReverse(listener, { serverUri: outlet.security.own.uri })
      const session = await client.createSession()
      const index = (await session.readNamespaceArray()).indexOf(tagNamespace)
      return { session, value: await session.read({ nodeId: `ns=${index};s=limit`, attributeId: AttributeIds.Value }) }
    }
    expect((await come()).value.value.value).toBe(1)
    expect((await come()).value.value.value).toBe(1)
    await until(() => outlet.dialledNow()[0]!.taken === 2)
    expect(outlet.session.status()).toMatchObject({ flow: 'flowing', clients: [{ items: 0 }, { items: 0 }] })
    expect(outlet.session.status().clients.every(({ from }) => from.startsWith('127.0.0.1'))).toBe(true)
  })

  it('is one of our own links: values flow, writes come, and a cut is made good', async () => {
    const port = await freePort()
    const outlet = await serve([{ host: '127.0.0.1', port, ...inClear }])
    const link = (await awaiting(port)).open()
    await until(() => link.value(0) === 1 && link.quality(0) === quality.Good)
    expect(await link.write(0, 7)).toEqual({ ok: true })
    await until(() => link.value(0) === 7)
    // the same, with the outlet gone for a while
    outlet.update({ doors: [closedDoor], dialled: [] })
    await until(() => link.quality(0) !== quality.Good)
    outlet.update({ doors: [closedDoor], dialled: [{ host: '127.0.0.1', port, ...inClear }], anonymous: [{ folder: '', may: 'write' }] })
    await until(() => link.quality(0) === quality.Good)
  })

  it('comes in secured once both sides decided, each by the certificate of the other', async () => {
    const port = await freePort()
    const outlet = await serve([{ host: '127.0.0.1', port }])
    const far = await awaiting(port, { policy: 'Basic256Sha256', mode: 'SignAndEncrypt' })
    const link = far.open()
    await until(() => link.session.status().fault?.code === 'certificate.unknown')
    expect(link.session.status().certificate!.facts.applicationUri).toBe(outlet.security.own.uri)
    far.security.trust.set([trusting(outlet.security.own.der)])
    const [knock] = await until(
      () => opcuaDetailsOf(outlet.session.status()).waiting,
      (all) => all.length > 0,
    )
    expect(knock!.facts.fingerprint).toBe(far.security.own.facts.fingerprint)
    outlet.security.trust.set([trusting(far.security.own.der)])
    await until(() => link.value(0) === 1 && link.quality(0) === quality.Good)
    const steps = await checkAll(far.settings, far.security)
    expect(steps.filter(({ fault: why }) => why)).toEqual([])
  })

  it('another server than the one that is meant is not taken, though it dials the same door', async () => {
    const port = await freePort()
    await serve([{ host: '127.0.0.1', port, ...inClear }])
    const link = (await awaiting(port, { awaits: { port, serverUri: 'urn:port:quite-another' } })).open()
    await expect(until(() => link.session.status().flow === 'flowing', Boolean, 4)).rejects.toThrow()
  })
})

describe('how dialling goes', () => {
  it('is told: refused, closed at once, and waiting to be taken up', async () => {
    const [closed, rude, quiet] = [await freePort(), await freePort(), await freePort()]
    const listen = async (port: number, come: (socket: Socket) => void) => {
      const server = createServer((socket) => come(socket.on('error', () => {})))
      await new Promise<void>((resolve) => server.listen(port, '127.0.0.1', resolve))
      closing.push(async () => server.close())
    }
    await listen(rude, (socket) => socket.end())
    await listen(quiet, () => {})
    const outlet = await serve([closed, rude, quiet].map((port) => ({ host: '127.0.0.1', port, ...inClear })))
    await until(
      () => outlet.dialledNow(),
      (all) => all[0]?.fault?.code === 'tcp.refused' && all[1]?.fault?.code === 'opcua.not-taken-up' && /not taken/.test(all[2]!.sentence),
    )
    expect(outlet.dialledNow().map(({ flow }) => flow)).toEqual(['broken', 'broken', 'late'])
    expect(outlet.session.status().flow).toBe('broken')
  })
})

import { connect } from 'node:net'
import { once } from 'node:events'
import { afterEach, describe, expect, it } from 'vitest'
import { opcuaSettings } from '#core/opcua/settings'
import { isGood } from '#core/tags/quality'
import { serverDoors } from '#engine/opcua/serverDoors'
import { closeAll, type Closing } from '../support/engineOn'
import { checkAll, openOpcua } from '../support/opcuaSession'
import { freePort } from '../../launcher/ports.mjs'
import { testSecurity } from '../support/security'
import { PlainServer } from '../support/ua/plainServer'
import { variable } from '../support/ua/space'
import { until } from '../support/until'

/** Servers that open the connection themselves (OPC 10000-6, 7.1.3), by one that shares no code with the product. */

const plant = 'urn:port:berth-3'
const closing: Closing = []
afterEach(() => closeAll(closing))

const startServer = async (level = 4.25) => {
  const server = await PlainServer.start([plant])
  closing.push(() => server.stop())
  server.space.add(variable('i=85', 'Level', 'Double', level, { writable: true }))
  return server
}

const awaiting = (port: number, serverUri = plant, connect = 2000) =>
  opcuaSettings.parse({
    awaits: { port, serverUri },
    reading: { publishing: 50, sampling: 50 },
    patience: { connect, answer: 2000, retryFirst: 100, retryMost: 400 },
  })

const open = async (port: number, serverUri?: string) => {
  const link = openOpcua(awaiting(port, serverUri), await testSecurity(), [{ address: `nsu=${plant};s=Level`, type: 'float64' }])
  closing.push(() => link.session.close())
  return link
}

const keepDialling = (server: PlainServer, port: number, serverUri = plant) => {
  const stop = server.keepDialling(port, serverUri)
  closing.push(async () => stop())
  return stop
}

describe('a link whose server dials', () => {
  it('waits for it, reads and writes over the connection that it opened, and takes up the next after a break', async () => {
    const [server, port] = [await startServer(), await freePort()]
    const link = await open(port)
    expect(link.session.status().flow).toBe('late')
    keepDialling(server, port)
    await until(() => link.value(0) === 4.25 && isGood(link.quality(0)))
    expect(await link.write(0, 8.5)).toEqual({ ok: true })
    await until(() => link.value(0) === 8.5)
    server.cut(true)
    await until(() => !isGood(link.quality(0)))
    await until(() => isGood(link.quality(0)) && link.session.status().flow === 'flowing')
  })

  it('is checked step by step: our door, who dialled, and what follows', async () => {
    const [server, port] = [await startServer(), await freePort()]
    keepDialling(server, port)
    const steps = await checkAll(awaiting(port), await testSecurity())
    expect(steps.map(({ step, flow }) => `${step} ${flow}`)).toEqual([
      ...['door flowing', 'dialled flowing', 'offers flowing', 'theirs flowing', 'ours flowing', 'signin flowing', 'value flowing'],
    ])
    expect(steps[1]!.evidence).toMatch(/^from 127\.0\.0\.1:\d+, as urn:port:berth-3$/)
  })

  it('takes the connections of its own server only, at a door that several share', async () => {
    const port = await freePort()
    const [one, other] = [await startServer(1), await startServer(2)]
    const [left, right] = [await open(port, 'urn:port:one'), await open(port, 'urn:port:other')]
    keepDialling(other, port, 'urn:port:other')
    keepDialling(one, port, 'urn:port:one')
    await until(() => left.value(0) === 1 && right.value(0) === 2)
  })

  it('holds what the server opens while it waits for its next attempt, as for somebody’s decision', async () => {
    const [server, port] = [await startServer(), await freePort()]
    const patience = { ...awaiting(port).patience, retryFirst: 60_000, retryMost: 60_000 }
    const settings = { ...awaiting(port), policy: 'Basic256Sha256', mode: 'SignAndEncrypt', patience } as const
    const link = openOpcua(settings, await testSecurity(), [])
    closing.push(() => link.session.close())
    await until(async () => (await once(server.dial(port, plant), 'close')) && link.session.status().fault !== null)
    // it offers no security
    expect(link.session.status().fault!.code).toBe('opcua.no-endpoint')
    const waiting = server.dial(port, plant)
    await expect(Promise.race([once(waiting, 'close'), new Promise((resolve) => setTimeout(() => resolve('held'), 4500))])).resolves.toBe(
      'held',
    )
  })

  it('says that its port is taken', async () => {
    const server = await startServer()
    const link = await open(server.port)
    await until(() => link.session.status().flow === 'broken')
    expect(link.session.status().fault).toMatchObject({ code: 'port.in-use', side: 'here' })
  })
})

describe('a door at which servers are awaited', () => {
  const doorAt = async (port: number) => {
    const door = await serverDoors.open({ interface: '127.0.0.1', port })
    closing.push(async () => door.close())
    return door
  }

  it('ends connections that say something else, too much, or nothing that comes to an end', async () => {
    const port = await freePort()
    const door = await doorAt(port)
    for (const said of ['GET / HTTP/1.1\r\n\r\n', 'HELF\x20\0\0\0', 'RHEF\xff\xff\xff\xff', 'RHEF\x10\0\0\0\xff\xff\0\0\0\0\0\0']) {
      const socket = connect(port, '127.0.0.1').on('error', () => {})
      socket.write(Buffer.from(said, 'latin1'))
      await once(socket, 'close')
    }
    expect(door.unawaited()).toEqual([])
  })

  it('holds one connection of each server, the newest, for whoever comes to want it', async () => {
    const [server, port] = [await startServer(), await freePort()]
    const door = await doorAt(port)
    const { signal } = new AbortController()
    const first = server.dial(port, plant)
    await until(() => door.unawaited().length === 1)
    const second = server.dial(port, plant)
    await once(first, 'close')
    const taken = await door.next('', signal)
    expect(taken).toMatchObject({ serverUri: plant, endpointUrl: server.url })
    expect(taken.from).toBe(`127.0.0.1:${second.localPort}`)
    const later = door.next(plant, signal)
    const third = server.dial(port, plant)
    expect((await later).from).toBe(`127.0.0.1:${third.localPort}`)
  })

  it('gives a wait that was given up nothing more', async () => {
    const [server, port] = [await startServer(), await freePort()]
    const door = await doorAt(port)
    const given = new AbortController()
    const first = door.next(plant, given.signal)
    given.abort()
    await expect(first).rejects.toThrow()
    const second = door.next(plant, new AbortController().signal)
    server.dial(port, plant)
    expect((await second).serverUri).toBe(plant)
  })
})

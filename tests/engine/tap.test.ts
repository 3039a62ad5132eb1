import { connect, createServer, type Socket } from 'node:net'
import { afterEach, describe, expect, it } from 'vitest'
import { quality } from '#core/tags/quality'
import { changeConfiguration } from '#db/configuration'
import type { mbapFrames } from '#core/wire/frames'
import { Wire } from '#engine/wire/wire'
import { freePort } from '../../launcher/ports.mjs'
import { closeAll, databaseFor, engineOn, linkTo, metersFor, outletAt, powerTag, type Closing } from '../support/engineOn'
import { plainClient } from '../support/outlet'
import { until } from '../support/until'

/** What passes at connections, seen by whoever looks. */

const closing: Closing = []
afterEach(() => closeAll(closing))

const echo = async () => {
  const sockets = new Set<Socket>()
  const server = createServer((socket) => {
    sockets.add(socket.on('error', () => {}))
    socket.pipe(socket)
  })
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
  closing.push(() => {
    sockets.forEach((socket) => socket.destroy())
    return new Promise((resolve) => server.close(resolve))
  })
  return { port: (server.address() as { port: number }).port, server }
}

const dialled = async (rule: typeof mbapFrames | null = null) => {
  const { port } = await echo()
  const wire = new Wire(rule)
  const socket = await wire.dial({ host: '127.0.0.1', port, connectMs: 2000 })
  let received = 0
  socket.on('data', (data) => (received += data.length)).on('error', () => {})
  closing.push(
    () => Promise.resolve(void socket.destroy()),
    () => Promise.resolve(wire.close()),
  )
  const roundTrip = async (bytes: Buffer) => {
    const before = received
    socket.write(bytes)
    await until(() => received >= before + bytes.length)
  }
  return { wire, socket, port, roundTrip }
}

describe('a tap', () => {
  it('copies nothing before somebody looks, then both ways with time, length and bytes', async () => {
    const { wire, socket, port, roundTrip } = await dialled()
    await roundTrip(Buffer.from('before'))
    expect(wire.tap.end).toBe(0)
    const { next } = wire.tap.look(wire.tap.end, 10)
    const started = Date.now()
    await roundTrip(Buffer.from('hello'))
    const { frames, lost, connections } = wire.tap.look(next, 10)
    expect(frames.map(({ n, out, length, bytes }) => [n, out, length, Buffer.from(bytes, 'base64').toString()])).toEqual([
      [0, true, 5, 'hello'],
      [1, false, 5, 'hello'],
    ])
    expect(frames.every(({ at }) => at >= started - 5 && at <= Date.now() + 5)).toBe(true)
    // to the microsecond
    expect(frames.some(({ at }) => at % 1 !== 0)).toBe(true)
    expect(lost).toBe(0)
    expect(connections).toEqual([{ id: 1, peer: `127.0.0.1:${port}`, here: `127.0.0.1:${socket.localPort}` }])
  })

  it('keeps a bounded number, tells whoever is slow what was lost, and holds up nobody', async () => {
    const { wire, socket, roundTrip } = await dialled()
    wire.tap.look(0, 1)
    const big = Buffer.alloc(120_000, 7)
    for (let i = 0; i < 10; i++) await roundTrip(big)
    for (let i = 0; i < 6000; i++) socket.write(Buffer.of(i & 255))
    await roundTrip(Buffer.of(0))
    const kept = wire.tap['frames']
    expect(kept.length).toBeLessThanOrEqual(5000)
    expect(kept.every(({ bytes }) => bytes.length <= 65_536)).toBe(true)
    const part = wire.tap.look(0, 100)
    expect(part.frames).toHaveLength(100)
    expect(part.lost).toBeGreaterThan(0)
    expect(part.frames[0]!.n).toBe(part.lost)
    expect(wire.tap.look(part.next, 1).frames[0]!.n).toBe(part.next)
  })

  it('of a connection that breaks lets go of it', async () => {
    const { wire, socket, roundTrip } = await dialled()
    wire.tap.look(0, 1)
    await roundTrip(Buffer.from('x'))
    socket.destroy()
    await until(() => wire.tap.look(0, 1).connections.length === 0)
  })

  it('sees who comes in at a listener', async () => {
    const { server, port } = await echo()
    const wire = new Wire()
    closing.push(() => Promise.resolve(wire.close()))
    wire.attend(server)
    wire.tap.look(0, 1)
    const socket = connect(port, '127.0.0.1').on('error', () => {})
    closing.push(() => Promise.resolve(void socket.destroy()))
    socket.write('knock')
    await until(() => wire.tap.look(0, 10).frames.some(({ out }) => out))
    expect(wire.tap.look(0, 10).frames.map(({ out, length }) => [out, length])).toEqual([
      [false, 5],
      [true, 5],
    ])
  })

  it('dials within its time, and ends early when that is asked for', async () => {
    const wire = new Wire()
    await expect(wire.dial({ host: '127.0.0.1', port: await freePort(), connectMs: 500 })).rejects.toMatchObject({ code: 'tcp.refused' })
    const abort = new AbortController()
    const dialling = wire.dial({ host: '203.0.113.1', port: 9, connectMs: 20_000, signal: abort.signal })
    abort.abort()
    await expect(dialling).rejects.toMatchObject({ code: expect.stringMatching(/^tcp\./) })
  })
})

describe('links and outlets in an engine', () => {
  it('show their frames: requests and replies of a device, messages of a client', async () => {
    const { port } = await metersFor(closing)
    const doorPort = await freePort()
    const base = await databaseFor(closing)
    const { engine } = await engineOn(closing, base)
    const { result } = await changeConfiguration(base.db, 'test', 'made', async (editor) => {
      const [link] = await editor.insert('link', [linkTo(port)])
      await editor.insert('tag', [powerTag(link!.id, 'power')])
      const [outlet] = await editor.insert('outlet', [outletAt(doorPort)])
      return { link: link!, outlet: outlet! }
    })
    await until(() => engine.status().goodTags === 1 && engine.status().outlets[0]?.flow === 'flowing')
    const { tap } = engine.link(result.link.id)!.wire
    tap.look(tap.end, 1)
    await until(() => tap.end >= 6)
    // a reply may be under way as somebody begins to look
    const { frames } = tap.look(0, 4)
    const first = frames.findIndex(({ out }) => out)
    const [request, reply] = frames.slice(first, first + 2).map(({ bytes }) => Buffer.from(bytes, 'base64'))
    expect([...request!.subarray(2)]).toEqual([0, 0, 0, 6, 11, 3, 0, 40, 0, 2])
    expect([...reply!.subarray(0, 2)]).toEqual([...request!.subarray(0, 2)])
    expect(reply).toHaveLength(13)

    const doors = engine.outlet(result.outlet.id)!.wire.tap
    doors.look(0, 1)
    const client = await plainClient(doorPort)
    closing.push(() => client.close())
    expect((await client.read('urn:keen-conduit:tags', 'power')).statusCode.value).toBe(quality.Good)
    const types = doors
      .look(0, 100)
      .frames.map(({ out, bytes }) => `${out ? '>' : '<'}${Buffer.from(bytes, 'base64').toString('latin1', 0, 4)}`)
    expect(types.slice(0, 4)).toEqual(['<HELF', '>ACKF', '<OPNF', '>OPNF'])
    expect(types).toContain('>MSGF')
  })
})

import { createServer, type Socket } from 'node:net'
import jsmodbus from 'jsmodbus'
import { afterEach, describe, expect, it } from 'vitest'
import { asModbus, modbusLineSettings } from '#core/modbus/lineSettings'
import { encodeRtu } from '#core/modbus/rtu'
import { quality } from '#core/tags/quality'
import { serialPort } from '#core/contracts/serial'
import { modbusLineDriver } from '#engine/links/modbus/driver'
import { openSerial } from '#engine/serial/openSerial'
import { Wire } from '#engine/wire/wire'
import { Gateway } from '#standins/modbus/gateway'
import { Meter } from '#standins/modbus/meter'
import { Berth } from '#standins/physics/berth'
import { closeAll, type Closing } from '../support/engineOn'
import { openSession } from '../support/modbusSession'
import { openPort, serialPair } from '../support/serialPair'
import { until } from '../support/until'

/** Serial lines: frames without transactions, at real ports with a line between them, and through converters. */

const closing: Closing = []
afterEach(() => closeAll(closing))

const profile = { voltage: 11_000, load: 800, powerFactor: 0.97, ramp: 1, swing: 0, swingPeriod: 60 }
const quick = { interval: 50, patience: { retryFirst: 100, retryMost: 400, answer: 250 }, settle: 100, broadcast: 20 }
const settings = (line: object, more: object = {}) => modbusLineSettings.parse({ line, ...quick, ...more })
const atPort = (device: string, more: object = {}) => settings({ over: 'port', device }, more)
const behind = (port: number, more: object = {}) => settings({ over: 'tcp', host: '127.0.0.1', port }, more)
const linkOf = (of: ReturnType<typeof settings>, points: Parameters<typeof openSession>[1]) => {
  const made = openSession(asModbus(of), points)
  closing.unshift(() => made.session.close())
  return made
}
const meters = (units = [1, 2]) => units.map((unit, i) => new Meter(unit, i + 1, new Berth(profile, 1000, true), () => 2))
const converter = async (framing: 'rtu' | 'ascii', units = [1, 2]) => {
  const gateway = new Gateway(meters(units), 8, framing)
  const port = await gateway.listen(0)
  closing.push(() => gateway.close())
  return { gateway, port }
}
const steps = async (of: ReturnType<typeof settings>) => {
  const found = []
  const around = { wire: new Wire(), beside: [], roots: () => [], uses: [], security: {} as never }
  for await (const step of modbusLineDriver.check(of, new AbortController().signal, around)) if (step.flow !== 'waiting') found.push(step)
  return found
}

describe('at a serial port', () => {
  it('reads and writes a foreign device, bits, words and wide values', async () => {
    const { near, far } = await serialPair(closing)
    const holding = Buffer.alloc(200)
    holding.writeFloatBE(49.5, 80)
    new jsmodbus.server.RTU((await openPort(closing, far)) as never, { holding, coils: Buffer.from([0b100]) })
    const link = linkOf(atPort(near), [
      { address: 'holding/40', type: 'float32' },
      { address: 'coil/2', type: 'bool' },
      { address: 'holding/10', type: 'uint16', more: { access: 'readwrite' } },
    ])
    await until(() => link.quality('holding/40') === quality.Good && link.quality('coil/2') === quality.Good)
    expect([link.value('holding/40'), link.value('coil/2')]).toEqual([49.5, true])
    expect(await link.write('holding/10', 4711)).toEqual({ ok: true })
    expect(holding.readUInt16BE(20)).toBe(4711)
    expect(link.value('holding/10')).toBe(4711)
  })

  it('that is pulled out is told as that, and its values are none', async () => {
    const line = await serialPair(closing)
    new Gateway(meters(), 8, 'rtu').attend(await openPort(closing, line.far))
    const link = linkOf(atPort(line.near), [{ address: 'holding/60', type: 'uint32' }])
    await until(() => link.quality('holding/60') === quality.Good)
    line.pull()
    await until(() => link.session.status().flow === 'broken')
    expect(link.quality('holding/60')).not.toBe(quality.Good)
    expect(link.session.status().fault!.code).toMatch(/^serial\.(none|gone)$/)
  })

  it('that fails while something is sent leaves no error behind that nobody took', async () => {
    const { near } = await serialPair(closing)
    const port = await openSerial(serialPort.parse({ device: near }), 2000)
    closing.unshift(async () => void port.destroy())
    const unheard: unknown[] = []
    const note = (why: unknown) => unheard.push(why)
    process.on('unhandledRejection', note)
    closing.push(async () => void process.off('unhandledRejection', note))
    // what the package tells of a write at a port that was pulled; whether one fails before that is seen is chance
    port.emit('error', new Error('EIO: i/o error, write'))
    await new Promise(setImmediate)
    expect(unheard).toEqual([])
  })

  it('is checked: the port, and the first reply; one that is not there, no port, or held by another is named', async () => {
    const { near, far } = await serialPair(closing)
    new Gateway(meters(), 8, 'rtu').attend(await openPort(closing, far))
    expect((await steps(atPort(near, { unit: 2 }))).map(({ flow }) => flow)).toEqual(['flowing', 'flowing'])
    const [, silent] = await steps(atPort(near, { unit: 9 }))
    expect(silent!.fault!.code).toBe('modbus.silent')
    expect((await steps(atPort('/dev/ttyNOPE9')))[0]!.fault!.code).toBe('serial.none')
    expect((await steps(atPort('/dev/null')))[0]!.fault!.code).toBe('serial.no-port')
    const link = linkOf(atPort(near), [{ address: 'holding/60', type: 'uint32' }])
    await until(() => link.quality('holding/60') === quality.Good)
    const [taken] = await steps(atPort(near))
    expect(taken!.fault!.code).toBe('serial.taken')
  })

  it('tries a point over the connection of the link, which holds the port', async () => {
    const { near, far } = await serialPair(closing)
    new Gateway(meters(), 8, 'rtu').attend(await openPort(closing, far))
    const link = linkOf(atPort(near), [{ address: 'holding/60', type: 'uint32' }])
    await until(() => link.quality('holding/60') === quality.Good)
    const origin = await link.session.tryRead({ address: '2:holding/60', type: 'uint32', options: {}, access: 'read', interval: null })
    expect(origin!.fault).toBe(null)
    expect(origin!.stages[0]!.title).toBe('Words on the wire')
  })
})

describe.each(['rtu', 'ascii'] as const)('through a converter, %s', (framing) => {
  it('gives the values of all units of the line, and writes to all of them at once', async () => {
    const { gateway, port } = await converter(framing)
    const link = linkOf(behind(port, { framing, order: 'CDAB' }), [
      { address: '1:holding/90', type: 'float32' },
      { address: '2:holding/90', type: 'float32' },
      { address: '0:holding/90', type: 'float32', more: { access: 'readwrite' } },
    ])
    await until(() => link.quality('1:holding/90') === quality.Good && link.quality('2:holding/90') === quality.Good)
    expect(link.quality('0:holding/90')).toBe(quality.BadNotReadable)
    expect(await link.write('0:holding/90', 650)).toEqual({ ok: true })
    await until(() => link.value('1:holding/90') === 650 && link.value('2:holding/90') === 650)
    expect(gateway.meters.map((meter) => meter.berth.state.tripLimit)).toEqual([650, 650])
  })

  it('leaves out a unit that is silent, and the others go on', async () => {
    const { gateway, port } = await converter(framing)
    gateway.meters[1]!.fault.fault = 'silence'
    const link = linkOf(behind(port, { framing }), [
      { address: '1:holding/60', type: 'uint32' },
      { address: '2:holding/60', type: 'uint32' },
    ])
    await until(() => link.quality('1:holding/60') === quality.Good)
    await until(() => link.quality('2:holding/60') === quality.BadTimeout || link.quality('2:holding/60') === quality.BadNoCommunication)
    const before = gateway.meters[0]!.requests
    await until(() => gateway.meters[0]!.requests > before + 3)
    gateway.meters[1]!.fault.fault = null
    expect(link.quality('1:holding/60')).toBe(quality.Good)
  })
})

describe('what has no transactions', () => {
  /** A device that answers as the test says. */
  const device = async (answer: (frame: Buffer, socket: Socket, nth: number) => void) => {
    let nth = 0
    const server = createServer((socket) => socket.on('error', () => {}).on('data', (frame) => answer(frame, socket, nth++)))
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
    const sockets = new Set<Socket>()
    server.on('connection', (socket) => sockets.add(socket))
    closing.push(async () => {
      for (const socket of sockets) socket.destroy()
      server.close()
    })
    return (server.address() as { port: number }).port
  }
  const valueReply = (unit: number, value: number) => encodeRtu(unit, Buffer.from([3, 2, value >> 8, value & 0xff]))

  it('takes no reply that is late for that of the next request', async () => {
    // each unit has a value of its own; the first reply of unit 1 comes only after its time
    const port = await device((frame, socket, nth) => {
      const reply = valueReply(frame[0]!, 100 * frame[0]!)
      if (nth === 0) setTimeout(() => socket.write(valueReply(1, 666)), 320)
      else socket.write(reply)
    })
    const link = linkOf(behind(port), [
      { address: '1:holding/0', type: 'uint16' },
      { address: '2:holding/0', type: 'uint16' },
    ])
    const seen: unknown[] = []
    link.table.listen(() => seen.push(link.value('1:holding/0'), link.value('2:holding/0')))
    await until(() => link.quality('1:holding/0') === quality.Good && link.quality('2:holding/0') === quality.Good)
    expect([link.value('1:holding/0'), link.value('2:holding/0')]).toEqual([100, 200])
    expect(seen).not.toContain(666)
  })

  it('takes neither another unit’s reply, nor one with a wrong check, nor noise before the right one', async () => {
    const port = await device((frame, socket) => {
      const right = valueReply(1, 42)
      const wrong = Buffer.from(right)
      wrong[3]! ^= 0xff
      socket.write(Buffer.concat([Buffer.from([0x00, 0xff, 0x55]), wrong, valueReply(7, 13), frame[0] === 1 ? right : Buffer.alloc(0)]))
    })
    const link = linkOf(behind(port), [{ address: '1:holding/0', type: 'uint16' }])
    const seen = new Set<unknown>()
    link.table.listen(() => seen.add(link.value('1:holding/0')))
    await until(() => link.quality('1:holding/0') === quality.Good)
    expect([...seen].filter((value) => value !== undefined)).toEqual([42])
  })

  it('says what came where only noise does', async () => {
    const port = await device((_frame, socket) => socket.write(Buffer.from('noise')))
    const [, , reply] = await steps(behind(port))
    expect(reply!.fault!.code).toBe('modbus.unusable')
    expect(reply!.evidence + reply!.fault!.what).toMatch(/no frame or whose check does not agree/)
  })

  it('waits longer for a unit that is set to need it', async () => {
    const port = await device((frame, socket) => setTimeout(() => socket.write(valueReply(frame[0]!, 5)), frame[0] === 2 ? 400 : 1))
    const link = linkOf(behind(port, { units: [{ unit: 2, answer: 900 }] }), [
      { address: '1:holding/0', type: 'uint16' },
      { address: '2:holding/0', type: 'uint16' },
    ])
    await until(() => link.quality('2:holding/0') === quality.Good)
    expect(link.value('2:holding/0')).toBe(5)
  })
})

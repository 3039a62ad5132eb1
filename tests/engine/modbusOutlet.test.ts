import jsmodbus from 'jsmodbus'
import { afterEach, describe, expect, it } from 'vitest'
import { fault } from '#core/faults/catalogue'
import { encodeAscii } from '#core/modbus/ascii'
import { encodeRtu } from '#core/modbus/rtu'
import { quality } from '#core/tags/quality'
import type { Closing } from '../support/engineOn'
import { askedByLibmodbus, hasLibmodbus } from '../support/libmodbus'
import { dialled, exceptionOf, exchanged, foreignClient, openModbusOutlet } from '../support/modbusOutlet'
import { openPort, serialPair } from '../support/serialPair'
import { until } from '../support/until'

const closing: Closing = []
afterEach(async () => {
  for (const close of closing.splice(0)) await close()
})

const hex = (text: string) => Buffer.from(text.replaceAll(' ', ''), 'hex')

const map = [
  { path: 'berth/1/power', at: 'holding/0', type: 'float32' },
  { path: 'berth/1/current', at: 'holding/2', type: 'int16', gain: 0.1 },
  { path: 'berth/1/energy', at: 'holding/3', type: 'uint64' },
  { path: 'berth/1/plugged', at: 'holding/7.0', type: 'bool' },
  { path: 'berth/1/horn', at: 'holding/7.4', type: 'bool' },
  { path: 'berth/1/breaker', at: 'coil/0', type: 'bool' },
  { path: 'berth/1/breaker', at: 'discrete/5', type: 'bool', tells: 'good' },
  { path: 'berth/1/limit', at: 'holding/20', type: 'float32', order: 'CDAB' },
  { path: 'berth/1/ship', at: 'input/0', type: 'string', length: 8 },
]

const berth = async (settings: Record<string, unknown> = {}, around: Parameters<typeof openModbusOutlet>[2] = {}) => {
  const outlet = await openModbusOutlet(closing, { map, anyone: [{ folder: '', may: 'write' }], ...settings }, around)
  const { tag } = outlet
  return {
    ...outlet,
    power: tag('berth/1/power', 71.5),
    current: tag('berth/1/current', 123.4),
    energy: tag('berth/1/energy', 9_007_199_254_740_993n, { type: 'uint64' }),
    plugged: tag('berth/1/plugged', true, { type: 'bool' }),
    horn: tag('berth/1/horn', false, { type: 'bool', writable: true }),
    breaker: tag('berth/1/breaker', true, { type: 'bool', writable: true }),
    limit: tag('berth/1/limit', 900, { writable: true }),
    ship: tag('berth/1/ship', 'Selkie', { type: 'string' }),
  }
}

describe('a client that is not ours', () => {
  it('reads values of every kind where the map says', async () => {
    const { port, details } = await berth()
    const client = await foreignClient(closing, port)
    const words = (await client.readHoldingRegisters(0, 8)).response.body.valuesAsBuffer
    expect(words.readFloatBE(0)).toBe(71.5)
    expect(words.readInt16BE(4)).toBe(1234)
    expect(words.readBigUInt64BE(6)).toBe(9_007_199_254_740_993n)
    expect(words.readUInt16BE(14)).toBe(0b00001)
    expect((await client.readCoils(0, 1)).response.body.valuesAsArray[0]).toBe(1)
    expect((await client.readDiscreteInputs(5, 1)).response.body.valuesAsArray[0]).toBe(1)
    const ship = (await client.readInputRegisters(0, 4)).response.body.valuesAsBuffer
    expect(ship.toString('utf8')).toBe('Selkie\0\0')
    const swapped = (await client.readHoldingRegisters(20, 2)).response.body.valuesAsBuffer
    expect(Buffer.concat([swapped.subarray(2), swapped.subarray(0, 2)]).readFloatBE(0)).toBe(900)
    expect(details()).toMatchObject({ entries: 9, notGood: 0, troubledCount: 0, refused: [] })
  })

  it('sees a change at its next request, whole', async () => {
    const { port, set, energy } = await berth()
    const client = await foreignClient(closing, port)
    const read = async () => (await client.readHoldingRegisters(3, 4)).response.body.valuesAsBuffer.readBigUInt64BE(0)
    for (const value of [0xffff_ffff_0000_0000n, 0x0000_0000_ffff_ffffn]) {
      set(energy, value)
      expect(await read()).toBe(value)
    }
  })

  it('is told what cannot be believed as that', async () => {
    const { port, degrade, set, power, current, breaker, details, update } = await berth()
    const client = await foreignClient(closing, port)
    for (const one of [power, current, breaker]) degrade(one, quality.BadNoCommunication)
    const read = async () => (await client.readHoldingRegisters(0, 3)).response.body.valuesAsBuffer
    expect((await read()).readFloatBE(0)).toBeNaN()
    expect((await read()).readInt16BE(4)).toBe(-32768)
    expect((await client.readDiscreteInputs(5, 1)).response.body.valuesAsArray[0]).toBe(0)
    expect(details().notGood).toBe(4)

    update({ map, notGood: 'refuse' })
    expect(await exceptionOf(client.readHoldingRegisters(0, 3))).toBe(4)
    expect(await exceptionOf(client.readHoldingRegisters(3, 4))).toBe(null)
    set(power, 5)
    set(current, 1)
    expect((await read()).readFloatBE(0)).toBe(5)
  })

  it('keeps what was good last where that was chosen, and says so beside', async () => {
    const { port, degrade, power, details } = await berth({ notGood: 'last' })
    const client = await foreignClient(closing, port)
    degrade(power, quality.BadNoCommunication)
    expect((await client.readHoldingRegisters(0, 2)).response.body.valuesAsBuffer.readFloatBE(0)).toBe(71.5)
    expect(details().notGood).toBe(1)
  })

  it('gets the exceptions of the standard for what is not there', async () => {
    const { port, update, details } = await berth()
    const client = await foreignClient(closing, port)
    expect(await exceptionOf(client.readHoldingRegisters(100, 1))).toBe(2)
    expect(await exceptionOf(client.readHoldingRegisters(7, 2))).toBe(2)
    expect(await exceptionOf(client.readHoldingRegisters(65_530, 10))).toBe(2)
    expect(await exceptionOf(client.writeSingleRegister(0, 1))).toBe(2)
    const other = await foreignClient(closing, port, 7)
    expect(await exceptionOf(other.readHoldingRegisters(0, 1))).toBe(11)
    const texts = details().refused.map(({ text }) => text)
    expect(texts.some((text) => text.includes('half of berth/1/power'))).toBe(true)
    expect(texts.some((text) => text.includes('unit 7'))).toBe(true)

    update({ map, gaps: 'zero' })
    expect((await client.readHoldingRegisters(7, 3)).response.body.valuesAsArray).toEqual([1, 0, 0])
  })

  it('writes what may be written, with the type of the tag', async () => {
    const { port, written, limit, breaker, horn } = await berth()
    const client = await foreignClient(closing, port)
    const words = Buffer.alloc(4)
    words.writeFloatBE(650.5)
    await client.writeMultipleRegisters(20, [words.readUInt16BE(2), words.readUInt16BE(0)])
    await client.writeSingleCoil(0, false)
    await client.writeSingleRegister(7, 0b10001)
    expect(written.map(({ handle, value }) => [handle, value])).toEqual([
      [limit.handle, 650.5],
      [breaker.handle, false],
      [horn.handle, true],
    ])
    expect(written[0]!.who).toMatch(/^not listed, from 127\.0\.0\.1:\d+$/)
  })

  it('is refused a write that the tag, the rights or the plant refuse; nothing of it is written before all of it fits', async () => {
    const refusing = () => Promise.resolve({ ok: false as const, quality: 0x80310000, fault: fault('write.not-writable', { path: 'x' }) })
    const { port, written, update, details } = await berth({}, { write: refusing })
    const client = await foreignClient(closing, port)
    // the plugged bit may only be read: the horn beside it is not touched either
    expect(await exceptionOf(client.writeSingleRegister(7, 0b10000))).toBe(2)
    expect(written).toEqual([])
    expect(await exceptionOf(client.writeSingleCoil(0, false))).toBe(2)
    expect(written).toHaveLength(1)
    update({ map, anyone: [{ folder: '', may: 'read' }] })
    expect(await exceptionOf(client.writeSingleCoil(0, true))).toBe(2)
    expect(written).toHaveLength(1)
    expect(details().refused[0]!.text).toMatch(/may only read it \(exception 2\)/)
  })

  it('does what the list of machines says, by where it comes from', async () => {
    const others = { anyone: [{ folder: '', may: 'nothing' }] }
    const here = (may: string, folder = '') => ({ machines: [{ name: 'panel', from: '127.0.0.0/8', rules: [{ folder, may }] }] })
    const { port, update, details, session } = await berth({ ...others, ...here('write') })
    const client = await foreignClient(closing, port)
    await client.writeSingleCoil(0, false)
    update({ map, ...others, ...here('read', 'berth/2') })
    expect(await exceptionOf(client.readCoils(0, 1))).toBe(2)
    update({ map, ...others })
    await until(() => session.status().clients.length === 0)
    const socket = await dialled(closing, port)
    await new Promise((resolve) => socket.once('close', resolve))
    expect(details().refused.some(({ text }) => text.includes('was not let in'))).toBe(true)
  })
})

describe('what the map says', () => {
  it('of a tag that is not there, is no number or does not fit is told by name', async () => {
    const { tag, set, current, details, session } = await berth()
    set(current, 99_999)
    session.setTags([], [tag('berth/1/other').handle])
    expect(details().troubled).toEqual([
      { path: 'berth/1/current', at: 'holding/2', problem: '999990 on the wire, and int16 holds -32768 to 32767' },
    ])
    const ship = tag('berth/1/ship', 'a name too long for it', { type: 'string' })
    expect(details().troubled.map(({ path }) => path)).toEqual(['berth/1/current', 'berth/1/ship'])
    session.setTags([], [ship.handle])
    expect(details().troubled.find(({ path }) => path === 'berth/1/ship')!.problem).toBe('there is no such tag')
  })

  it('changes while clients stay', async () => {
    const { port, update, session } = await berth()
    const client = await foreignClient(closing, port)
    await client.readHoldingRegisters(0, 2)
    update({ map: [{ path: 'berth/1/power', at: 'holding/500', type: 'float64' }] })
    expect((await client.readHoldingRegisters(500, 4)).response.body.valuesAsBuffer.readDoubleBE(0)).toBe(71.5)
    expect(await exceptionOf(client.readHoldingRegisters(0, 2))).toBe(2)
    expect(session.status().clients).toHaveLength(1)
    expect(session.status().clients[0]).toMatchObject({ lastAsked: 'reads holding/0 to 1 of unit 1', lastGot: 'exception 2', flow: 'late' })
  })
})

describe('a serial line', () => {
  it('is answered at its port, to a foreign master, and found to be away when it is pulled out', async () => {
    const { near, far, pull } = await serialPair(closing)
    const { session, details, port } = await berth({ lines: [{ device: near }, { device: '/dev/ttyNOPE9' }] })
    await until(() => details().lines[0]!.flow === 'flowing' && details().lines[1]!.flow === 'broken')
    expect(details().lines[1]!.fault!.code).toBe('serial.none')
    const master = new jsmodbus.client.RTU((await openPort(closing, far)) as never, 1, 2000)
    master.socket.emit('open')
    const words = (await master.readHoldingRegisters(0, 2)).response.body.valuesAsBuffer
    expect(words.readFloatBE(0)).toBe(71.5)
    expect(session.status().clients[0]).toMatchObject({ id: near, lastAsked: 'reads holding/0 to 1 of unit 1' })
    pull()
    await until(() => details().lines[0]!.flow === 'broken')
    // the door beside it never notices
    expect(await exceptionOf((await foreignClient(closing, port)).readHoldingRegisters(0, 2))).toBe(null)
  })
})

describe.skipIf(!hasLibmodbus)('the C library of this system', () => {
  const steps = [
    { what: 'holding' as const, at: 0, count: 8 },
    { what: 'coils' as const, at: 0, count: 1 },
    { what: 'input' as const, at: 0, count: 4 },
    { what: 'holding' as const, at: 7, count: 2 },
    { what: 'write' as const, at: 20, values: [0, 0x4422] },
    { what: 'switch' as const, at: 0, on: false },
    { what: 'mask' as const, at: 7, and: 0xffef, or: 0x10 },
    { what: 'write' as const, at: 0, values: [1] },
  ]
  const right = ['Illegal data address', 2, 1]
  const looked = (answers: unknown[]) => {
    const words = Buffer.alloc(16)
    for (const [i, word] of (answers[0] as number[]).entries()) words.writeUInt16BE(word, 2 * i)
    expect([words.readFloatBE(0), words.readInt16BE(4), words.readBigUInt64BE(6)]).toEqual([71.5, 1234, 9_007_199_254_740_993n])
    expect(answers.slice(1, 2)).toEqual([[1]])
    expect(answers.slice(3, 6)).toEqual(right)
    expect(answers[7]).toBe('Illegal data address')
  }

  it('reads and writes over TCP', async () => {
    const { port, written, limit, breaker, horn } = await berth()
    looked(await askedByLibmodbus('tcp', '127.0.0.1', port, steps))
    expect(written.map(({ handle, value }) => [handle, value])).toEqual([
      [limit.handle, 648],
      [breaker.handle, false],
      [horn.handle, true],
    ])
  })

  it('reads and writes at a serial port', async () => {
    const { near, far } = await serialPair(closing)
    const { details, written } = await berth({ lines: [{ device: near }] })
    await until(() => details().lines[0]!.flow === 'flowing')
    looked(await askedByLibmodbus('rtu', far, 19_200, steps))
    expect(written.map(({ value }) => value)).toEqual([648, false, true])
  })
})

describe('other ways in', () => {
  it('frames of serial lines over TCP: answered under their check, to all without an answer, noise told', async () => {
    const { port, details, written } = await berth({ doors: [{ framing: 'rtu' }] })
    const socket = await dialled(closing, port)
    const who = await exchanged(socket, encodeRtu(1, hex('2B 0E 04 01')), 25)
    expect(who.subarray(1, -2)).toEqual(Buffer.concat([hex('2B 0E 04 82 00 00 01 01 0D'), Buffer.from('Modbus outlet')]))
    // 01 03 0002 0001 with its check 25CA; the answer 01 03 02 04D2 with 3AD9
    expect(await exchanged(socket, hex('01 03 0002 0001 25CA'), 7)).toEqual(hex('01 03 02 04D2 3AD9'))
    socket.write(encodeRtu(0, hex('05 0000 0000')))
    await until(() => written.length === 1)
    expect(await exchanged(socket, Buffer.concat([hex('FF00 01'), encodeRtu(1, hex('03 0002 0001'))]), 7)).toEqual(
      hex('01 03 02 04D2 3AD9'),
    )
    expect(details().refused[0]!.text).toMatch(/no frame/)
  })

  it('frames in letters', async () => {
    const { port } = await berth({ doors: [{ framing: 'ascii' }] })
    const socket = await dialled(closing, port)
    const answer = encodeAscii(1, hex('03 02 04D2')).toString('latin1')
    expect((await exchanged(socket, Buffer.from(':010300020001F9\r\n'), answer.length)).toString('latin1')).toBe(answer)
  })

  it('ends whoever speaks something else, and goes on', async () => {
    const { port, details } = await berth()
    const stranger = await dialled(closing, port)
    const ended = new Promise((resolve) => stranger.once('close', resolve))
    stranger.write('GET / HTTP/1.1\r\nhost: panel\r\n\r\n')
    await ended
    expect(details().refused[0]!.text).toMatch(/sent what is not Modbus TCP/)
    expect(await exceptionOf((await foreignClient(closing, port)).readHoldingRegisters(0, 2))).toBe(null)
  })

  it('is checked as a client would', async () => {
    const { session } = await berth()
    const steps = []
    for await (const step of session.check(0)!) steps.push(step)
    expect(steps.at(-2)).toMatchObject({ flow: 'flowing', evidence: 'answered a read of holding/0 to 1 of unit 1' })
  })

  it('answers a flood in order, and holds no more than may wait', async () => {
    const { port } = await berth()
    const client = await foreignClient(closing, port)
    const all = await Promise.all(Array.from({ length: 2000 }, (_, i) => client.readHoldingRegisters(i % 3, 1)))
    expect(all).toHaveLength(2000)
    expect(all[2]!.response.body.valuesAsArray).toEqual([1234])
  })
})

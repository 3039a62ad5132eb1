import { createServer, Socket, type Server } from 'node:net'
import jsmodbus from 'jsmodbus'
import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest'
import { usualOdd } from '#core/tags/odd'
import { quality } from '#core/tags/quality'
import { Gateway } from '#standins/modbus/gateway'
import { Meter } from '#standins/modbus/meter'
import { Berth } from '#standins/physics/berth'
import { openSession, settingsFor } from '../support/modbusSession'
import { until } from '../support/until'

/** Both sides against a Modbus implementation that is not ours. */

let server: Server
let port: number
const holding = Buffer.alloc(2000)
const input = Buffer.alloc(2000)
const coils = Buffer.alloc(100)
const discrete = Buffer.alloc(100)
const open: { close(): Promise<void> }[] = []

beforeAll(async () => {
  server = createServer()
  new jsmodbus.server.TCP(server, { holding, input, coils, discrete })
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
  port = (server.address() as { port: number }).port
})
afterEach(async () => {
  for (const session of open.splice(0)) await session.close()
})
afterAll(() => void server.close())

const sessionWith = (...args: Parameters<typeof openSession>) => {
  const made = openSession(...args)
  open.push(made.session)
  return made
}

describe('our link reads a foreign server', () => {
  it('and what is odd there becomes what was chosen, until it is a value again', async () => {
    const odd = { ...usualOdd, codes: [{ raw: '0x8000', then: 'bad' as const }] }
    holding.writeFloatBE(21.5, 400)
    holding.writeInt16BE(650, 404)
    holding.writeFloatBE(NaN, 408)
    const made = sessionWith(settingsFor(port), [
      { address: 'holding/200', type: 'float32', more: { odd: { ...usualOdd, nan: 'last', infinite: 99 } } },
      { address: 'holding/202', type: 'int16', more: { odd, scaling: { gain: 0.1, offset: 0 } } },
      { address: 'holding/204', type: 'float32', more: { odd: { ...usualOdd, nan: 'last' } } },
    ])
    const [warm, tenth, never] = ['holding/200', 'holding/202', 'holding/204']
    const shows = () => [warm!, tenth!].map((address) => [made.value(address), made.quality(address)])
    await until(() => made.quality(warm!) === quality.Good && made.quality(tenth!) === quality.Good)
    expect([made.value(never!), made.quality(never!)]).toEqual([undefined, quality.BadSensorFailure])

    holding.writeFloatBE(NaN, 400)
    holding.writeUInt16BE(0x8000, 404)
    await until(() => made.quality(tenth!) !== quality.Good && made.quality(warm!) !== quality.Good)
    expect(shows()).toEqual([
      [21.5, quality.UncertainLastUsableValue],
      [65, quality.BadSensorFailure],
    ])
    expect(made.session.origin(made.handleOf(tenth!))!.stages.map(({ title }) => title)).toContain('Odd value')

    holding.writeFloatBE(-Infinity, 400)
    holding.writeInt16BE(-120, 404)
    await until(() => made.value(tenth!) === -12 && made.value(warm!) === 99)
    expect(shows()).toEqual([
      [99, quality.UncertainSubstituteValue],
      [-12, quality.Good],
    ])
  })

  it('digits as such, and what holds none is no value', async () => {
    holding.writeUInt16BE(0x0412, 500)
    const options = { coding: 'bcd' }
    const made = sessionWith(settingsFor(port), [
      { address: 'holding/250', type: 'uint16', more: { options, scaling: { gain: 0.1, offset: 0 } } },
      { address: 'holding/252', type: 'uint32', more: { options: { ...options, order: 'CDAB' } } },
    ])
    const [tenth, wide] = ['holding/250', 'holding/252'] as const
    await until(() => made.quality(wide) === quality.Good)
    expect(made.value(tenth)).toBeCloseTo(41.2, 9)
    const { readings } = made.session.origin(made.handleOf(tenth))!
    expect(readings.find(({ inUse }) => inUse)).toMatchObject({ label: 'BCD, 4 digits', takes: { type: 'uint16', options } })

    expect(await made.write(wide, 12_345_678)).toEqual({ ok: true })
    expect(holding.subarray(504, 508).toString('hex')).toBe('56781234')
    expect(await made.write(wide, 123_456_789)).toMatchObject({ ok: false, quality: quality.BadOutOfRange, fault: { code: 'write.value' } })

    holding.writeUInt16BE(0x04f2, 500)
    await until(() => made.quality(tenth) === quality.BadSensorFailure)
    expect(made.value(tenth)).toBeCloseTo(41.2, 9)
    expect(made.session.origin(made.handleOf(tenth))!.stages.map(({ text }) => text)).toContain('no decimal digits')
  })

  it('every type, table and order, with the values that were put there', async () => {
    holding.writeFloatBE(1481.5, 80)
    holding.writeDoubleBE(-2.5, 84)
    holding.writeBigUInt64BE(2n ** 63n + 5n, 92)
    holding.writeInt32BE(-70000, 100)
    holding.writeInt16BE(-703, 104)
    holding.write('HSM-2211-B', 106, 'latin1')
    holding.writeUInt16BE(0b10010, 120)
    // 123456.7890625 with its low word first
    holding.writeUInt16BE(0x2065, 122)
    holding.writeUInt16BE(0x47f1, 124)
    input.writeUInt32BE(4_000_000_000, 0)
    coils[0] = 0b1000
    discrete[0] = 0b10

    const { value, quality: qualityOf } = sessionWith(settingsFor(port), [
      { address: 'holding/40', type: 'float32' },
      { address: 'holding/42', type: 'float64' },
      { address: 'holding/46', type: 'uint64' },
      { address: 'holding/50', type: 'int32' },
      { address: 'holding/52', type: 'int16', more: { scaling: { gain: 0.1, offset: 0 } } },
      { address: 'holding/53', type: 'string', more: { options: { length: 10 } } },
      { address: 'holding/60.4', type: 'bool' },
      { address: 'holding/60.3', type: 'bool' },
      { address: '400062', type: 'float32', more: { options: { order: 'CDAB' } } },
      { address: '30001', type: 'uint32' },
      { address: 'coil/3', type: 'bool' },
      { address: 'discrete/1', type: 'bool' },
    ])
    await until(
      () => qualityOf('discrete/1') === quality.Good && qualityOf('holding/40') === quality.Good && qualityOf('30001') === quality.Good,
    )
    expect(value('holding/40')).toBe(1481.5)
    expect(value('holding/42')).toBe(-2.5)
    expect(value('holding/46')).toBe(2n ** 63n + 5n)
    expect(value('holding/50')).toBe(-70000)
    expect(value('holding/52')).toBe(-70.3)
    expect(value('holding/53')).toBe('HSM-2211-B')
    expect(value('holding/60.4')).toBe(true)
    expect(value('holding/60.3')).toBe(false)
    expect(value('400062')).toBe(123456.7890625)
    expect(value('30001')).toBe(4_000_000_000)
    expect(value('coil/3')).toBe(true)
    expect(value('discrete/1')).toBe(true)
  })

  /** A quarter of the pressure is half of the flow. */
  const flow = {
    kind: 'ranges' as const,
    raw: { low: 0, high: 27648 },
    to: { low: 0, high: 250 },
    curve: 'root' as const,
    clamp: 'both' as const,
    inverted: false,
  }

  it('and writes what it then finds in the server’s memory', async () => {
    const { write, value } = sessionWith(settingsFor(port), [
      { address: 'holding/200', type: 'float32', more: { options: { order: 'CDAB' } } },
      { address: 'holding/210', type: 'int16', more: { scaling: { gain: 0.1, offset: 0 } } },
      { address: 'holding/211', type: 'uint16', more: { scaling: flow } },
      { address: 'holding/220', type: 'string', more: { options: { length: 6 } } },
      { address: 'coil/17', type: 'bool' },
    ])
    await until(() => value('holding/200') !== undefined)
    expect(await write('holding/200', 123456.789)).toEqual({ ok: true })
    expect(await write('holding/210', 70.3)).toEqual({ ok: true })
    expect(await write('holding/211', 125)).toEqual({ ok: true })
    expect(await write('holding/211', 251)).toMatchObject({ ok: false, quality: quality.BadOutOfRange, fault: { code: 'write.value' } })
    expect(await write('holding/220', 'ABC')).toEqual({ ok: true })
    expect(await write('coil/17', true)).toEqual({ ok: true })
    expect(holding.subarray(400, 404).toString('hex')).toBe('206547f1')
    expect(holding.readInt16BE(420)).toBe(703)
    expect(holding.readUInt16BE(422)).toBe(6912)
    expect(holding.subarray(440, 446).toString('latin1')).toBe('ABC\0\0\0')
    expect(coils[2]! & 0b10).toBe(0b10)
    expect(value('holding/210')).toBe(70.3)
    expect(value('holding/211')).toBe(125)
  })

  it('refuses values that do not fit, before anything is sent', async () => {
    const { write, value } = sessionWith(settingsFor(port), [
      { address: 'holding/300', type: 'int16' },
      { address: 'holding/301', type: 'int16', more: { access: 'read' } },
    ])
    await until(() => value('holding/300') === 0)
    expect(await write('holding/300', 40_000)).toMatchObject({ ok: false, quality: quality.BadOutOfRange, fault: { code: 'write.value' } })
    expect(await write('holding/300', 'much')).toMatchObject({ ok: false, quality: quality.BadTypeMismatch })
    expect(await write('holding/301', 1)).toMatchObject({ ok: false, fault: { code: 'write.not-writable' } })
    expect(holding.readInt16BE(600)).toBe(0)
  })
})

describe('a foreign client reads our stand-in', () => {
  it('and finds power that agrees with voltage, current and power factor', async () => {
    const profile = { voltage: 11_000, load: 1480, powerFactor: 0.978, ramp: 1, swing: 0, swingPeriod: 1 }
    const berth = new Berth(profile, 48_211_400, true)
    const gateway = new Gateway([new Meter(11, 1, berth, () => 0)])
    const gatewayPort = await gateway.listen(0)
    const socket = new Socket()
    const client = new jsmodbus.client.TCP(socket, 11)
    await new Promise<void>((resolve) => socket.connect(gatewayPort, '127.0.0.1', () => resolve()))
    const registers = async (offset: number, count: number) =>
      (await client.readHoldingRegisters(offset, count)).response.body.valuesAsBuffer
    const swapped = (bytes: Buffer) => Buffer.concat([bytes.subarray(2, 4), bytes.subarray(0, 2)]).readFloatBE()
    const power = swapped(await registers(40, 2))
    const reactive = swapped(await registers(42, 2))
    const factor = swapped(await registers(66, 2))
    const current = (await registers(50, 3)).readInt16BE(0) / 10
    const voltage = (await registers(60, 2)).readUInt32BE()
    expect(power).toBeGreaterThan(1000)
    expect((Math.sqrt(3) * voltage * current * factor) / 1000 / power).toBeCloseTo(1, 2)
    expect(power / Math.hypot(power, reactive)).toBeCloseTo(factor, 4)

    await client.writeMultipleRegisters(90, Buffer.from('8000453b', 'hex')) // 3000.0 with its low word first
    expect(berth.state.tripLimit).toBe(3000)
    await expect(client.readHoldingRegisters(46, 2)).rejects.toMatchObject({ response: { body: { code: 2 } } })
    socket.destroy()
    await gateway.close()
  })
})

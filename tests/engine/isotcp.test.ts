import { connect, createServer, type AddressInfo } from 'node:net'
import { afterEach, describe, expect, it } from 'vitest'
import { decodeAnswer, decodeRead, encodeRead, encodeSetup } from '#core/isotcp/pdu'
import { quality } from '#core/tags/quality'
import { checkIsoTcp } from '#engine/links/isotcp/check'
import { tryReadIsoTcp } from '#engine/links/isotcp/tryRead'
import { Wire } from '#engine/wire/wire'
import type { CheckStep } from '#shared/status'
import { converterRoute, describeConverter } from '../../standins/control/controller'
import { ConverterController } from '../../standins/isotcp/converterProgram'
import { Converter } from '../../standins/physics/converter'
import { freePort } from '../../launcher/ports.mjs'
import { controllerSettings, openController, startController } from '../support/controller'
import { closeAll, type Closing } from '../support/engineOn'
import { until } from '../support/until'

/** Our link and a controller on real sockets. */

const closing: Closing = []
afterEach(() => closeAll(closing))

const read = (address: string, type: 'int16' | 'float32' | 'bool' = 'int16') => ({ address, type })
const stepsOf = async (settings: ReturnType<typeof controllerSettings>) => {
  const steps: CheckStep[] = []
  const around = { wire: new Wire(), beside: [] }
  for await (const step of checkIsoTcp(settings, new AbortController().signal, around)) if (step.flow !== 'waiting') steps.push(step)
  return steps
}

describe('a controller', () => {
  it('is read: numbers, bits, texts, times, arrays, timers and counters', async () => {
    const { port, memory } = await startController(closing)
    const block = memory.add(10, 60)
    block.writeFloatBE(42.5, 4)
    block[8] = 0b1000
    block.set([10, 4, 0x41, 0x42, 0xe5, 0x43], 10)
    block.set([0x26, 0x11, 0x27, 0x14, 0x05, 0x09, 0x25, 0x06], 24)
    block.writeInt16BE(-7, 40)
    block.writeInt16BE(9, 42)
    memory.area('flag').writeUInt16BE(777, 2)
    memory.area('timer').writeUInt16BE(0x1127, 10)
    memory.area('counter').writeUInt16BE(0x0318, 14)
    const link = openController(closing, controllerSettings(port), [
      read('DB10.4', 'float32'),
      read('DB10.8.3', 'bool'),
      { address: 'DB10.10', type: 'string', more: { options: { length: 10 } } },
      { address: 'DB10.24', type: 'datetime' },
      { address: 'DB10.40', type: 'int16[]', more: { options: { count: 2 } } },
      { address: 'M2', type: 'uint16' },
      { address: 'T5', type: 'uint32' },
      { address: 'C7', type: 'uint16' },
    ])
    await link.good('C7')
    expect(link.points.map(({ address }) => link.value(address))).toEqual([
      ...[42.5, true, 'ABåC', Date.UTC(2026, 10, 27, 14, 5, 9, 250), [-7, 9], 777, 12_700, 318],
    ])
    block.writeFloatBE(43, 4)
    await until(() => link.value('DB10.4') === 43)
    const origin = link.session.origin(link.handleOf('DB10.4'))!
    expect(origin.stages.map(({ title, text }) => [title, text]).slice(0, 2)).toEqual([
      ['Bytes on the wire', '42 2C 00 00'],
      ['Read as float32', '43'],
    ])
    expect(link.session.status()).toMatchObject({
      flow: 'flowing',
      connections: 1,
      sentence: expect.stringContaining('240 bytes') as string,
    })
  })

  it('is asked in as few requests as fit, and a text longer than a request comes in parts', async () => {
    const { controller, port, memory } = await startController(closing)
    const block = memory.add(1, 1000)
    block.set([254, 250, ...Buffer.from('x'.repeat(249) + 'y')], 600)
    const many = Array.from({ length: 100 }, (_, i) => read(`DB1.${4 * i}`))
    const link = openController(closing, controllerSettings(port, { interval: 60_000 }), [
      ...many,
      { address: 'DB1.600', type: 'string', more: { options: { length: 254 } } },
    ])
    await Promise.all([link.good('DB1.396'), link.good('DB1.600')])
    expect(link.value('DB1.600')).toBe('x'.repeat(249) + 'y')
    // the negotiation, two requests for 398 bytes in a row, and what is left of the text beside them
    expect(controller.requests).toBeLessThanOrEqual(1 + 4)
  })

  it('is written: numbers, a bit beside others, texts, and read back', async () => {
    const { port, memory } = await startController(closing)
    const block = memory.add(20, 64)
    block[10] = 0b1010_0101
    block[20] = 12
    const link = openController(closing, controllerSettings(port), [
      read('DB20.0', 'float32'),
      read('DB20.10.1', 'bool'),
      { address: 'DB20.20', type: 'string', more: { options: { length: 12 } } },
      { address: 'DB20.40', type: 'int16[]', more: { options: { count: 3 } } },
    ])
    await link.good('DB20.0')
    expect(await link.write('DB20.0', 50)).toEqual({ ok: true })
    expect([block.readFloatBE(0), link.value('DB20.0')]).toEqual([50, 50])
    expect(await link.write('DB20.10.1', true)).toEqual({ ok: true })
    expect(block[10]).toBe(0b1010_0111)
    expect(await link.write('DB20.20', 'Aurora')).toEqual({ ok: true })
    expect([block[20], block[21], link.value('DB20.20')]).toEqual([12, 6, 'Aurora'])
    expect(await link.write('DB20.40', [1, -2, 3])).toEqual({ ok: true })
    expect(link.value('DB20.40')).toEqual([1, -2, 3])
    expect(await link.write('DB20.20', 'far too long for it')).toMatchObject({ ok: false, fault: { code: 'write.value' } })
    expect(await link.write('DB20.40', [1])).toMatchObject({ ok: false, fault: { code: 'write.value' } })
  })

  it('that protects a block, has none, or one without addresses is told at its tags, and the others go on', async () => {
    const { port, memory } = await startController(closing)
    memory.add(1, 10)
    memory.add(2, 10, 'denied')
    memory.add(3, 10, 'symbolic')
    const link = openController(closing, controllerSettings(port), [read('DB1.0'), read('DB2.0'), read('DB3.0'), read('DB4.0')])
    await link.good('DB1.0')
    await link.is('DB2.0', quality.BadUserAccessDenied)
    await link.is('DB3.0', quality.BadConfigurationError)
    await link.is('DB4.0', quality.BadConfigurationError)
    expect(link.session.status()).toMatchObject({ flow: 'flowing' })
    expect(link.session.status().refused).toHaveLength(3)
    expect(link.session.findings().map(({ text }) => text)).toEqual([
      expect.stringContaining('access is not allowed'),
      expect.stringContaining('no fixed addresses'),
      expect.stringContaining('no fixed addresses'),
    ])
    expect(await link.write('DB2.0', 1)).toMatchObject({ ok: false, fault: { code: 'iso.piece' } })
  })

  it('whose block ends early is asked around that, until what is past the end stands alone', async () => {
    const { port, memory } = await startController(closing)
    memory.add(1, 20)
    const link = openController(
      closing,
      controllerSettings(port),
      [0, 4, 8, 12, 16, 20, 24].map((at) => read(`DB1.${at}`, 'float32')),
    )
    await Promise.all([0, 4, 8, 12, 16].map((at) => link.good(`DB1.${at}`)))
    await link.is('DB1.20', quality.BadConfigurationError)
    await link.is('DB1.24', quality.BadConfigurationError)
    expect(link.session.status().refused!.map(({ address }) => address)).toEqual(['DB1.20', 'DB1.24'])
  })

  it('that grants less is asked in smaller requests, and by no more at once than it takes', async () => {
    const { controller, port, memory } = await startController(closing, { size: 112, parallel: 1, turnaround: 5 })
    memory.add(1, 400)
    const link = openController(closing, controllerSettings(port, { interval: 2000, requests: { size: 960, parallel: 8 } }), [
      ...Array.from({ length: 100 }, (_, i) => read(`DB1.${4 * i}`)),
    ])
    await Promise.all(link.points.map(({ address }) => link.good(address)))
    expect(link.session.status().sentence).toContain('112 bytes, 1 under way')
    expect(controller.requests).toBeGreaterThan(4)
  })

  it('is spread over as many connections as it has, and one that it does not have is told and left', async () => {
    const { controller, port, memory } = await startController(closing, { connections: 2 })
    memory.add(1, 400)
    const link = openController(closing, controllerSettings(port, { requests: { connections: 4 } }), [read('DB1.0')])
    await link.good('DB1.0')
    await until(() => link.journal.entries.some(({ text }) => text.includes('takes no more than 2 connections')))
    expect([controller.connections, link.session.status().connections]).toEqual([2, 2])
    // it may have more places once it was away
    controller.options.connections = 8
    controller.dropAll()
    await until(() => link.session.status().connections === 4)
  })

  it('is told as lost at once, with all of its values, and comes back', async () => {
    const { controller, port, memory } = await startController(closing)
    memory.add(1, 10)
    const link = openController(closing, controllerSettings(port), [read('DB1.0')])
    await link.good('DB1.0')
    controller.fault = 'taken'
    controller.dropAll()
    await link.is('DB1.0', quality.BadNotConnected)
    await until(() => link.session.status().fault?.code === 'iso.refused-place')
    expect(await link.write('DB1.0', 1)).toMatchObject({ ok: false, quality: quality.BadNotConnected })
    controller.fault = null
    await link.good('DB1.0')
    expect(link.journal.entries.map(({ text }) => text)).toContain('Connected again.')
  })

  it('that falls silent, shuts itself or speaks something else loses the good quality of its values', async () => {
    const { controller, port, memory } = await startController(closing)
    memory.add(1, 10)
    const link = openController(closing, controllerSettings(port), [read('DB1.0')])
    await link.good('DB1.0')
    controller.fault = 'silence'
    await link.is('DB1.0', quality.UncertainLastUsableValue)
    await until(() => link.session.status().flow === 'broken')
    expect(await link.write('DB1.0', 5)).toMatchObject({ ok: false })
    controller.fault = null
    await link.good('DB1.0')
    controller.fault = 'shut'
    await link.is('DB1.0', quality.BadDeviceFailure)
    expect(link.session.origin(link.handleOf('DB1.0'))!.fault).toMatchObject({ code: 'iso.request' })
    controller.fault = 'garbage'
    await until(() => link.session.status().fault?.code === 'iso.not-iso')
    controller.fault = null
    await link.good('DB1.0')
  })

  it('gives a tag that goes elsewhere no value of its old place', async () => {
    const { port, memory } = await startController(closing)
    memory.add(1, 10).writeInt16BE(7, 0)
    const link = openController(closing, controllerSettings(port), [read('DB1.0')])
    await link.good('DB1.0')
    const [point] = link.points
    link.session.setPoints([{ ...point!, address: 'DB2.0' }], [])
    expect(link.table.values[point!.handle]).toBeUndefined()
    await until(() => link.table.quality[point!.handle] === quality.BadConfigurationError)
    expect(link.table.values[point!.handle]).toBeUndefined()
  })
})

describe('the check of a controller', () => {
  it('walks to a first read, with what each step brought', async () => {
    const { port } = await startController(closing)
    expect((await stepsOf(controllerSettings(port))).map(({ title, evidence }) => [title, evidence])).toEqual([
      ['Name', '127.0.0.1, numeric already'],
      ['Port', `TCP ${port} open`],
      ['Transport connection', 'taken at rack 0, slot 2 (operator connection), TSAP 02.02'],
      ['Size of requests', '240 bytes of the 480 that were asked for, 2 requests under way at once'],
      ['First read', 'flag, byte 0 is 0'],
    ])
  })
  it.each<[string, object, string, string]>([
    ['another slot', { way: { by: 'slot', slot: 3 } }, 'Transport connection', 'iso.refused-place'],
    ['TSAPs that nobody has', { way: { by: 'tsap', theirs: '4D.57' } }, 'Transport connection', 'iso.refused-place'],
  ])('stops where the connection is refused: %s', async (_, more, title, code) => {
    const { port } = await startController(closing)
    const broken = (await stepsOf(controllerSettings(port, more))).find(({ flow }) => flow === 'broken')
    expect(broken).toMatchObject({ title, fault: { code, what: expect.stringContaining('nobody is attached') as string } })
  })
  it('tells a controller without a free place, a silent one, another service and nobody apart', async () => {
    const { controller, port } = await startController(closing, { connections: 0 })
    const broken = async (at: number) => (await stepsOf(controllerSettings(at))).find(({ flow }) => flow === 'broken')?.fault?.code
    expect(await broken(port)).toBe('iso.refused-place')
    controller.fault = null
    const other = createServer((socket) => socket.on('error', () => {}).on('data', () => socket.write('HTTP/1.1 400 Bad Request\r\n\r\n')))
    const mute = createServer((socket) => void socket.on('error', () => {}).resume())
    for (const server of [other, mute]) {
      await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
      closing.push(() => new Promise<void>((resolve) => server.close(() => resolve())))
    }
    expect(await broken((other.address() as AddressInfo).port)).toBe('iso.not-iso')
    expect(await broken((mute.address() as AddressInfo).port)).toBe('iso.no-confirm')
    expect(await broken(await freePort())).toBe('tcp.refused')
  })
  it('over the connections of the link reads a byte of each block that tags read', async () => {
    const { port, memory } = await startController(closing)
    memory.add(1, 10)
    memory.add(2, 10, 'denied')
    const link = openController(closing, controllerSettings(port), [read('DB1.0'), read('DB2.0')])
    await link.good('DB1.0')
    const steps: CheckStep[] = []
    for await (const step of link.session.check()!) steps.push(step)
    expect(steps.at(-1)).toMatchObject({ flow: 'broken', fault: { what: expect.stringContaining('DB2, byte 0') as string } })
  })
})

describe('an address that is tried', () => {
  it('shows its bytes and its value, or why there is none', async () => {
    const { port, memory } = await startController(closing)
    memory.add(1, 10).writeInt16BE(300, 4)
    const tried = (address: string) =>
      tryReadIsoTcp(controllerSettings(port), { address, type: 'int16', options: {}, access: 'read' }, new Wire())
    expect((await tried('DB1.4')).stages.map(({ text }) => text)).toEqual(['01 2C', '300'])
    expect((await tried('DB1.40')).fault).toMatchObject({ code: 'iso.piece', what: expect.stringContaining('past the end') as string })
    expect((await tried('DB7.0')).fault).toMatchObject({ code: 'iso.piece' })
  })
})

describe('the stand-in', () => {
  it('follows what it is told, shows power that agrees with voltage and current, and has one fault at a time', async () => {
    const made = new ConverterController(new Converter())
    const port = await made.controller.listen(0)
    closing.push(() => made.controller.close())
    const link = openController(closing, controllerSettings(port), [8, 12, 16].map((at) => read(`DB10.${at}`, 'float32')).concat(read('DB20.0', 'float32'))) // prettier-ignore
    await link.good('DB10.16')
    const [volts, amps, kw] = [8, 12, 16].map((at) => link.value(`DB10.${at}`) as number)
    expect((Math.sqrt(3) * volts! * amps! * 0.96) / 1000).toBeCloseTo(kw!, 0)
    expect(await link.write('DB20.0', 50)).toEqual({ ok: true })
    made.step(30)
    expect(made.converter.state).toMatchObject({ setFrequency: 50, frequency: 50, atSetPoint: true })
    const tell = (body: object) => converterRoute(made, '/api/converter/fault', () => Promise.resolve(body as Record<string, unknown>))
    expect(await tell({ fault: 'flood' })).toMatchObject({ status: 400 })
    await tell({ fault: 'slow' })
    await tell({ fault: 'shut' })
    expect(describeConverter(made).active).toEqual(['shut'])
    await link.is('DB10.16', quality.BadDeviceFailure)
    await tell({ fault: 'shut', on: false })
    await link.good('DB10.16')
  })
  it('answers a client that is not ours, byte by byte', async () => {
    const { port, memory } = await startController(closing)
    memory.add(1, 4)[0] = 0x2a
    const socket = connect(port, '127.0.0.1')
    closing.unshift(() => Promise.resolve(socket.destroy()))
    const came: Buffer[] = []
    socket.on('data', (chunk) => came.push(chunk))
    const say = async (hex: string, bytes: number) => {
      came.length = 0
      for (const byte of Buffer.from(hex.replaceAll(' ', ''), 'hex')) socket.write(Buffer.from([byte]))
      await until(() => Buffer.concat(came).length >= bytes)
      return Buffer.concat(came)
    }
    expect((await say('03 00 00 16 11 E0 00 00 00 01 00 C1 02 01 00 C2 02 02 02 C0 01 09', 22))[5]).toBe(0xd0)
    const wrap = (pdu: Buffer) => `0300${(pdu.length + 7).toString(16).padStart(4, '0')}02F080${pdu.toString('hex')}`
    await say(wrap(encodeSetup(1, { parallel: 1, size: 480 })), 27)
    const piece = { area: 'block' as const, block: 1, offset: 0, bit: null, count: 1 }
    const answer = decodeAnswer((await say(wrap(encodeRead(2, [piece])), 26)).subarray(7))
    expect(answer.ok && decodeRead(answer.value, [piece])).toMatchObject({ value: [{ ok: true, data: Buffer.from([0x2a]) }] })
  })
})

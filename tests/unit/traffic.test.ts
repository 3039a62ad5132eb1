import fc from 'fast-check'
import mqttPacket from 'mqtt-packet'
import { describe, expect, it } from 'vitest'
import { encodeRtu } from '#core/modbus/rtu'
import { encodeAscii } from '#core/modbus/ascii'
import { linkKinds } from '#core/links/registry'
import { outletKinds } from '#core/outlets/registry'
import { decoderFor } from '#core/traffic/decode'
import type { FrameDecoder, FrameField, Memory } from '#core/traffic/told'

/** What frames say: examples of the standards, packets of another encoder, and bytes of any kind. */

const bytesOf = (hex: string) => Uint8Array.from(Buffer.from(hex.replace(/\s/g, ''), 'hex'))
const decode = (kind: string, bytes: Uint8Array, fromClient: boolean, memory?: Memory) => decoderFor(kind)!(bytes, fromClient, memory)
const means = (fields: FrameField[]) => Object.fromEntries(fields.map(({ name, means }) => [name, means]))

describe('Modbus TCP, by the examples of the application protocol (V1.1b3, 6)', () => {
  const tcp = (pdu: string) => {
    const body = bytesOf(pdu)
    return Uint8Array.from([0x1a, 0x2f, 0, 0, 0, body.length + 1, 11, ...body])
  }
  it.each([
    ['6.1', '01 0013 0013', true, 'read coil/19 … 37 of unit 11', 'fine'],
    ['6.1', '01 03 CD6B05', false, '24 bits', 'fine'],
    ['6.3', '03 006B 0003', true, 'read holding/107 … 109 of unit 11', 'fine'],
    ['6.3', '03 06 022B 0000 0064', false, '3 words', 'fine'],
    ['6.4', '04 0008 0001', true, 'read input/8 of unit 11', 'fine'],
    ['6.5', '05 00AC FF00', true, 'write coil/172: on of unit 11', 'fine'],
    ['6.6', '06 0001 0003', true, 'write holding/1: 3 of unit 11', 'fine'],
    ['6.11', '0F 0013 000A 02 CD01', true, 'write coil/19 … 28 of unit 11', 'fine'],
    ['6.12', '10 0001 0002 04 000A 0102', true, 'write holding/1 … 2 of unit 11', 'fine'],
    ['6.12', '10 0001 0002', false, 'written, holding/1 … 2', 'fine'],
    ['6.16', '16 0004 00F2 0025', true, 'mask holding/4 of unit 11', 'fine'],
    ['6.17', '17 0003 0006 000E 0003 06 00FF 00FF 00FF', true, 'read holding/3 … 8, write holding/14 … 16 of unit 11', 'fine'],
    ['7', '83 02', false, 'exception 2, ILLEGAL DATA ADDRESS', 'refused'],
  ])('%s: %s', (_, pdu, fromClient, summary, outcome) => {
    const { told, fields } = decode('modbus-tcp', tcp(pdu), fromClient)
    expect(told).toMatchObject({ summary, outcome, key: '6703 11', about: 'unit 11', role: fromClient ? 'request' : 'answer' })
    expect(fields.some(({ isWrong }) => isWrong)).toBe(outcome === 'refused')
  })

  it('says what each field of a frame means, and where it lies', () => {
    const { fields } = decode('modbus-tcp', tcp('83 02'), false)
    expect(fields.map(({ name, at, length, means }) => `${name} ${at}+${length} ${means}`)).toEqual([
      'transaction 0+2 6703',
      'protocol 2+2 Modbus',
      'length 4+2 3 bytes follow',
      'unit 6+1 11',
      'function 7+1 read holding registers, refused',
      expect.stringMatching(/^exception 8\+1 2, ILLEGAL DATA ADDRESS: /),
    ])
  })

  it('tells a frame that ends early, one that is longer than it says, and one that is none', () => {
    expect(decode('modbus-tcp', tcp('03 006B 0003').subarray(0, 9), true).told).toMatchObject({
      outcome: 'odd',
      summary: /too early/ as never,
    })
    expect(decode('modbus-tcp', Uint8Array.from([...tcp('83 02'), 1, 2]), false).fields.at(-1)).toMatchObject({ name: 'rest', length: 2 })
    expect(decode('modbus-tcp', Buffer.from('HTTP/1.1 200 OK'), false).told).toMatchObject({ role: 'piece', outcome: 'odd' })
  })
})

describe('Modbus on a serial line', () => {
  const pdu = Buffer.from([3, 0, 0x6b, 0, 3])
  it('reads frames in bytes and in letters, and says whether their check is right', () => {
    for (const frame of [encodeRtu(17, pdu), encodeAscii(17, pdu)]) {
      const { told, fields } = decode('modbus-line', new Uint8Array(frame), true)
      expect(told).toMatchObject({ summary: 'read holding/107 … 109 of unit 17', outcome: 'fine' })
      expect(fields.find(({ name }) => name === 'check')!.means).toMatch(/, right$/)
    }
  })

  it('notices any single bit that is wrong', () => {
    const frame = encodeRtu(17, pdu)
    fc.assert(
      fc.property(fc.integer({ min: 8, max: frame.length * 8 - 1 }), (bit) => {
        const broken = Uint8Array.from(frame)
        broken[bit >> 3]! ^= 1 << (bit & 7)
        expect(decode('modbus-line', broken, true).told.outcome).toBe('odd')
      }),
    )
  })
})

describe('MQTT, as another encoder writes it', () => {
  const packet = (made: object, level: 4 | 5 = 4) =>
    new Uint8Array(mqttPacket.generate(made as mqttPacket.Packet, { protocolVersion: level }))
  const connect = {
    cmd: 'connect',
    protocolId: 'MQTT',
    clientId: 'quay-1',
    username: 'office',
    password: Buffer.from('harrow'),
    keepalive: 30,
    clean: true,
  }

  it.each([4, 5] as const)('version %s: from the connection to its end', (level) => {
    const memory: Memory = {}
    const told = (made: object, fromClient = true) => decode('mqtt', packet(made, level), fromClient, memory).told
    const properties = level === 5 ? { properties: { messageExpiryInterval: 60 } } : {}
    expect(told({ ...connect, protocolVersion: level })).toMatchObject({
      summary: 'connect “quay-1” as office, keep alive 30 s',
      key: 'connect',
    })
    expect(memory.level).toBe(level)
    expect(told({ cmd: 'connack', returnCode: 0, reasonCode: 0, sessionPresent: false }, false)).toMatchObject({
      summary: 'let in',
      role: 'answer',
      key: 'connect',
    })
    const lamp = {
      cmd: 'publish',
      topic: 'quay/lamp',
      payload: '{"on":true}',
      qos: 1,
      messageId: 7,
      retain: true,
      dup: false,
      ...properties,
    }
    expect(told(lamp)).toMatchObject({ summary: 'quay/lamp: {"on":true}, retained', role: 'request', key: 'p7', about: 'quay/lamp' })
    expect(told({ cmd: 'puback', messageId: 7, reasonCode: 0 }, false)).toMatchObject({ role: 'answer', key: 'p7', outcome: 'fine' })
    expect(told({ cmd: 'subscribe', messageId: 8, subscriptions: [{ topic: 'quay/#', qos: 1 }] })).toMatchObject({
      summary: 'listen to quay/#',
      key: 's8',
    })
    expect(told({ cmd: 'suback', messageId: 8, granted: [level === 5 ? 0x87 : 0x80] }, false)).toMatchObject({
      outcome: 'refused',
      key: 's8',
    })
    expect(told({ cmd: 'pingreq' })).toMatchObject({ key: 'ping', role: 'request' })
    expect(told({ cmd: 'disconnect', reasonCode: level === 5 ? 0x8e : undefined }, false).outcome).toBe(level === 5 ? 'refused' : 'fine')
  })

  it('shows the length of a password, and not the password', () => {
    const { fields } = decode('mqtt', packet({ ...connect, protocolVersion: 4 }), true)
    expect(means(fields)).toMatchObject({ name: '“office”', password: '6 bytes, not shown' })
    expect(JSON.stringify(fields)).not.toContain('harrow')
  })

  it('says why somebody is not let in', () => {
    expect(decode('mqtt', bytesOf('20 02 00 05'), false).told).toMatchObject({
      outcome: 'refused',
      summary: expect.stringMatching(/^not let in: /),
    })
  })
})

describe('frames of a database', () => {
  it('say of an empty statement that it is one', () => {
    expect(decoderFor('sql')!(bytesOf('51 00000005 00'), true, {}).told.summary).toBe('an empty statement')
  })
})

const kinds = [...linkKinds, ...outletKinds].filter((kind) => decoderFor(kind) !== null)

describe('every decoder', () => {
  const sound = (decoder: FrameDecoder, bytes: Uint8Array, fromClient: boolean, level?: number) => {
    const { told, fields } = decoder(bytes, fromClient, level === undefined ? {} : { level })
    expect(told.summary.length).toBeGreaterThan(0)
    for (const { at, length } of fields) expect(at >= 0 && length >= 0 && at + length <= bytes.length).toBe(true)
  }

  it.each(kinds)('%s takes any bytes, and names only fields that lie within them', (kind) => {
    const decoder = decoderFor(kind)!
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 80 }), fc.boolean(), fc.constantFrom(undefined, 4, 5), (bytes, fromClient, level) =>
        sound(decoder, bytes, fromClient, level),
      ),
      { numRuns: 2000 },
    )
  })

  it.each(kinds)('%s takes frames that are cut or changed anywhere', (kind) => {
    const decoder = decoderFor(kind)!
    const whole = [
      bytesOf('1A2F 0000 000D 0B 17 0003 0006 000E 0003 02 00FF'),
      bytesOf('81 0A 00 17 01 00 30 01 0C 0C 00 00 00 05 19 55 3E 44 42 90 99 9A 3F'),
      bytesOf('0300001f02f08032010000000500 0e0000 0401120a10020004000a8400 0020'),
      bytesOf('4D534746 38000000 09000000 04000000 33000000 07000000 01007A02 0000000000000000000000000000 00000000 01000000 0D000000'),
      new Uint8Array(Buffer.from('HTTP/1.1 200 OK\r\nhost: quay\r\n\r\n{}')),
      bytesOf('44 0000000A 0001 00000000 43 0000000D 53454C454354203200'),
      new Uint8Array(encodeRtu(17, Buffer.from([16, 0, 1, 0, 2, 4, 0, 10, 1, 2]))),
      new Uint8Array(encodeAscii(17, Buffer.from([3, 0, 0x6b, 0, 3]))),
      new Uint8Array(
        mqttPacket.generate({ cmd: 'publish', topic: 'quay', payload: 'on', qos: 1, messageId: 7, dup: false, retain: false }),
      ),
    ]
    const changed = fc.tuple(fc.constantFrom(...whole), fc.nat(40), fc.nat(40), fc.nat(255))
    fc.assert(
      fc.property(changed, fc.boolean(), ([bytes, cut, at, value], fromClient) => {
        const other = Uint8Array.from(bytes.subarray(0, Math.max(0, bytes.length - cut)))
        if (at < other.length) other[at] = value
        sound(decoder, other, fromClient, 5)
      }),
      { numRuns: 2000 },
    )
  })
})

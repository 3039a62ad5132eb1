import { serialize } from 'pg-protocol'
import {
  BinaryStream,
  coerceNodeId,
  CreateMonitoredItemsResponse,
  DataChangeNotification,
  DataType,
  DataValue,
  OpenSecureChannelRequest,
  PublishResponse,
  ReadRequest,
  ReadResponse,
  ServiceFault,
  StatusCodes,
  Variant,
  VariantArrayType,
  WriteRequest,
} from 'node-opcua'
import { describe, expect, it } from 'vitest'
import { encodeRequest } from '#core/isotcp/tpkt'
import { decoderFor } from '#core/traffic/decode'
import type { Memory } from '#core/traffic/told'

/** What frames of the other protocols say: examples of the standards, and messages of other encoders. */

const bytesOf = (hex: string) => Uint8Array.from(Buffer.from(hex.replace(/\s/g, ''), 'hex'))
const decode = (kind: string, bytes: Uint8Array, fromClient: boolean, memory?: Memory) => decoderFor(kind)!(bytes, fromClient, memory)
const toldOf = (kind: string, bytes: Uint8Array, fromClient: boolean, memory?: Memory) => decode(kind, bytes, fromClient, memory).told

/** A chunk around a message that the package encodes. */
const chunk = (message: object, kind = 'MSG', part = 'F') => {
  const { schema } = message as unknown as { schema: { encodingDefaultBinary: { value: number } } }
  const content = new BinaryStream(Buffer.alloc(100_000))
  ;(message as { encode(stream: BinaryStream): void }).encode(content)
  const body = content.buffer.subarray(0, content.length)
  const before = Buffer.alloc(16 + 8 + 4)
  before.write(`${kind}${part}`, 0, 'latin1')
  before.writeUInt32LE(before.length + body.length, 4)
  before.writeUInt32LE(9, 8)
  before.writeUInt32LE(4, 12)
  before.writeUInt32LE(51, 16)
  before.writeUInt32LE(7, 20)
  before.set([1, 0, schema.encodingDefaultBinary.value & 0xff, schema.encodingDefaultBinary.value >> 8], 24)
  return new Uint8Array(Buffer.concat([before, body]))
}

describe('OPC UA, as another encoder writes it', () => {
  it('names nodes and values of what is read and written, and what is refused', () => {
    const nodesToRead = [{ nodeId: 'ns=2;s=berth/1/power', attributeId: 13 }, { nodeId: 'i=2258', attributeId: 4 }] // prettier-ignore
    expect(toldOf('opcua', chunk(new ReadRequest({ nodesToRead })), true)).toMatchObject({
      ...{ summary: 'read ns=2;s=berth/1/power, i=2258 (display name)', role: 'request', key: 'r7', call: 'read' },
      ...{ about: 'ns=2;s=berth/1/power, i=2258 (display name)', outcome: 'fine' },
    })
    const results = [new DataValue({ value: { dataType: DataType.Double, value: 1402.5 } })]
    expect(toldOf('opcua', chunk(new ReadResponse({ results })), false)).toMatchObject({ summary: '1402.5', role: 'answer', key: 'r7' })
    const gone = new DataValue({ statusCode: StatusCodes.BadNodeIdUnknown })
    expect(toldOf('opcua-server', chunk(new ReadResponse({ results: [...results, gone] })), false)).toMatchObject({
      ...{ summary: '1 of 2 values BadNodeIdUnknown', outcome: 'refused' },
    })
    const value = new DataValue({ value: { dataType: DataType.String, value: 'open' }, sourceTimestamp: new Date(), statusCode: StatusCodes.Good }) // prettier-ignore
    expect(
      toldOf('opcua', chunk(new WriteRequest({ nodesToWrite: [{ nodeId: 'ns=3;i=70000', attributeId: 13, value }] })), true),
    ).toMatchObject({
      summary: 'write ns=3;i=70000: “open”',
    })
  })

  it('reads values of every built-in type, lists among them', () => {
    const values: [DataType, unknown, string][] = [
      [DataType.Boolean, true, 'true'],
      [DataType.SByte, -7, '-7'],
      [DataType.Byte, 200, '200'],
      [DataType.Int16, -1200, '-1200'],
      [DataType.UInt16, 60_000, '60000'],
      [DataType.Int32, -70_000, '-70000'],
      [DataType.UInt32, 4_000_000_000, '4000000000'],
      [DataType.Int64, [0xffffffff, 0xfffffffe], '-2'],
      [DataType.UInt64, [1, 0], '4294967296'],
      [DataType.Float, 0.5, '0.5'],
      [DataType.DateTime, new Date('2026-11-25T14:06:45.002Z'), '2026-11-25T14:06:45.002Z'],
      [DataType.Guid, '72962b91-fa75-4ae6-8d28-b404dc7daf63', '72962b91-fa75-4ae6-8d28-b404dc7daf63'],
      [DataType.ByteString, Buffer.from([1, 2, 3]), '3 bytes'],
      [DataType.NodeId, coerceNodeId('ns=2;s=quay'), 'ns=2;s=quay'],
      [DataType.StatusCode, StatusCodes.BadTimeout, 'BadTimeout'],
      [DataType.QualifiedName, { namespaceIndex: 1, name: 'Lamp' }, 'Lamp'],
      [DataType.LocalizedText, { locale: 'en', text: 'Ferry' }, 'Ferry'],
    ]
    for (const [dataType, value, text] of values) {
      const results = [new DataValue({ value: new Variant({ dataType, value, arrayType: VariantArrayType.Scalar }) })]
      expect(`${DataType[dataType]} ${toldOf('opcua', chunk(new ReadResponse({ results })), false).summary}`).toBe(
        `${DataType[dataType]} ${text}`,
      )
    }
    const list = new Variant({ dataType: DataType.Int32, arrayType: VariantArrayType.Array, value: [1, 2, 3, 4, 5, 6] })
    expect(toldOf('opcua', chunk(new ReadResponse({ results: [new DataValue({ value: list })] })), false).summary).toBe('1 2 3 4 … (6)')
  })

  it('tells what a subscription brings, and what a server refuses altogether', () => {
    const monitoredItems = [{ clientHandle: 1, value: new DataValue({ value: { dataType: DataType.Float, value: 50.25 } }) }]
    const notificationData = [new DataChangeNotification({ monitoredItems })]
    const publish = (data: object[]) =>
      chunk(new PublishResponse({ subscriptionId: 12, notificationMessage: { sequenceNumber: 3, notificationData: data as never } }))
    expect(toldOf('opcua', publish(notificationData), false).summary).toBe('changed: 50.25 of subscription 12')
    expect(toldOf('opcua', publish([]), false).summary).toBe('alive, subscription 12, next 3')
    const results = [{ statusCode: StatusCodes.BadMonitoredItemFilterUnsupported }, { statusCode: StatusCodes.Good }]
    expect(toldOf('opcua', chunk(new CreateMonitoredItemsResponse({ results })), false)).toMatchObject({ outcome: 'refused' })
    const fault = new ServiceFault({ responseHeader: { serviceResult: StatusCodes.BadSessionIdInvalid } })
    expect(toldOf('opcua', chunk(fault), false)).toMatchObject({ summary: 'BadSessionIdInvalid', outcome: 'refused', key: 'r7' })
  })

  it('says what is secured, goes on, or comes too short', () => {
    const whole = chunk(new ReadRequest({ nodesToRead: [{ nodeId: 'i=2258' }] }))
    const closed = Uint8Array.from(whole)
    closed.set(closed.subarray(24).map((byte) => byte ^ 0x5a), 24) // prettier-ignore
    expect(toldOf('opcua', closed, true)).toMatchObject({
      summary: expect.stringMatching(/^\d+ bytes, secured/) as string,
      outcome: 'fine',
    })
    expect(toldOf('opcua', whole.subarray(0, 60), true)).toMatchObject({ outcome: 'odd', summary: expect.stringMatching(/too early$/) as string }) // prettier-ignore
    expect(decoderFor('opcua')!(whole.subarray(0, 60), true, {}, { isCut: true }).told).toMatchObject({ outcome: 'fine' })
    expect(toldOf('opcua', chunk(new ReadRequest({ nodesToRead: [] }), 'MSG', 'C'), true).summary).toBe('read, in several chunks')
  })

  it('shows nothing of what proves who somebody is', () => {
    const request = new ReadRequest({ requestHeader: { authenticationToken: 'ns=1;s=harrow-token' }, nodesToRead: [] })
    expect(JSON.stringify(decode('opcua', chunk(request), true).fields)).not.toContain('harrow-token')
  })

  it('reads how a connection begins', () => {
    const hello = Buffer.from('48454c462c0000000000000000000100000001000000000000000000' + '0c000000' + Buffer.from('opc.tcp://a:').toString('hex'), 'hex') // prettier-ignore
    expect(toldOf('opcua', hello, true)).toMatchObject({ summary: 'hello to opc.tcp://a:', key: 'hello' })
    const channel = new OpenSecureChannelRequest({ requestType: 0, securityMode: 1, requestedLifetime: 60_000 })
    const inner = chunk(channel, 'OPN')
    const policy = Buffer.from('http://opcfoundation.org/UA/SecurityPolicy#None')
    const head = Buffer.alloc(4)
    head.writeUInt32LE(policy.length)
    const none = Buffer.from('ffffffffffffffff', 'hex')
    const frame = Buffer.concat([inner.subarray(0, 12), head, policy, none, inner.subarray(16)])
    expect(toldOf('opcua', new Uint8Array(frame), true).summary).toBe('open the channel, mode None, for 60000 ms')
  })
})

describe('BACnet/IP, by the examples of the standard (ANSI/ASHRAE 135, annex F)', () => {
  const ip = (apdu: string) => {
    const body = bytesOf(`01 04 ${apdu}`)
    return Uint8Array.from([0x81, 0x0a, 0, body.length + 4, ...body])
  }
  it.each([
    ['F.3.5', '00 00 01 0C 0C 00 00 00 05 19 55', true, 'read a property: analog-input 5, present-value', 'i1', 'fine'],
    [
      'F.3.5',
      '30 01 0C 0C 00 00 00 05 19 55 3E 44 42 90 99 9A 3F',
      false,
      'analog-input 5, present-value: 72.30000305175781',
      'i1',
      'fine',
    ],
    ['F.4', '50 05 0C 91 01 91 1F', false, 'read a property refused: object: unknown-object, there is no such object', 'i5', 'refused'],
    ['20.1.9', '60 05 09', false, 'rejected: it does not know this service', 'i5', 'refused'],
    ['20.1.10', '71 05 04', false, 'broken off: the answer is longer than one message, and it cannot send parts', 'i5', 'refused'],
    ['20.1.4', '20 55 0F', false, 'done: write a property', 'i85', 'fine'],
  ])('%s: %s', (_, apdu, fromClient, summary, key, outcome) => {
    expect(toldOf('bacnet-ip', ip(apdu), fromClient)).toMatchObject({ summary, key, outcome, role: fromClient ? 'request' : 'answer' })
  })

  it('reads who is there, and what broadcast managers say', () => {
    const all = bytesOf('81 0B 00 0C 01 20 FF FF 00 FF 10 08')
    expect(toldOf('bacnet-ip', all, true)).toMatchObject({ summary: 'who is', role: 'notice' })
    expect(toldOf('bacnet-ip', ip('10 00 C4 02 00 00 7B 22 01 E0 91 00 21 63'), false).summary).toBe('I am, device 123')
    expect(toldOf('bacnet-ip', bytesOf('81 00 00 06 00 30'), false)).toMatchObject({ outcome: 'refused', role: 'answer' })
  })
})

describe('a controller over ISO transport', () => {
  it('reads how a connection begins', () => {
    const frame = encodeRequest(1, { ours: Uint8Array.from([1, 0]), theirs: Uint8Array.from([1, 2]) })
    const { told, fields } = decode('iso-tcp', new Uint8Array(frame), true)
    expect(told).toMatchObject({ summary: 'asks for a connection', role: 'request', key: 'connect' })
    expect(fields.filter(({ name }) => name.endsWith('TSAP')).map(({ means }) => means)).toEqual(['01 00', '01 02'])
  })

  it.each([
    ['0300001f02f08032010000000500 0e0000 0401120a10020004000a8400 0020', true, 'read DB10.4 … 7', 'fine'],
    ['0300001f02f08032010000000500 0e0000 0401120a1001000100008100 0003', true, 'read I0.3', 'fine'],
    ['0300001d02f08032030000000500 020008 0000 0401ff040020447a0000', false, '1 place', 'fine'],
    ['0300001902f08032030000000500 020004 0000 04010a000000', false, '1 of 1 place refused: 0x0A', 'refused'],
    ['0300001302f08032030000000500 000000 8104', false, 'refused, 0x8104: this function is not offered', 'refused'],
  ])('%s', (hex, fromClient, summary, outcome) => {
    const told = toldOf('iso-tcp', bytesOf(hex), fromClient)
    expect(told.summary.startsWith(summary) ? summary : told.summary).toBe(summary)
    expect(told).toMatchObject({ outcome, key: 'r5', role: fromClient ? 'request' : 'answer' })
  })
})

describe('HTTP (RFC 9112)', () => {
  const piece = (text: string) => new Uint8Array(Buffer.from(text))
  it('tells what is asked for and what is answered, and hides what proves who somebody is', () => {
    const asked = piece('POST /spot/price?area=2 HTTP/1.1\r\nHost: prices\r\nAuthorization: Bearer harrow\r\nContent-Length: 2\r\n\r\n{}')
    const { told, fields } = decode('http', asked, true)
    expect(told).toMatchObject({
      summary: 'POST /spot/price?area=2, 2 bytes of content',
      call: 'POST',
      about: '/spot/price',
      role: 'request',
    })
    expect(JSON.stringify(fields)).not.toContain('harrow')
    expect(toldOf('http', piece('HTTP/1.1 401 Unauthorized\r\n\r\n'), false)).toMatchObject({ outcome: 'refused', role: 'answer' })
    expect(toldOf('http', piece('HTTP/1.1 200 OK\r\n\r\nabc'), false)).toMatchObject({
      summary: '200 OK, 3 bytes of content',
      outcome: 'fine',
    })
    expect(toldOf('http', piece('and so on'), false)).toMatchObject({ role: 'piece', outcome: 'fine' })
  })
})

describe('databases', () => {
  it('reads statements of PostgreSQL as another encoder writes them, and never a password', () => {
    const memory: Memory = {}
    const told = (bytes: Buffer, fromClient = true) => toldOf('sql', new Uint8Array(bytes), fromClient, memory)
    expect(told(serialize.startup({ user: 'office', database: 'calls' })).summary).toBe('begin as office, database calls')
    const { fields } = decode('sql', new Uint8Array(serialize.password('harrow')), true, memory)
    expect(JSON.stringify(fields)).not.toContain('harrow')
    expect(told(serialize.query('select * from calls\n where berth = 1'))).toMatchObject({
      ...{ summary: 'select * from calls where berth = 1', role: 'request' },
    })
    const many = Buffer.concat([serialize.parse({ text: 'insert into calls values ($1)' }), serialize.bind({ values: ['1'] }), serialize.execute(), serialize.sync()]) // prettier-ignore
    expect(told(many).summary).toBe('insert into calls values ($1), bind, execute and 1 more')
    const error = Buffer.from('45 00000028 53 4552524f5200 43 343250303100 4d 6e6f207375636820746162 6c6500 00'.replace(/ /g, ''), 'hex')
    error.writeUInt32BE(error.length - 1, 1)
    expect(told(error, false)).toMatchObject({ summary: 'refused: 42P01 no such table', outcome: 'refused' })
    const rows = bytesOf('44 0000000A 0001 00000000 44 0000000A 0001 00000000 43 0000000D 53454C454354203200')
    expect(told(Buffer.from(rows), false).summary).toBe('2 × a row, SELECT 2')
  })

  it('reads packets of MySQL (client/server protocol)', () => {
    const memory: Memory = {}
    const packet = (number: number, content: Buffer) =>
      new Uint8Array(Buffer.concat([Buffer.from([content.length, 0, 0, number]), content]))
    expect(toldOf('sql', packet(0, Buffer.from('\x0a11.8.3\0')), false, memory).summary).toBe('greeting of version 11.8.3')
    expect(toldOf('sql', packet(0, Buffer.from('\x03select 1')), true, memory)).toMatchObject({ summary: 'select 1', role: 'request' })
    const error = Buffer.concat([Buffer.from([0xff, 0x7a, 0x04]), Buffer.from('#42S02No such table')])
    expect(toldOf('sql', packet(1, error), false, memory)).toMatchObject({
      summary: 'refused: 1146 42S02 No such table',
      outcome: 'refused',
    })
  })
})

import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { encodeFrame, FrameCutter } from '#core/modbus/mbap'
import {
  decodeReply,
  decodeRequest,
  encodeException,
  encodeReply,
  encodeRequest,
  packRegisters,
  type Reply,
  type Request,
} from '#core/modbus/pdu'

const hex = (text: string) => Buffer.from(text.replace(/ /g, ''), 'hex')

/** The examples of the Modbus Application Protocol Specification V1.1b3, clause 6, byte for byte. */
const examples: { clause: string; request: Request; requestBytes: string; reply: Reply; replyBytes: string }[] = [
  {
    clause: '6.1 read coils 20–38',
    request: { fc: 1, offset: 0x13, count: 0x13 },
    requestBytes: '01 0013 0013',
    reply: { fc: 1, data: hex('CD6B05') },
    replyBytes: '01 03 CD 6B 05',
  },
  {
    clause: '6.2 read discrete inputs 197–218',
    request: { fc: 2, offset: 0xc4, count: 0x16 },
    requestBytes: '02 00C4 0016',
    reply: { fc: 2, data: hex('ACDB35') },
    replyBytes: '02 03 AC DB 35',
  },
  {
    clause: '6.3 read holding registers 108–110',
    request: { fc: 3, offset: 0x6b, count: 3 },
    requestBytes: '03 006B 0003',
    reply: { fc: 3, data: hex('022B00000064') },
    replyBytes: '03 06 022B 0000 0064',
  },
  {
    clause: '6.4 read input register 9',
    request: { fc: 4, offset: 8, count: 1 },
    requestBytes: '04 0008 0001',
    reply: { fc: 4, data: hex('000A') },
    replyBytes: '04 02 000A',
  },
  {
    clause: '6.5 write coil 173 on',
    request: { fc: 5, offset: 0xac, on: true },
    requestBytes: '05 00AC FF00',
    reply: { fc: 5, offset: 0xac, on: true },
    replyBytes: '05 00AC FF00',
  },
  {
    clause: '6.6 write register 2 to 3',
    request: { fc: 6, offset: 1, register: 3 },
    requestBytes: '06 0001 0003',
    reply: { fc: 6, offset: 1, register: 3 },
    replyBytes: '06 0001 0003',
  },
  {
    clause: '6.11 write 10 coils from 20',
    request: { fc: 15, offset: 0x13, coils: [true, false, true, true, false, false, true, true, true, false] },
    requestBytes: '0F 0013 000A 02 CD01',
    reply: { fc: 15, offset: 0x13, count: 10 },
    replyBytes: '0F 0013 000A',
  },
  {
    clause: '6.12 write two registers from 2',
    request: { fc: 16, offset: 1, registers: [0x000a, 0x0102] },
    requestBytes: '10 0001 0002 04 000A 0102',
    reply: { fc: 16, offset: 1, count: 2 },
    replyBytes: '10 0001 0002',
  },
  {
    clause: '6.16 mask write register 5',
    request: { fc: 22, offset: 4, andMask: 0x00f2, orMask: 0x0025 },
    requestBytes: '16 0004 00F2 0025',
    reply: { fc: 22, offset: 4, andMask: 0x00f2, orMask: 0x0025 },
    replyBytes: '16 0004 00F2 0025',
  },
  {
    clause: '6.17 read six from 4, write three from 15',
    request: { fc: 23, offset: 3, count: 6, writeOffset: 0x0e, registers: [0xff, 0xff, 0xff] },
    requestBytes: '17 0003 0006 000E 0003 06 00FF 00FF 00FF',
    reply: { fc: 23, data: hex('00FE 0ACD 0001 0003 000D 00FF') },
    replyBytes: '17 0C 00FE 0ACD 0001 0003 000D 00FF',
  },
]

describe('Modbus PDUs, the examples of the standard', () => {
  it.each(examples)('$clause', ({ request, requestBytes, reply, replyBytes }) => {
    expect(encodeRequest(request)).toEqual(hex(requestBytes))
    expect(decodeRequest(hex(requestBytes))).toEqual({ ok: true, value: request })
    expect(encodeReply(reply)).toEqual(hex(replyBytes))
    expect(decodeReply(hex(replyBytes), request)).toEqual({ ok: true, value: reply })
  })

  it('7: exception 2 to a read of coils', () => {
    expect(encodeException(1, 2)).toEqual(hex('81 02'))
    expect(decodeReply(hex('81 02'), { fc: 1, offset: 0x4a1, count: 1 })).toMatchObject({ ok: false, exception: 2 })
  })
})

describe('replies that do not fit the request', () => {
  const request: Request = { fc: 3, offset: 0, count: 2 }
  it.each([
    ['another function', '04 04 0001 0002'],
    ['too few bytes declared', '03 02 0001'],
    ['fewer bytes than declared', '03 04 0001'],
    ['nothing', ''],
    ['an exception without a code', '83'],
  ])('%s', (_, bytes) => expect(decodeReply(hex(bytes), request)).toMatchObject({ ok: false, problem: expect.any(String) }))

  it('an echo of something else', () => {
    expect(decodeReply(hex('06 0001 0004'), { fc: 6, offset: 1, register: 3 }).ok).toBe(false)
  })
})

describe('decoding never throws', () => {
  it('on any bytes', () => {
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 260 }), (bytes) => {
        decodeRequest(Buffer.from(bytes))
        decodeReply(Buffer.from(bytes), { fc: 16, offset: 1, registers: [1] })
        new FrameCutter().push(Buffer.from(bytes))
      }),
    )
  })
})

describe('frames', () => {
  const pdu = fc.uint8Array({ minLength: 1, maxLength: 253 }).map((bytes) => Buffer.from(bytes))
  const frame = fc.record({ transaction: fc.integer({ min: 0, max: 65535 }), unit: fc.integer({ min: 0, max: 255 }), pdu })

  it('come out whole and in order, however TCP cuts the stream', () => {
    fc.assert(
      fc.property(
        fc.array(frame, { minLength: 1, maxLength: 6 }),
        fc.array(fc.integer({ min: 1, max: 80 }), { minLength: 1 }),
        (frames, cuts) => {
          const stream = Buffer.concat(frames.map((f) => encodeFrame(f.transaction, f.unit, f.pdu)))
          const cutter = new FrameCutter()
          const found = []
          for (let at = 0, i = 0; at < stream.length; i++) {
            const length = cuts[i % cuts.length]!
            found.push(...cutter.push(stream.subarray(at, at + length)).frames)
            at += length
          }
          expect(found).toEqual(frames)
          expect(cutter.waiting).toBe(0)
        },
      ),
    )
  })

  it('report a stream that is not Modbus TCP', () => {
    expect(new FrameCutter().push(Buffer.from('HTTP/1.1 400 Bad Request')).problem).toMatch(/protocol id/)
    expect(new FrameCutter().push(hex('0001 0000 0200 01 03')).problem).toMatch(/512 bytes/)
  })

  it('carry the transaction, the length and the unit where the standard has them', () => {
    expect(encodeFrame(0x1501, 0xff, hex('03 0004 0001'))).toEqual(hex('1501 0000 0006 FF 03 0004 0001'))
  })
})

describe('registers', () => {
  it('travel high byte first', () => expect(packRegisters([0x1234, 0xff])).toEqual(hex('1234 00FF')))
})

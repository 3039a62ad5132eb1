import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { AsciiCutter, encodeAscii, lrc8 } from '#core/modbus/ascii'
import type { Cutter } from '#core/modbus/frame'
import { framesOf } from '#core/modbus/framing'
import { framings } from '#core/modbus/framings'
import { encodeReply, encodeRequest, type Reply, type Request } from '#core/modbus/pdu'
import { crc16, encodeRtu, RtuCutter } from '#core/modbus/rtu'

const hex = (text: string) => Buffer.from(text.replace(/ /g, ''), 'hex')

const word = fc.integer({ min: 0, max: 0xffff })
const requests: fc.Arbitrary<Request> = fc.oneof(
  fc.record({ fc: fc.constantFrom(1 as const, 2 as const, 3 as const, 4 as const), offset: word, count: fc.integer({ min: 1, max: 125 }) }),
  fc.record({ fc: fc.constant(5 as const), offset: word, on: fc.boolean() }),
  fc.record({ fc: fc.constant(6 as const), offset: word, register: word }),
  fc.record({ fc: fc.constant(15 as const), offset: word, coils: fc.array(fc.boolean(), { minLength: 1, maxLength: 40 }) }),
  fc.record({ fc: fc.constant(16 as const), offset: word, registers: fc.array(word, { minLength: 1, maxLength: 123 }) }),
  fc.record({ fc: fc.constant(22 as const), offset: word, andMask: word, orMask: word }),
)
const replies: fc.Arbitrary<Reply> = fc.oneof(
  fc.record({
    fc: fc.constantFrom(1 as const, 3 as const, 4 as const, 23 as const),
    data: fc.uint8Array({ minLength: 2, maxLength: 250 }).map((bytes) => Buffer.from(bytes)),
  }),
  fc.record({ fc: fc.constantFrom(15 as const, 16 as const), offset: word, count: fc.integer({ min: 1, max: 100 }) }),
)
const unit = fc.integer({ min: 1, max: 247 })

/** Hands bytes over in pieces as a line or TCP might. */
const inPieces = (cutter: Cutter, bytes: Buffer, size: number) => {
  const frames = []
  let noise = 0
  for (let at = 0; at < bytes.length; at += size) {
    const cut = cutter.push(bytes.subarray(at, at + size))
    frames.push(...cut.frames)
    noise += cut.noise
  }
  return { frames, noise }
}

describe('checks', () => {
  it('CRC as the example of the appendix has it', () => {
    // MODBUS over Serial Line V1.02, appendix B: 02 07 gives 1241, low byte first on the wire
    expect(crc16(hex('02 07'))).toBe(0x1241)
    expect(encodeRtu(0x11, hex('03 006B 0003'))).toEqual(hex('11 03 006B 0003 7687'))
  })

  it('LRC: bytes and check add up to nothing', () => {
    fc.assert(
      fc.property(fc.uint8Array({ minLength: 1, maxLength: 250 }), (bytes) => {
        const sum = bytes.reduce((total, byte) => total + byte, 0)
        return ((sum + lrc8(bytes)) & 0xff) === 0
      }),
    )
    expect(encodeAscii(0x11, hex('03 006B 0003')).toString('latin1')).toBe(':1103006B00037E\r\n')
  })
})

describe.each(framings.filter((framing) => framing !== 'tcp'))('frames of a line, %s', (framing) => {
  const { encode, cutter } = framesOf(framing)

  it('are found whatever pieces they come in', () => {
    fc.assert(
      fc.property(fc.array(fc.tuple(unit, requests), { minLength: 1, maxLength: 5 }), fc.integer({ min: 1, max: 300 }), (sent, size) => {
        const bytes = Buffer.concat(sent.map(([to, request]) => encode(0, to, encodeRequest(request))))
        const { frames, noise } = inPieces(cutter('request'), bytes, size)
        expect(noise).toBe(0)
        expect(frames.map((frame) => [frame.unit, frame.pdu])).toEqual(sent.map(([to, request]) => [to, encodeRequest(request)]))
      }),
    )
    fc.assert(
      fc.property(unit, replies, fc.integer({ min: 1, max: 300 }), (from, reply, size) => {
        const { frames } = inPieces(cutter('reply'), encode(0, from, encodeReply(reply)), size)
        expect(frames.map(({ pdu }) => pdu)).toEqual([encodeReply(reply)])
      }),
    )
  })

  it('with one bit turned are none', () => {
    fc.assert(
      fc.property(unit, requests, fc.nat(), (to, request, at) => {
        const bytes = encode(0, to, encodeRequest(request))
        const place = at % (bytes.length * 8 - 16)
        // small letters mean the same as large ones
        fc.pre(framing === 'rtu' || (place & 7) !== 5)
        bytes[place >> 3]! ^= 1 << (place & 7)
        const found = cutter('request')
        const frames = [...found.push(bytes).frames, ...found.silence().frames]
        expect(frames.some(({ unit: of, pdu }) => of === to && pdu.equals(encodeRequest(request)))).toBe(false)
      }),
    )
  })

  it('behind noise are found once the line is silent, and nothing is kept', () => {
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 20 }), unit, requests, (noise, to, request) => {
        const one = cutter('request')
        const frames = [...one.push(Buffer.from(noise)).frames, ...one.push(encode(0, to, encodeRequest(request))).frames]
        frames.push(...one.silence().frames)
        expect(frames.at(-1)).toMatchObject({ unit: to, pdu: encodeRequest(request) })
        expect(one.waiting).toBe(0)
      }),
    )
  })
})

describe('what is long', () => {
  it('and has no end is let go of', () => {
    const [letters, bytes] = [new AsciiCutter(), new RtuCutter('request')]
    for (let i = 0; i < 100; i++) {
      letters.push(Buffer.alloc(100, ':0'))
      bytes.push(Buffer.alloc(100, 0x55))
    }
    expect(letters.waiting).toBeLessThan(1000)
    expect(bytes.waiting).toBeLessThan(1000)
  })

  it('of a function that nobody knows is taken by its check', () => {
    const frame = encodeRtu(1, hex('2B 0E 01 00'))
    expect(new RtuCutter('request').push(frame).frames).toMatchObject([{ unit: 1, pdu: hex('2B 0E 01 00') }])
  })
})

import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { encodeFrame } from '#core/modbus/mbap'
import { encodeAscii } from '#core/modbus/ascii'
import { lineFrames } from '#core/modbus/lineFrames'
import { encodeRtu } from '#core/modbus/rtu'
import { FrameSplitter, mbapFrames, uaFrames } from '#core/wire/frames'

const chunk = (type: string, length: number) => {
  const bytes = Buffer.alloc(length, 0x55)
  bytes.write(type)
  bytes.writeUInt32LE(length, 4)
  return bytes
}
/** A stream cut at these places. */
const cut = (stream: Buffer, places: number[]) => {
  const ends = [...new Set(places.map((place) => place % (stream.length + 1)))].sort((a, b) => a - b)
  return [0, ...ends].map((from, i) => stream.subarray(from, ends[i] ?? stream.length))
}

describe('frames in a stream', () => {
  it('are found however it is cut', () => {
    const frame = fc
      .record({ transaction: fc.nat(65_535), unit: fc.nat(255), pdu: fc.uint8Array({ minLength: 1, maxLength: 253 }) })
      .map(({ transaction, unit, pdu }) => encodeFrame(transaction, unit, Buffer.from(pdu)))
    const message = fc.record({ type: fc.constantFrom('HELF', 'OPNF', 'MSGC', 'MSGF'), length: fc.integer({ min: 8, max: 300 }) })
    const places = fc.array(fc.nat(5000), { maxLength: 20 })
    const found = (rule: typeof mbapFrames, parts: Buffer[]) => {
      const splitter = new FrameSplitter(rule)
      return parts.flatMap((part) => splitter.push(part)).map((one) => Buffer.from(one).toString('hex'))
    }
    const hex = (frames: Buffer[]) => frames.map((one) => one.toString('hex'))
    fc.assert(
      fc.property(fc.array(frame), places, (frames, at) => {
        expect(found(mbapFrames, cut(Buffer.concat(frames), at))).toEqual(hex(frames))
      }),
    )
    fc.assert(
      fc.property(fc.array(message), places, (messages, at) => {
        const frames = messages.map(({ type, length }) => chunk(type, length))
        expect(found(uaFrames, cut(Buffer.concat(frames), at))).toEqual(hex(frames))
      }),
    )
  })

  it('that are none are given as they came, and what comes after is looked at afresh', () => {
    const splitter = new FrameSplitter(mbapFrames)
    const good = encodeFrame(1, 2, Buffer.of(3, 0, 1))
    const http = Buffer.from('HTTP/1.1 400 Bad Request\r\n')
    expect(splitter.push(Buffer.concat([good, http])).map((piece) => Buffer.from(piece))).toEqual([good, http])
    expect(splitter.push(good).map((piece) => Buffer.from(piece))).toEqual([good])
    expect(new FrameSplitter(uaFrames).push(chunk('GETF', 20))).toHaveLength(1)
    const huge = Buffer.from('MSGF\xff\xff\xff\xff', 'latin1')
    expect(new FrameSplitter(uaFrames).push(huge)).toEqual([huge])
  })

  it.each([
    ['requests', true, ['030000000a', '10000000020400010002', '2b0e0100', '05000aff00']],
    ['replies', false, ['0304000a000b', '1000000002', '8302', '010155']],
  ])('of a serial line are told apart by their function: %s', (_, out, pdus) => {
    const places = fc.array(fc.nat(60), { maxLength: 6 })
    const frames = pdus.map((pdu, i) => encodeRtu(i + 1, Buffer.from(pdu, 'hex')))
    const letters = pdus.map((pdu, i) => encodeAscii(i + 1, Buffer.from(pdu, 'hex')))
    fc.assert(
      fc.property(places, fc.constantFrom(frames, letters), (at, sent) => {
        const splitter = new FrameSplitter(lineFrames, out)
        const found = cut(Buffer.concat(sent), at).flatMap((part) => splitter.push(part))
        expect(found.map((one) => Buffer.from(one).toString('hex'))).toEqual(sent.map((one) => one.toString('hex')))
      }),
    )
  })

  it('without a rule are the pieces themselves', () => {
    expect(new FrameSplitter(null).push(Buffer.from('x'))).toHaveLength(1)
  })
})

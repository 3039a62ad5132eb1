import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { formatWithWidth, parseAddress, type IsoAddress } from '#core/isotcp/address'
import { decoderFor } from '#core/isotcp/decoding'
import { encodeValue } from '#core/isotcp/encoding'
import { bytesOf, type IsoLayout } from '#core/isotcp/layout'
import * as pdu from '#core/isotcp/pdu'
import { planRequests } from '#core/isotcp/planning'
import { pointOf } from '#core/isotcp/point'
import { isoTcp } from '#core/isotcp/protocol'
import { isoTcpSettings } from '#core/isotcp/settings'
import { encodeData, encodeRequest, PacketCutter } from '#core/isotcp/tpkt'
import { readTsap, tsapOf, tsapText } from '#core/isotcp/tsap'
import { endsOf } from '#core/isotcp/way'
import type { DataType, TagValue } from '#core/tags/types'

const bytes = (hex: string) => Buffer.from(hex.replaceAll(' ', ''), 'hex')
const text = (buffer: Uint8Array) =>
  Buffer.from(buffer)
    .toString('hex')
    .toUpperCase()
    .replace(/(..)(?=.)/g, '$1 ')
const settings = isoTcpSettings.parse({ host: '10.8.2.11' })
const cutOf = (hex: string) => new PacketCutter().push(bytes(hex))
const answerIn = (hex: string) => {
  const [tpdu] = cutOf(hex).tpdus
  const answer = pdu.decodeAnswer((tpdu as { data: Buffer }).data)
  if (!answer.ok) throw new Error(answer.problem)
  return answer.value
}

/** As captured on the wire between a program and a controller. */
describe('ISO transport and requests, byte for byte', () => {
  it('asks for a connection to rack 0, slot 2', () => {
    const ends = endsOf({ by: 'slot', kind: 'programming', rack: 0, slot: 2 })
    expect(text(encodeRequest(1, ends))).toBe('03 00 00 16 11 E0 00 00 00 01 00 C0 01 0A C1 02 01 00 C2 02 01 02')
  })
  it('reads that it was taken, and that it was not', () => {
    expect(cutOf('03 00 00 16 11 D0 00 01 00 44 00 C0 01 0A C1 02 01 00 C2 02 01 02').tpdus).toMatchObject([
      { kind: 'confirm', ends: { theirs: bytes('01 02') } },
    ])
    expect(cutOf('03 00 00 0B 06 80 00 01 00 00 02').tpdus).toEqual([{ kind: 'disconnect', reason: 2 }])
  })
  it('negotiates', () => {
    expect(text(encodeData(pdu.encodeSetup(0x0400, { parallel: 1, size: 480 })))).toBe(
      '03 00 00 19 02 F0 80 32 01 00 00 04 00 00 08 00 00 F0 00 00 01 00 01 01 E0',
    )
    const answer = answerIn('03 00 00 1B 02 F0 80 32 03 00 00 04 00 00 08 00 00 00 00 F0 00 00 01 00 01 00 F0')
    expect(pdu.decodeSetup(answer)).toEqual({ ok: true, value: { parallel: 1, size: 240 } })
  })
  it('reads bytes of a block, and a bit of the flags', () => {
    const piece = { area: 'block' as const, block: 1, offset: 0, bit: null, count: 1 }
    expect(text(encodeData(pdu.encodeRead(0x0500, [piece])))).toBe(
      '03 00 00 1F 02 F0 80 32 01 00 00 05 00 00 0E 00 00 04 01 12 0A 10 02 00 01 00 01 84 00 00 00',
    )
    const answer = answerIn('03 00 00 1A 02 F0 80 32 03 00 00 05 00 00 02 00 05 00 00 04 01 FF 04 00 08 2A')
    expect(pdu.decodeRead(answer, [piece])).toEqual({ ok: true, value: [{ ok: true, data: bytes('2A') }] })
    expect(text(pdu.encodeRead(1, [{ area: 'flag', block: 0, offset: 2, bit: 5, count: 1 }]))).toContain(
      '12 0A 10 01 00 01 00 00 83 00 00 15',
    )
  })
  it('takes several pieces, of odd lengths and refused ones, apart', () => {
    const pieces = [3, 4, 1].map((count) => ({ area: 'block' as const, block: 9, offset: 0, bit: null, count }))
    const answer = answerIn(
      '03 00 00 28 02 F0 80 32 03 00 00 05 00 00 02 00 13 00 00 04 03 FF 04 00 18 01 02 03 00 0A 00 00 00 FF 04 00 08 07 00 00',
    )
    expect(pdu.decodeRead({ ...answer, data: answer.data.subarray(0, 17) }, pieces)).toEqual({
      ok: true,
      value: [
        { ok: true, data: bytes('01 02 03') },
        { ok: false, code: 0x0a },
        { ok: true, data: bytes('07') },
      ],
    })
  })
  it('writes a word and a bit', () => {
    const word = { area: 'block' as const, block: 20, offset: 8, bit: null, count: 2 }
    expect(text(pdu.encodeWrite(7, word, bytes('00 1E')))).toBe(
      '32 01 00 00 00 07 00 0E 00 06 05 01 12 0A 10 02 00 02 00 14 84 00 00 40 00 04 00 10 00 1E',
    )
    const bit = { ...word, offset: 10, bit: 0, count: 1 }
    expect(text(pdu.encodeWrite(7, bit, bytes('01')))).toBe(
      '32 01 00 00 00 07 00 0E 00 05 05 01 12 0A 10 01 00 01 00 14 84 00 00 50 00 03 00 01 01',
    )
  })
  it('finds frames wherever they are cut, and says what is none', () => {
    const whole = Buffer.concat([encodeData(bytes('32 01')), encodeData(bytes('32 03 04'))])
    fc.assert(
      fc.property(fc.array(fc.nat(whole.length), { maxLength: 6 }), (cuts) => {
        const cutter = new PacketCutter()
        const edges = [0, ...cuts.sort((a, b) => a - b), whole.length]
        const found = edges.slice(1).flatMap((end, i) => cutter.push(whole.subarray(edges[i], end)).tpdus)
        expect(found.map((tpdu) => tpdu.kind === 'data' && text(tpdu.data))).toEqual(['32 01', '32 03 04'])
      }),
    )
    expect(new PacketCutter().push(Buffer.from('HTTP/1.1 400'))).toMatchObject({
      service: 'a web server',
      problem: expect.stringContaining('03 00') as string,
    })
    expect(cutOf('03 00 00 02').problem).toContain('2 bytes')
  })
  it('never throws at what comes', () => {
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 60 }), (some) => {
        const data = Buffer.from(some)
        new PacketCutter().push(data)
        pdu.decodeJob(data)
        const answer = pdu.decodeAnswer(data)
        if (answer.ok) pdu.decodeRead(answer.value, [{ area: 'block', count: 4, bit: null }])
      }),
    )
  })
})

describe('addresses in a controller', () => {
  it.each([
    ['DB10.4', 'DB10.4', 'int16'],
    ['db10.dbd4', 'DB10.4', 'float32'],
    ['DB10.DBX4.7', 'DB10.4.7', 'bool'],
    ['DB10,W6', 'DB10.6', 'int16'],
    ['%IW4', 'I4', 'int16'],
    ['E0.3', 'I0.3', 'bool'],
    ['ab2', 'Q2', 'uint8'],
    ['M D 20', 'M20', 'float32'],
    ['T5', 'T5', 'uint32'],
    ['Z7', 'C7', 'uint16'],
  ])('%s is %s, usually %s', (typed, canonical, type) => {
    expect(isoTcp.describe(typed, settings)).toMatchObject({ ok: true, canonical, defaultType: type })
    expect(isoTcp.describe(canonical, settings)).toMatchObject({ ok: true, canonical })
  })
  it.each(['', 'DB10', 'DB0.4', 'DB10.4.8', 'DB10.DBX4', 'DB10.DBW4.1', 'T5.1', 'X4', 'M70000', 'DB99999.0', 'toString'])(
    'refuses “%s”, and says what would do',
    (typed) => expect(isoTcp.describe(typed, settings)).toMatchObject({ ok: false, problem: expect.stringMatching(/\S{3}/) as string }),
  )
  it('is written with its width as programs have it', () => {
    const of = (typed: string) => (parseAddress(typed) as { address: IsoAddress }).address
    expect([formatWithWidth(of('DB10.4'), 4), formatWithWidth(of('DB10.4.1'), 1), formatWithWidth(of('M3'), 1)]).toEqual([
      'DB10.DBD4',
      'DB10.DBX4.1',
      'MB3',
    ])
  })
  it('comes after its neighbour by its width, and words begin at even bytes', () => {
    const point = (address: string, type: DataType, options = {}) => ({ address, type, options, access: 'read' as const })
    expect(isoTcp.next(point('DB10.4', 'float32'))).toBe('DB10.8')
    expect(isoTcp.next(point('DB10.4.7', 'bool'))).toBe('DB10.5.0')
    expect(isoTcp.next(point('DB10.4', 'uint8'))).toBe('DB10.5')
    expect(isoTcp.next(point('DB10.4', 'string', { length: 5 }))).toBe('DB10.12')
  })
  it('is refused as a point where type, form, length or access do not go with it', () => {
    const fields = (address: string, type: DataType, options = {}, access: 'read' | 'readwrite' = 'read') =>
      isoTcp.problems({ address, type, options, access }, settings).map(({ field }) => field)
    expect(fields('DB10.4', 'float32')).toEqual([])
    expect(fields('DB10.4', 'bool')).toEqual(['type'])
    expect(fields('DB10.4.1', 'int16')).toEqual(['type'])
    expect(fields('DB10.4', 'string', { length: 0 })).toEqual(['options.length'])
    expect(fields('DB10.4', 'string', { length: 255 })).toEqual(['options.length'])
    expect(fields('DB10.4', 'string', { length: 255, form: 'wide' })).toEqual([])
    expect(fields('DB10.4', 'int16', { form: 'days' })).toEqual(['options.form'])
    expect(fields('DB10.4', 'int16[]')).toEqual(['options.count'])
    expect(fields('DB10.65535', 'int32')).toEqual(['address'])
    expect(fields('I4', 'int16', {}, 'readwrite')).toEqual(['access'])
  })
  it('meets others of its block where they share bytes', () => {
    const spot = (address: string, type: DataType) => isoTcp.spot({ address, type, options: {}, access: 'read' }, settings)
    expect(spot('DB10.4', 'float32')).toMatchObject({ place: 'block 10', from: 4, to: 8, bit: null })
    expect(spot('DB10.5.3', 'bool')).toMatchObject({ place: 'block 10', from: 5, to: 6, bit: 3 })
  })
  it('is named by its TSAP, too', () => {
    expect(tsapText(tsapOf('operator', 1, 3))).toBe('02.23')
    for (const typed of ['02.23', '0223', '02 23', '02:23']) expect(readTsap(typed)).toEqual(Uint8Array.from([2, 0x23]))
    expect(readTsap('"FC-1"')).toEqual(Uint8Array.from([70, 67, 45, 49]))
    for (const typed of ['', '0', 'XY', '"', '00'.repeat(17)]) expect(readTsap(typed)).toBeNull()
  })
})

const layout = (type: IsoLayout['type'], more: Partial<IsoLayout> = {}): IsoLayout => ({
  ...{ type, form: null, order: 'big', length: 0, count: 0, bit: null },
  ...more,
})

describe('values in bytes', () => {
  it.each<[string, IsoLayout, string, TagValue]>([
    ['a real', layout('float32'), '42 28 00 00', 42],
    ['a real, lowest byte first', layout('float32', { order: 'little' }), '00 00 28 42', 42],
    ['a long integer', layout('int64'), 'FF FF FF FF FF FF FF FE', -2n],
    ['a text with its lengths', layout('string', { form: 'counted', length: 5 }), '05 03 41 42 43 00 00', 'ABC'],
    ['a text whose length was never set', layout('string', { form: 'counted', length: 3 }), '03 FF 41 42 43', 'ABC'],
    ['a wide text', layout('string', { form: 'wide', length: 2 }), '00 02 00 02 00 42 00 E5', 'Bå'],
    ['characters', layout('string', { form: 'chars', length: 4 }), '41 42 20 20', 'AB'],
    ['a date and time', layout('datetime', { form: 'bcd8' }), '26 11 27 14 05 09 25 06', Date.UTC(2026, 10, 27, 14, 5, 9, 250)],
    ['one of the last century', layout('datetime', { form: 'bcd8' }), '94 01 02 00 00 00 00 01', Date.UTC(1994, 0, 2)],
    ['one in fields', layout('datetime', { form: 'fields' }), '07 EA 0B 1B 06 0E 05 09 0E E6 B2 80', Date.UTC(2026, 10, 27, 14, 5, 9, 250)],
    ['a date', layout('datetime', { form: 'days' }), '00 01', Date.UTC(1990, 0, 2)],
    ['a timer of 12.7 s', layout('uint32', { form: 'timer' }), '11 27', 12_700],
    ['a counter', layout('uint16', { form: 'digits' }), '03 18', 318],
    ['a bit', layout('bool', { bit: 3 }), '08', true],
    ['a run of bits', layout('bool', { bit: 6, count: 4 }), '40 02', [true, false, false, true]],
    ['an array', layout('int16', { count: 3 }), '00 01 FF FF 00 03', [1, -1, 3]],
  ])('%s', (_, of, hex, value) => {
    expect(bytesOf(of)).toBe(bytes(hex).length)
    expect(decoderFor(of)(Buffer.concat([bytes('AA'), bytes(hex)]), 1)).toEqual(value)
  })
  it.each<[string, IsoLayout, string]>([
    ['digits above nine', layout('uint16', { form: 'digits' }), '0A 18'],
    ['a 13th month', layout('datetime', { form: 'bcd8' }), '26 13 27 14 05 09 25 06'],
    ['a 30th of February', layout('datetime', { form: 'fields' }), '07 EA 02 1E 06 0E 05 09 00 00 00 00'],
    ['a date of zeros', layout('datetime', { form: 'bcd8' }), '00 00 00 00 00 00 00 00'],
  ])('that are none are told as none: %s', (_, of, hex) => expect(decoderFor(of)(bytes(hex), 0)).toBeNaN())

  it('come back as they were written', () => {
    const back = (value: TagValue, of: IsoLayout) => {
      const { skip, bytes: written } = encodeValue(value, of)
      const whole = Buffer.alloc(Math.max(bytesOf(of), skip + written.length))
      written.copy(whole, skip)
      return decoderFor(of)(whole, 0)
    }
    const day = fc.integer({ min: Date.UTC(1990, 0, 1), max: Date.UTC(2089, 11, 31) })
    fc.assert(fc.property(day, (at) => back(at, layout('datetime', { form: 'bcd8' })) === at && back(at, layout('datetime', { form: 'fields' })) === at && back(at, layout('datetime', { form: 'nanos' })) === at)) // prettier-ignore
    fc.assert(fc.property(fc.float({ noNaN: true }), fc.constantFrom('big' as const, 'little' as const), (x, order) => Object.is(back(x, layout('float32', { order })), x))) // prettier-ignore
    fc.assert(fc.property(fc.string({ unit: 'grapheme', maxLength: 20 }), (s) => s.length > 20 || back(s, layout('string', { form: 'wide', length: 20 })) === s)) // prettier-ignore
    fc.assert(fc.property(fc.nat(999), (n) => back(n * 100, layout('uint32', { form: 'timer' })) === n * 100))
    fc.assert(fc.property(fc.array(fc.integer({ min: -32768, max: 32767 }), { minLength: 1, maxLength: 9 }), (list) => { expect(back(list, layout('int16', { count: list.length }))).toEqual(list) })) // prettier-ignore
  })
  it('are refused where they do not fit', () => {
    const wrong = (value: TagValue, of: IsoLayout) => () => encodeValue(value, of)
    expect(wrong('too long', layout('string', { form: 'counted', length: 3 }))).toThrow('room for 3')
    expect(wrong('€', layout('string', { form: 'counted', length: 3 }))).toThrow('one byte')
    expect(wrong(Date.UTC(1980, 0, 1), layout('datetime', { form: 'bcd8' }))).toThrow('1990')
    expect(wrong(1000, layout('uint16', { form: 'digits' }))).toThrow('999')
    expect(wrong(10_000_000, layout('uint32', { form: 'timer' }))).toThrow('9,990')
    expect(wrong([1, 2], layout('int16', { count: 3 }))).toThrow('3')
  })
})

describe('plans', () => {
  const point = (address: string, type: DataType, options: Record<string, unknown> = {}) =>
    pointOf({ address, type, options, access: 'read' }, settings)!
  const limits = { size: 240, readAcross: 10, fences: () => [] }
  const shown = (requests: ReturnType<typeof planRequests>) =>
    requests.map((parts) => parts.map(({ piece, from, bytes: n }) => `${piece.row.key} ${piece.offset}+${from}:${n}`))

  it('read points of a block together, across small gaps, and several blocks in one request', () => {
    const points = [
      point('DB1.0', 'int16'),
      point('DB1.8', 'float32'),
      point('DB1.100', 'int16'),
      point('DB2.0', 'int16'),
      point('T5', 'uint32'),
    ]
    expect(shown(planRequests(points, limits))).toEqual([['block 1 0+0:12', 'block 1 100+0:2', 'block 2 0+0:2', 'timer 5+0:2']])
    const fenced = planRequests(points, { ...limits, fences: (row) => (row === 'block 1' ? [8] : []) })
    expect(shown(fenced)[0]!.slice(0, 2)).toEqual(['block 1 0+0:2', 'block 1 8+0:4'])
  })
  it('read a value that is longer than a request in parts, by itself', () => {
    const text254 = point('DB1.0', 'string', { length: 254 })
    expect(shown(planRequests([text254, point('DB1.300', 'int16')], limits))).toEqual([
      ['block 1 0+0:222'],
      ['block 1 0+222:34', 'block 1 300+0:2'],
    ])
  })
  it('have every point once, whole or in parts, within what request and answer carry, and no more requests than are needed', () => {
    const types = fc.constantFrom<DataType>('int16', 'float32', 'uint8', 'float64')
    const some = fc.array(fc.tuple(fc.integer({ min: 1, max: 3 }), fc.nat(900), types), { maxLength: 150 })
    fc.assert(
      fc.property(some, fc.constantFrom(112, 240, 960), (wanted, size) => {
        const points = wanted.map(([block, offset, type]) => point(`DB${block}.${offset}`, type))
        const requests = planRequests(points, { ...limits, size })
        const held = requests.flat()
        expect(new Set(held.flatMap(({ piece }) => piece.items)).size).toBe(points.length)
        expect(held.reduce((total, { piece }) => total + piece.items.length, 0)).toBe(points.length)
        for (const { piece } of held)
          for (const { row, offset, count } of piece.items) {
            expect(row.key).toBe(piece.row.key)
            expect(offset >= piece.offset && offset + count <= piece.offset + piece.count).toBe(true)
          }
        let carried = 0
        for (const parts of requests) {
          const answer = parts.reduce((total, { bytes: n }) => total + 4 + n + (n & 1), 14)
          carried += answer - 14
          expect(answer).toBeLessThanOrEqual(size)
          expect(12 + 12 * parts.length).toBeLessThanOrEqual(size)
        }
        const least = Math.max(Math.ceil(carried / (size - 14)), Math.ceil(held.length / Math.floor((size - 12) / 12)))
        expect(requests.length).toBeLessThanOrEqual(Math.ceil(1.3 * least) + 1)
      }),
    )
  })
  it('tell what reading costs', () => {
    const tags = Array.from({ length: 300 }, (_, i) => ({ ...{ id: i, path: `t/${i}`, address: `DB1.${2 * i}`, type: 'int16' as const }, options: {}, access: 'read' as const })) // prettier-ignore
    const load = isoTcp.load(tags, isoTcpSettings.parse({ host: 'x', requests: { size: 240, parallel: 1 } }), () => ({
      answerMs: 2,
      fences: {},
    }))
    expect(load.parts[0]!.rounds).toMatchObject([{ tags: 300, requests: 3, carried: 600, wanted: 600, ms: 6 }])
  })
})

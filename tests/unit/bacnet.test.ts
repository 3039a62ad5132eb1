import { createRequire } from 'node:module'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { formatAddress, parseAddress, shortText } from '#core/bacnet/address'
import { decodeApdu, encodeRequest } from '#core/bacnet/apdu'
import { readValue, readValues, valueBytes, type AppValue } from '#core/bacnet/appValue'
import { toApp, toTag } from '#core/bacnet/conversion'
import { bvlc, decodeFrame, encodeFrame, encodeNpdu } from '#core/bacnet/frames'
import { unitText } from '#core/bacnet/names/units'
import { Parts } from '#core/bacnet/parts'
import { planReads } from '#core/bacnet/planning'
import { bacnet } from '#core/bacnet/protocol'
import { parseRange } from '#core/bacnet/range'
import {
  decodeError,
  decodeIAm,
  decodeNotification,
  decodeRead,
  decodeReadMultiple,
  encodeRead,
  encodeReadMultiple,
  encodeSubscribe,
  encodeSubscribeProperty,
  encodeWhoIs,
  encodeWrite,
} from '#core/bacnet/services'
import { bacnetSettings } from '#core/bacnet/settings'
import { qualityBy } from '#core/bacnet/statusFlags'
import { Malformed, TagReader } from '#core/bacnet/tagged'
import { quality } from '#core/tags/quality'

const hex = (text: string) => Buffer.from(text.replaceAll(' ', ''), 'hex')
const shown = (bytes: Buffer) =>
  bytes
    .toString('hex')
    .replace(/(..)(?!$)/g, '$1 ')
    .toUpperCase()
const object = (type: number, instance: number) => ({ type, instance })

describe('the examples of the standard (ANSI/ASHRAE 135, 20.2 and Annex F)', () => {
  const values: [string, AppValue][] = [
    ['00', { tag: 'null' }],
    ['10', { tag: 'boolean', value: false }],
    ['21 48', { tag: 'unsigned', value: 72 }],
    ['31 48', { tag: 'signed', value: 72 }],
    ['31 B8', { tag: 'signed', value: -72 }],
    ['44 42 90 00 00', { tag: 'real', value: 72 }],
    ['55 08 40 52 00 00 00 00 00 00', { tag: 'double', value: 72 }],
    ['63 12 34 FF', { tag: 'octets', value: hex('12 34 FF') }],
    [
      '75 19 00 54 68 69 73 20 69 73 20 61 20 42 41 43 6E 65 74 20 73 74 72 69 6E 67 21',
      { tag: 'text', value: 'This is a BACnet string!' },
    ],
    ['82 03 A8', { tag: 'bits', value: [true, false, true, false, true] }],
    ['91 00', { tag: 'enumerated', value: 0 }],
    ['B4 11 23 2D 11', { tag: 'time', value: { hour: 17, minute: 35, second: 45, hundredths: 17 } }],
    ['C4 00 C0 00 0F', { tag: 'object', value: object(3, 15) }],
  ]
  it.each(values)('%s', (bytes, value) => {
    expect(readValue(new TagReader(hex(bytes)))).toEqual(value)
    expect(shown(valueBytes(value))).toBe(bytes)
  })

  it('a date leaves the day of the week to the device', () => {
    expect(readValue(new TagReader(hex('A4 5B 01 18 05')))).toEqual({ tag: 'date', value: { year: 1991, month: 1, day: 24 } })
  })

  it('F.3.5 ReadProperty', () => {
    expect(shown(encodeRequest(1, 12, encodeRead({ object: object(0, 5), property: 85, index: null }), 50))).toBe(
      '02 70 01 0C 0C 00 00 00 05 19 55',
    )
    const ack = decodeApdu(hex('30 01 0C 0C 00 00 00 05 19 55 3E 44 42 90 99 9A 3F'))
    if (ack.kind !== 'answer') throw new Error('no answer')
    const answer = decodeRead(ack.content, { object: object(0, 5), property: 85, index: null })
    expect(answer).toMatchObject({ ok: true, bytes: 5 })
    expect(answer.ok && (answer.values[0] as { value: number }).value).toBeCloseTo(72.3, 4)
  })

  it('F.3.7 ReadPropertyMultiple', () => {
    const refs = [
      { object: object(0, 16), property: 85, index: null },
      { object: object(0, 16), property: 103, index: null },
    ]
    expect(shown(encodeReadMultiple(refs))).toBe('0C 00 00 00 10 1E 09 55 09 67 1F')
    const answers = decodeReadMultiple(hex('0C 00 00 00 10 1E 29 55 4E 44 42 90 99 9A 4F 29 67 4E 91 00 4F 1F'))
    expect(answers.map(({ ref }) => ref)).toEqual(refs)
    expect(answers[1]!.answer).toMatchObject({ ok: true, values: [{ tag: 'enumerated', value: 0 }] })
    const refused = decodeReadMultiple(hex('0C 00 00 00 22 1E 29 55 5E 91 01 91 1F 5F 1F'))
    expect(refused[0]!.answer).toEqual({ ok: false, error: { class: 1, code: 31 } })
  })

  it('F.3.9 WriteProperty', () => {
    const bytes = encodeWrite({ object: object(2, 1), property: 85, index: null }, [{ tag: 'real', value: 180 }], null)
    expect(shown(bytes)).toBe('0C 00 80 00 01 19 55 3E 44 43 34 00 00 3F')
    expect(shown(encodeWrite({ object: object(2, 1), property: 85, index: null }, [{ tag: 'null' }], 8))).toBe(
      '0C 00 80 00 01 19 55 3E 00 3F 49 08',
    )
  })

  it('F.1.10 and F.1.11, subscriptions', () => {
    const subscription = { process: 18, object: object(0, 10), isConfirmed: true, lifetime: 0 }
    expect(shown(encodeSubscribe(subscription))).toBe('09 12 1C 00 00 00 0A 29 01 39 00')
    const lasting = { ...subscription, lifetime: 60 }
    expect(shown(encodeSubscribeProperty(lasting, { property: 85, index: null }, 1))).toBe(
      '09 12 1C 00 00 00 0A 29 01 39 3C 4E 09 55 4F 5C 3F 80 00 00',
    )
  })

  it('F.1.2, a notification', () => {
    const content = hex('09 12 1C 02 00 00 04 2C 00 00 00 0A 39 00 4E 09 55 2E 44 42 82 00 00 2F 09 6F 2E 82 04 00 2F 4F')
    expect(decodeNotification(content)).toEqual({
      ...{ process: 18, device: 4, object: object(0, 10), remaining: 0 },
      values: [
        { property: 85, index: null, values: [{ tag: 'real', value: 65 }] },
        { property: 111, index: null, values: [{ tag: 'bits', value: [false, false, false, false] }] },
      ],
    })
  })

  it('F.4.9, who is there', () => {
    expect(shown(encodeWhoIs({ low: 3, high: 3 }))).toBe('09 03 19 03')
    expect(decodeIAm(hex('C4 02 00 00 01 22 01 E0 91 01 21 63'))).toEqual({ instance: 1, room: 480, segmentation: 'transmits', vendor: 99 })
  })
})

describe('values', () => {
  const real = fc.float({ noNaN: true, noDefaultInfinity: true }).map((value): AppValue => ({ tag: 'real', value }))
  const any = fc.oneof(
    real,
    fc.bigInt({ min: 0n, max: 2n ** 53n - 1n }).map((value): AppValue => ({ tag: 'unsigned', value: Number(value) })),
    fc.integer().map((value): AppValue => ({ tag: 'signed', value })),
    fc.bigInt({ min: 2n ** 53n, max: 2n ** 64n - 1n }).map((value): AppValue => ({ tag: 'unsigned', value })),
    fc.string({ unit: 'binary', maxLength: 400 }).map((value): AppValue => ({ tag: 'text', value })),
    fc.array(fc.boolean(), { maxLength: 40 }).map((value): AppValue => ({ tag: 'bits', value })),
    fc.record({ type: fc.nat(1023), instance: fc.nat(0x3fffff) }).map((value): AppValue => ({ tag: 'object', value })),
    fc.boolean().map((value): AppValue => ({ tag: 'boolean', value })),
  )

  it('come back as they went', () => {
    fc.assert(
      fc.property(fc.array(any, { maxLength: 8 }), (values) => {
        const bytes = Buffer.concat(values.map(valueBytes))
        expect(readValues(new TagReader(bytes))).toEqual(values)
      }),
    )
  })

  it('that are cut off, or are none, are refused and never read past their end', () => {
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 60 }), (bytes) => {
        for (const read of [
          readValues,
          (reader: TagReader) => decodeReadMultiple(reader.bytes),
          (reader: TagReader) => decodeNotification(reader.bytes),
        ])
          try {
            read(new TagReader(Buffer.from(bytes)))
          } catch (error) {
            // whatever is wrong with it is told as that, or as bytes that are not there
            expect(error instanceof Malformed || error instanceof RangeError).toBe(true)
          }
      }),
    )
  })

  it('are the same to another maker’s codec', () => {
    const theirs = createRequire(import.meta.url)('@bacnet-js/client/dist/lib/asn1.js') as {
      bacappEncodeApplicationData(buffer: { buffer: Buffer; offset: number }, value: { type: number; value: unknown }): void
    }
    const encode = (type: number, value: unknown) => {
      const into = { buffer: Buffer.alloc(2000), offset: 0 }
      theirs.bacappEncodeApplicationData(into, { type, value })
      return into.buffer.subarray(0, into.offset)
    }
    fc.assert(
      fc.property(fc.float({ noNaN: true }), fc.nat(), fc.string({ maxLength: 300 }), (real, whole, text) => {
        expect(encode(4, real).equals(valueBytes({ tag: 'real', value: real }))).toBe(true)
        expect(encode(2, whole).equals(valueBytes({ tag: 'unsigned', value: whole }))).toBe(true)
        expect(encode(7, text).equals(valueBytes({ tag: 'text', value: text }))).toBe(true)
      }),
    )
  })

  it('are read in the letters of devices that are older', () => {
    expect(readValue(new TagReader(hex('74 05 4C FC 66')))).toEqual({ tag: 'text', value: 'Lüf' })
    expect(readValue(new TagReader(hex('75 05 04 00 B0 00 43')))).toEqual({ tag: 'text', value: '°C' })
  })

  it('become tags of the types that hold them, and of no other', () => {
    expect(toTag([{ tag: 'enumerated', value: 1 }], 'bool')).toEqual({ ok: true, value: true })
    expect(toTag([{ tag: 'enumerated', value: 2 }], 'bool')).toMatchObject({ ok: false, why: 'type' })
    expect(toTag([{ tag: 'unsigned', value: 70_000 }], 'uint16')).toMatchObject({ ok: false, why: 'type' })
    expect(toTag([{ tag: 'real', value: 2.5 }], 'int32')).toMatchObject({ ok: false, why: 'type' })
    expect(toTag([{ tag: 'unsigned', value: 2n ** 60n }], 'uint64')).toEqual({ ok: true, value: 2n ** 60n })
    expect(toTag([{ tag: 'null' }], 'float32')).toMatchObject({ ok: false, why: 'none' })
    expect(toTag([], 'float32')).toMatchObject({ ok: false, why: 'none' })
    expect(toTag([{ tag: 'bits', value: [true, false] }], 'bool[]')).toEqual({ ok: true, value: [true, false] })
    const date = { tag: 'date', value: { year: 2026, month: 11, day: 27 } } as const
    const time = { tag: 'time', value: { hour: 7, minute: 30, second: 1, hundredths: 50 } } as const
    expect(toTag([date, time], 'datetime')).toEqual({ ok: true, value: Date.UTC(2026, 10, 27, 7, 30, 1, 500) })
    expect(toTag([date], 'string')).toEqual({ ok: true, value: '2026-11-27' })
  })

  it('are written as the property has them, or refused with what is wanted', () => {
    expect(toApp(true, 'enumerated')).toEqual([{ tag: 'enumerated', value: 1 }])
    expect(toApp(Date.UTC(2026, 10, 27, 7, 30, 1, 500), 'date')).toHaveLength(2)
    expect(() => toApp(-1, 'unsigned')).toThrow('cannot be negative')
    expect(() => toApp(1e300, 'real')).toThrow('32 bits')
    expect(() => toApp(2.5, 'signed')).toThrow('whole number')
    expect(() => toApp('27.11.2026', 'date')).toThrow('2026-11-27')
    expect(() => toApp('xyz', 'octets')).toThrow('hex')
  })

  it('are good only where the object says nothing against them', () => {
    const flags = { inAlarm: false, fault: false, overridden: false, outOfService: false }
    expect(qualityBy(null)).toBe(quality.Good)
    expect(qualityBy({ ...flags, inAlarm: true })).toBe(quality.Good)
    expect(qualityBy({ ...flags, fault: true })).toBe(quality.BadSensorFailure)
    expect(qualityBy({ ...flags, outOfService: true })).toBe(quality.UncertainSubstituteValue)
  })
})

describe('frames', () => {
  const apdu = hex('10 08')

  it('carry what is meant for a device behind a router, and tell who it came from', () => {
    const npdu = encodeNpdu({ apdu, expectsReply: true, to: { network: 7, address: '0c' } })
    expect(shown(encodeFrame(bvlc.unicast, npdu))).toBe('81 0A 00 0D 01 24 00 07 01 0C FF 10 08')
    const from = decodeFrame(hex('81 0A 00 0C 01 08 00 07 01 0C 10 08'), { host: '10.0.5.1', port: 47_808 })
    expect(from).toMatchObject({ kind: 'apdu', from: { host: '10.0.5.1', behind: { network: 7, address: '0c' } } })
  })

  it('that were forwarded came from whom they say', () => {
    const frame = decodeFrame(hex('81 04 00 0E 0A 00 05 15 BA C0 01 00 10 08'), { host: '10.0.5.1', port: 47_808 })
    expect(frame).toMatchObject({ kind: 'apdu', from: { host: '10.0.5.21', port: 47_808 }, isBroadcast: true })
  })

  it('tell that a network cannot be reached', () => {
    const frame = decodeFrame(hex('81 0A 00 0A 01 80 03 01 00 07'), { host: '10.0.5.1', port: 47_808 })
    expect(frame).toEqual({ kind: 'network', type: 3, reason: { code: 1, network: 7 } })
  })

  it.each([
    '',
    '81',
    '82 0A 00 08 01 00 10 08',
    '81 0A 00 09 01 00 10 08',
    '81 0A 00 06 02 00',
    '81 04 00 08 0A 00 05 15',
    '81 0A 00 08 01 20 00 07',
  ])('%s is none', (bytes) => expect(() => decodeFrame(hex(bytes), { host: '10.0.5.1', port: 47_808 })).toThrow(Malformed))
})

describe('answers in parts', () => {
  const part = (number: number, isLast = false) => ({ number, window: 4, isLast })

  it('come together in order, with receipts where they are due', () => {
    const parts = new Parts(9)
    expect(parts.take(part(0), hex('01')).receipt).toEqual(hex('40 09 00 04'))
    for (const number of [1, 2, 3]) expect(parts.take(part(number), hex('02')).receipt).toBeNull()
    expect(parts.take(part(4), hex('03')).receipt).toEqual(hex('40 09 04 04'))
    const { whole, receipt } = parts.take(part(5, true), hex('04'))
    expect(whole).toEqual(hex('01 02 02 02 03 04'))
    expect(receipt).toEqual(hex('40 09 05 04'))
  })

  it('ask again for one that is missing, and take no one twice', () => {
    const parts = new Parts(9)
    parts.take(part(0), hex('01'))
    expect(parts.take(part(2), hex('03'))).toEqual({ whole: null, receipt: hex('42 09 00 04') })
    expect(parts.take(part(0), hex('01'))).toEqual({ whole: null, receipt: hex('40 09 00 04') })
    expect(parts.take(part(1, true), hex('02')).whole).toEqual(hex('01 02'))
  })

  it('go on counting past 255', () => {
    const parts = new Parts(9)
    let whole: Buffer | null = null
    for (let i = 0; i <= 300; i++) whole = parts.take(part(i & 255, i === 300), Buffer.from([i & 255])).whole
    expect(whole).toHaveLength(301)
  })
})

describe('errors', () => {
  it('are read plain and wrapped', () => {
    expect(decodeError(hex('91 02 91 20'))).toEqual({ class: 2, code: 32 })
    expect(decodeError(hex('0E 91 01 91 1F 0F'))).toEqual({ class: 1, code: 31 })
    expect(() => decodeError(hex('91 02'))).toThrow(Malformed)
  })
})

describe('addresses', () => {
  it.each([
    ['4001:AV3', '4001:analog-value/3', 'AV3'],
    ['4001 ai 12', '4001:analog-input/12', 'AI12'],
    ['4001:analog-value,3.units', '4001:analog-value/3.units', 'AV3.units'],
    ['4001/MSV1.priority-array[8]', '4001:multi-state-value/1.priority-array[8]', 'MSV1.priority-array[8]'],
    ['7:160/2.512', '7:160/2.512', '160/2.512'],
    ['7:device/7.local-time', '7:device/7.local-time', 'device/7.local-time'],
  ])('%s is %s, in short %s', (text, canonical, short) => {
    const parsed = parseAddress(text)
    if (!parsed.ok) throw new Error(parsed.problem)
    expect(formatAddress(parsed.address)).toBe(canonical)
    expect(shortText(parsed.address)).toBe(short)
    expect(parseAddress(canonical)).toEqual(parsed)
  })

  it.each([
    ['', 'device:type/instance'],
    ['AV3', 'device:type/instance'],
    ['5000000:AV3', 'A device has a number'],
    ['1:XY3', 'no kind of object “XY”'],
    ['1:AV5000000', 'An object has a number'],
    ['1:AV3.colour', 'no property “colour”'],
    ['1:device/1', 'has no present value'],
    ['1:AV3.priority-array[70000]', 'An element'],
    ['1:2000/3', 'no kind of object'],
  ])('“%s” is none: %s', (text, problem) =>
    expect(parseAddress(text)).toMatchObject({ ok: false, problem: expect.stringContaining(problem) as string }),
  )

  it('ranges of numbers are from and to', () => {
    expect(parseRange('4000-4099')).toEqual({ low: 4000, high: 4099 })
    expect(parseRange('7')).toEqual({ low: 7, high: 7 })
    for (const none of ['9-3', 'a', '4194303', '']) expect(parseRange(none)).toBeNull()
  })

  it('have units in the signs of the trade', () => {
    expect([62, 98, 53, 19, 95, 9999].map(unitText)).toEqual(['°C', '%', 'Pa', 'kWh', '', 'unit 9999'])
  })
})

describe('points', () => {
  const point = (address: string, more: object = {}) => ({
    address,
    type: 'float32' as const,
    options: {},
    access: 'readwrite' as const,
    ...more,
  })
  const settings = bacnetSettings.parse({})

  it.each([
    ['a priority at a tag that is only read', { access: 'read', options: { priority: 8 } }, '1:AV1', 'options.priority'],
    ['a priority where nothing goes by priorities', { options: { priority: 8 } }, '1:AI1', 'options.priority'],
    ['an increment without notifications', { options: { notices: 'off', increment: 1 } }, '1:AV1', 'options.increment'],
    ['an increment of a yes or no', { type: 'bool', options: { increment: 1 } }, '1:BV1', 'options.increment'],
    ['an increment of a property whose changes nobody asked for', { options: { increment: 1 } }, '1:AV1.high-limit', 'options.increment'],
    ['writing what only the device makes', { type: 'bool[]' }, '1:AV1.status-flags', 'access'],
    ['a type that the value is not', { type: 'string' }, '1:AV1', 'type'],
  ])('refuse %s', (_, more, address, field) =>
    expect(bacnet.problems(point(address, more), settings).map((one) => one.field)).toEqual([field]),
  )

  it('are followed by the next object, and lie on another device alike', () => {
    expect(bacnet.next(point('1:AV1'))).toBe('1:analog-value/2')
    expect(bacnet.next(point('1:AV1.priority-array[3]'))).toBe('1:analog-value/1.priority-array[4]')
    expect(bacnet.onUnit('1:AV1.units', '77')).toBe('77:analog-value/1.units')
    expect(bacnet.onUnit('1:device/1.object-name', '77')).toBe('77:device/77.object-name')
    expect(bacnet.onUnit('1:AV1', 'seven')).toBeNull()
  })

  it('leave out what only repeats the link', () => {
    expect(bacnet.leanOptions({ notices: 'unconfirmed', priority: 8, increment: 2 }, settings)).toEqual({ priority: 8, increment: 2 })
  })

  it('share requests of a device: what is told of is only compared', () => {
    const points = [
      ...Array.from({ length: 150 }, (_, i) => ({ ...point(`1:AI${i + 1}`, { options: { notices: 'off' } }), id: i, path: `p${i}` })),
      { ...point('1:AV1'), id: 900, path: 'told' },
      { ...point('2:AV1', { options: { notices: 'off' } }), id: 901, path: 'other' },
    ]
    const load = bacnet.load(points, settings, () => ({ answerMs: 10, fences: {} }))
    expect(load.parts.map(({ unit }) => unit)).toEqual(['1', '2'])
    expect(load.parts[0]!.rounds).toMatchObject([
      { interval: 5000, tags: 150, requests: 3 },
      { interval: 60_000, tags: 1, requests: 1 },
    ])
  })
})

describe('plans of requests', () => {
  const item = (type: number, instance: number, property = 85) => ({
    ref: { object: object(type, instance), property, index: null },
    type: 'float32' as const,
    seen: null,
  })
  const limits = { objects: 60, requestRoom: 1464, answerRoom: 1464, flags: true }

  it('hold every property once, and keep to all limits', () => {
    fc.assert(
      fc.property(
        fc.uniqueArray(fc.tuple(fc.nat(20), fc.nat(300), fc.constantFrom(85, 117, 28)), { selector: String, maxLength: 300 }),
        fc.integer({ min: 1, max: 100 }),
        fc.integer({ min: 60, max: 1464 }),
        (refs, objects, room) => {
          const items = refs.map(([type, instance, property]) => item(type, instance, property))
          const requests = planReads(items, { objects, requestRoom: room, answerRoom: room, flags: false })
          expect(requests.flat()).toHaveLength(items.length)
          expect(new Set(requests.flat()).size).toBe(items.length)
          for (const request of requests) {
            const ids = new Set(request.map(({ ref }) => `${ref.object.type}/${ref.object.instance}`))
            expect(ids.size).toBeLessThanOrEqual(objects)
            if (request.length > 1) expect(encodeReadMultiple(request.map(({ ref }) => ref)).length).toBeLessThanOrEqual(room)
          }
        },
      ),
    )
  })

  it('put what was longer than thought into more requests', () => {
    const items = Array.from({ length: 50 }, (_, i) => item(0, i))
    expect(planReads(items, limits)).toHaveLength(1)
    expect(
      planReads(
        items.map((one) => ({ ...one, seen: 200 })),
        limits,
      ).length,
    ).toBeGreaterThan(5)
  })
})

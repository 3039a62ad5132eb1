import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { jsonOf, type Carried } from '#core/messages/carried'
import { protocolOf } from '#core/links/registry'
import { parseJson } from '#core/messages/json'
import { bytesOfValue, bytesReader, layoutContract } from '#core/messages/layout'
import { Payload, readerFor } from '#core/messages/payload'
import { mqttSettings } from '#core/mqtt/settings'
import { writtenPayload } from '#core/mqtt/writing'
import { integerRanges, type DataType, type TagValue } from '#core/tags/types'

/** Payloads to the last digit and the last byte. */

describe('JSON', () => {
  it('keeps every digit of whole numbers', () => {
    expect(parseJson('{"count":9007199254740993,"small":7,"less":-9223372036854775808}')).toEqual({
      ...{ count: 9_007_199_254_740_993n, small: 7, less: -9_223_372_036_854_775_808n },
    })
    expect(parseJson('[0.1234567890123456789, 1e3]')).toEqual([0.12345678901234568, 1000])
  })
  it('with two values under one name is refused, wherever it stands', () => {
    expect(() => parseJson('{"a":1,"a":2}')).toThrow('“a” stands twice')
    expect(() => parseJson('[{"b":{"a":1 , "a"\n: 2}}]')).toThrow('“a” stands twice')
    expect(parseJson('{"a":{"a":1},"b":"x\\":\\"a\\":"}')).toEqual({ a: { a: 1 }, b: 'x":"a":' })
  })
  it('with a number beyond a double is refused', () => expect(() => parseJson('{"a":1e400}')).toThrow('1e400 is beyond'))
  it('is otherwise what the language itself makes of it', () =>
    fc.assert(
      fc.property(fc.jsonValue(), (value) => {
        const text = JSON.stringify(value)
        expect(JSON.parse(jsonOf(parseJson(text) as Carried))).toEqual(JSON.parse(text))
      }),
    ))
  it('fails as the language itself does', () => expect(() => parseJson('{"a":')).toThrow(SyntaxError))

  const told = (type: DataType, text: string, path = '$.v') =>
    readerFor({ type, path, time: '' })(new Payload(new TextEncoder().encode(text)))
  it('brings counters of 64 bits into tags of theirs', () => {
    expect(told('uint64', '{"v":18446744073709551615}')).toMatchObject({ ok: true, value: 18_446_744_073_709_551_615n })
    expect(told('int32', '{"v":18446744073709551615}')).toMatchObject({ ok: false })
    expect(told('string', '{"v":{"n":18446744073709551615}}')).toMatchObject({ ok: true, value: '{"n":18446744073709551615}' })
  })
})

describe('bytes of a payload', () => {
  const at = (more: object = {}) => layoutContract.parse(more)
  const read = (type: DataType, bytes: number[], more: object = {}) => bytesReader(type, at(more))(Uint8Array.from(bytes))
  it.each<[DataType, number[], object, TagValue]>([
    ['int16', [0xff, 0xfe], {}, -2],
    ['uint16', [1, 0x34, 0x12], { at: 1, order: 'little' }, 0x1234],
    // IEEE 754: 3.14159274 is 40 49 0F DB
    ['float32', [0x40, 0x49, 0x0f, 0xdb], {}, 3.1415927410125732],
    ['uint64', [0xff, 0xff, 0xff, 0xff, 0xff, 0xff, 0xff, 0xff], {}, 2n ** 64n - 1n],
    ['bool', [0, 4], { at: 1, bit: 2 }, true],
    ['bool', [0, 4], { at: 1, bit: 1 }, false],
    ['string', [1, 0x48, 0x53, 0, 0], { at: 1, length: 4 }, 'HS'],
    ['int16[]', [0, 1, 0, 2, 9], {}, [1, 2]],
  ])('are read as %s of %j with %j', (type, bytes, more, value) => expect(read(type, bytes, more)).toEqual({ ok: true, value }))
  it('that are too few say how many there are', () =>
    expect(read('float32', [1, 2, 3], { at: 2 })).toEqual({ ok: false, problem: 'it has 3 bytes, and the value lies up to byte 6' }))
  it('that are no text say so', () =>
    expect(read('string', [0xff])).toMatchObject({ ok: false, problem: 'what lies there is no text in UTF-8' }))

  it('are the same written and read, whatever the value', () =>
    fc.assert(
      fc.property(
        fc.constantFrom(...(Object.entries(integerRanges) as [DataType, { low: bigint; high: bigint }][])),
        fc.bigInt({ min: -(2n ** 63n), max: 2n ** 64n }),
        fc.constantFrom('big', 'little'),
        (of, any, order) => {
          const [type, { low, high }] = of
          const span = high - low + 1n
          const fits = low + ((((any - low) % span) + span) % span)
          const value = type.endsWith('64') ? fits : Number(fits)
          const found = bytesReader(type, at({ order }))(bytesOfValue(value, type, at({ order })))
          return found.ok && found.value === value
        },
      ),
    ))
})

describe('what is written', () => {
  it('is the value alone, JSON with time and quality, or bytes', () => {
    const now = Date.UTC(2026, 10, 26, 14, 6, 45)
    expect(writtenPayload(4.5, 'float64', {}, now)).toBe('4.5')
    expect(writtenPayload(2n ** 60n, 'int64', { send: 'json' }, now)).toBe(
      '{"value":1152921504606846976,"time":"2026-11-26T14:06:45.000Z","quality":0}',
    )
    expect(writtenPayload('a "b"', 'string', { send: 'json' }, now)).toContain('"value":"a \\"b\\""')
    expect(writtenPayload(258, 'uint16', { bytes: layoutContract.parse({ at: 7 }) }, now)).toEqual(Uint8Array.of(1, 2))
  })
})

describe('a point of bytes', () => {
  const mqtt = protocolOf('mqtt')
  const point = (options: object, type: DataType = 'uint16') => ({ address: 'quay/raw', type, options, interval: null }) as never
  it('has no path into it, and no list of texts', () => {
    expect(mqtt.problems(point({ bytes: { at: 0, order: 'big' }, path: '$.a' }), {} as never)).toMatchObject([{ field: 'options.path' }])
    expect(mqtt.problems(point({ bytes: { at: 0, order: 'big' } }, 'string[]'), {} as never)).toMatchObject([{ field: 'type' }])
    expect(mqtt.problems(point({ bytes: { at: 0, order: 'big' } }), {} as never)).toEqual([])
  })
  it('is told from its neighbours in the same payload', () => {
    expect(mqtt.optionsText(point({ bytes: { at: 2, order: 'little' } }), {} as never)).toBe('byte 2, little-endian')
    expect(mqtt.spot(point({ bytes: { at: 2, order: 'big' } }), {} as never)).toMatchObject({ place: 'quay/raw byte 2' })
  })
})

describe('a session that the broker keeps', () => {
  it('needs a client id that stays', () => {
    const settings = (more: object) => mqttSettings.safeParse({ host: 'quay', session: { keep: true }, ...more })
    expect(settings({}).error?.issues).toMatchObject([
      { path: ['clientId'], message: expect.stringContaining('client id that stays') as string },
    ])
    expect(settings({ clientId: 'conduit-quay' }).success).toBe(true)
  })
})

import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { decoderFor, encodeRegisters } from '#core/modbus/decoding'
import { registersOf, wordOrders, type Layout, type ModbusType } from '#core/modbus/layout'
import { packRegisters } from '#core/modbus/pdu'
import type { ScalarValue } from '#core/tags/types'

const bytes = (text: string) => Buffer.from(text.replace(/ /g, ''), 'hex')
const read = (layout: Partial<Layout>, text: string) =>
  decoderFor({ type: 'uint16', order: 'ABCD', bit: null, length: 0, ...layout })(bytes(text), 0)

describe('values from registers', () => {
  // 123456.789 as IEEE 754 single precision is 47 F1 20 65; as double 40 FE 24 0C 9F BE 76 C9
  it.each([
    ['float32', 'ABCD', '47F1 2065', 123456.7890625],
    ['float32', 'CDAB', '2065 47F1', 123456.7890625],
    ['float32', 'BADC', 'F147 6520', 123456.7890625],
    ['float32', 'DCBA', '6520 F147', 123456.7890625],
    ['float64', 'ABCD', '40FE 240C 9FBE 76C9', 123456.789],
    ['float64', 'CDAB', '76C9 9FBE 240C 40FE', 123456.789],
    ['float64', 'BADC', 'FE40 0C24 BE9F C976', 123456.789],
    ['float64', 'DCBA', 'C976 BE9F 0C24 FE40', 123456.789],
    ['uint32', 'ABCD', '0001 0000', 65536],
    ['uint32', 'CDAB', '0001 0000', 1],
    ['int32', 'ABCD', 'FFFF FFFE', -2],
    ['int16', 'ABCD', 'FFFE', -2],
    ['uint16', 'BADC', '0100', 1],
    ['int64', 'ABCD', 'FFFF FFFF FFFF FFFF', -1n],
    ['uint64', 'ABCD', '0000 0000 0001 E240', 123456n],
    ['uint64', 'CDAB', 'E240 0001 0000 0000', 123456n],
  ] as const)('%s %s of %s', (type, order, text, value) => expect(read({ type, order }, text)).toBe(value))

  it.each([
    ['uint16', 'ABCD', '1234', 1234],
    ['uint16', 'ABCD', '0009', 9],
    ['uint16', 'BADC', '3412', 1234],
    ['uint32', 'ABCD', '1234 5678', 12_345_678],
    ['uint32', 'CDAB', '5678 1234', 12_345_678],
    ['uint32', 'ABCD', '9999 9999', 99_999_999],
    ['uint16', 'ABCD', '123A', NaN],
    ['uint32', 'ABCD', 'F000 0001', NaN],
  ] as const)('BCD as %s %s of %s', (type, order, text, value) => expect(read({ type, order, isBcd: true }, text)).toBe(value))

  it('takes single bits, counted from the least significant', () => {
    expect(read({ type: 'bool', bit: 4 }, '0010')).toBe(true)
    expect(read({ type: 'bool', bit: 3 }, '0010')).toBe(false)
    expect(read({ type: 'bool', bit: 15 }, '8000')).toBe(true)
  })

  it('ends text at the first zero and drops padding', () => {
    expect(read({ type: 'string', length: 6 }, '4142 4300 4445')).toBe('ABC')
    expect(read({ type: 'string', length: 4 }, '4142 2020')).toBe('AB')
    expect(read({ type: 'string', length: 4, order: 'BADC' }, '4241 4443')).toBe('ABCD')
    expect(read({ type: 'string', length: 3 }, '4142 4344')).toBe('ABC')
  })
})

describe('registers from values', () => {
  const values: Record<ModbusType, fc.Arbitrary<ScalarValue>> = {
    bool: fc.boolean(),
    int16: fc.integer({ min: -32768, max: 32767 }),
    uint16: fc.integer({ min: 0, max: 65535 }),
    int32: fc.integer(),
    uint32: fc.nat({ max: 0xffffffff }),
    int64: fc.bigInt({ min: -(2n ** 63n), max: 2n ** 63n - 1n }),
    uint64: fc.bigInt({ min: 0n, max: 2n ** 64n - 1n }),
    float32: fc.float({ noNaN: true }),
    float64: fc.double({ noNaN: true }),
    string: fc.string({ unit: fc.constantFrom(...'abcXYZ019-/'), maxLength: 11 }),
  }

  it.each(Object.entries(values))('%s comes back in every order', (type, arbitrary) => {
    fc.assert(
      fc.property(arbitrary, fc.constantFrom(...wordOrders), (value, order) => {
        if (type === 'bool') order = 'ABCD'
        const layout: Layout = { type: type as ModbusType, order, bit: type === 'bool' ? 0 : null, length: 11 }
        const words = encodeRegisters(value, layout)
        expect(words).toHaveLength(registersOf(layout.type, layout.length))
        expect(decoderFor(layout)(packRegisters(words), 0)).toEqual(value)
      }),
    )
  })

  it('BCD comes back in every order, and carries no more digits than it has', () => {
    fc.assert(
      fc.property(fc.nat({ max: 99_999_999 }), fc.constantFrom(...wordOrders), (value, order) => {
        const layout: Layout = { type: 'uint32', order, bit: null, length: 0, isBcd: true }
        expect(decoderFor(layout)(packRegisters(encodeRegisters(value, layout)), 0)).toBe(value)
      }),
    )
    expect(encodeRegisters(1234, { type: 'uint16', order: 'ABCD', bit: null, length: 0, isBcd: true })).toEqual([0x1234])
    expect(() => encodeRegisters(10_000, { type: 'uint16', order: 'ABCD', bit: null, length: 0, isBcd: true })).toThrow(/ends at 9999/)
  })

  it('refuses text that does not fit, and counts bytes, not letters', () => {
    expect(() => encodeRegisters('äöü', { type: 'string', order: 'ABCD', bit: null, length: 5 })).toThrow(/6 bytes/)
  })
})

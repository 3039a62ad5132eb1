import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { formatAddress, formatReference, parseAddress, tables, type ModbusAddress } from '#core/modbus/address'

const parsed = (text: string) => {
  const result = parseAddress(text)
  return result.ok ? formatAddress(result.address) : result.problem
}

describe('Modbus addresses', () => {
  it.each([
    ['holding/40', 'holding/40'],
    ['HOLDING 40', 'holding/40'],
    ['40041', 'holding/40'],
    ['400041', 'holding/40'],
    ['465536', 'holding/65535'],
    ['30001', 'input/0'],
    ['300001', 'input/0'],
    ['10001', 'discrete/0'],
    ['00004', 'coil/3'],
    ['000004', 'coil/3'],
    ['12:400041.3', '12:holding/40.3'],
    ['11:coil/3', '11:coil/3'],
    ['holding/94.15', 'holding/94.15'],
  ])('reads %s as %s', (text, canonical) => expect(parsed(text)).toBe(canonical))

  it.each([
    ['', /table and an offset/],
    ['40000', /count from 1/],
    ['400000', /count from 1/],
    ['466000', /past the end/],
    ['holding/65536', /past the end/],
    ['256:holding/1', /Unit 256/],
    ['holding/3.16', /bits 0 to 15/],
    ['coil/3.1', /one bit already/],
    ['40', /5 or 6 digits/],
    ['20001', /start with 0/],
    ['register/4', /names no table/],
    ['holding', /zero-based offset/],
  ])('refuses %s and says why', (text, reason) => expect(parsed(text)).toMatch(reason))

  it('warns of the off-by-one whenever a reference is typed', () => {
    const result = parseAddress('40041')
    expect(result.ok && result.note).toContain('counts from 1')
    const offset = parseAddress('holding/41')
    expect(offset.ok && offset.note).toBeNull()
  })

  const address = fc
    .record({
      unit: fc.option(fc.integer({ min: 0, max: 255 }), { nil: null }),
      table: fc.constantFrom(...tables),
      offset: fc.integer({ min: 0, max: 65535 }),
      bit: fc.option(fc.integer({ min: 0, max: 15 }), { nil: null }),
    })
    .map((a): ModbusAddress => (a.table === 'coil' || a.table === 'discrete' ? { ...a, bit: null } : a))

  it('comes back from every notation it is shown in', () => {
    fc.assert(
      fc.property(address, (a) => {
        const prefix = a.unit === null ? '' : `${a.unit}:`
        for (const text of [formatAddress(a), prefix + formatReference(a, 6), ...(a.offset < 9999 ? [prefix + formatReference(a, 5)] : [])])
          expect(parseAddress(text)).toMatchObject({ ok: true, address: a })
      }),
    )
  })

  it('never throws, whatever is typed', () => {
    fc.assert(fc.property(fc.string(), (text) => typeof parseAddress(text).ok === 'boolean'))
  })
})

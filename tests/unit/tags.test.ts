import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { modbusTcp } from '#core/modbus/protocol'
import { pathProblem } from '#core/tags/path'
import { quality, qualityName, qualityText, severityOf } from '#core/tags/quality'
import { toEngineering, toRaw } from '#core/tags/scaling'
import { duration } from '#core/text/duration'
import { valueText } from '#core/text/number'
import { modbusTcpSettings } from '#core/modbus/settings'

describe('scaling', () => {
  it('gives the number that the maker of the device meant', () => {
    expect(toEngineering(703, { gain: 0.1, offset: 0 })).toBe(70.3)
    expect(toEngineering(48_211_400n, { gain: 0.001, offset: 0 })).toBe(48211.4)
    expect(toEngineering(true, { gain: 5, offset: 1 })).toBe(true)
  })

  it('is undone on write', () => {
    expect(toRaw(70.3, 'int16', { gain: 0.1, offset: 0 })).toEqual({ ok: true, raw: 703 })
    fc.assert(
      fc.property(
        fc.integer({ min: -32768, max: 32767 }),
        fc.constantFrom(0.1, 0.01, 0.5, 2, 10, -0.1),
        fc.integer({ min: -100, max: 100 }),
        (raw, gain, offset) => {
          const scaling = { gain, offset }
          expect(toRaw(toEngineering(raw, scaling), 'int16', scaling)).toEqual({ ok: true, raw })
        },
      ),
    )
  })

  it.each([
    [40_000, 'int16', 'range'],
    [-1, 'uint32', 'range'],
    ['abc', 'float32', 'type'],
    ['', 'float64', 'type'],
    [1e39, 'float32', 'range'],
    ['maybe', 'bool', 'type'],
    [true, 'int16', 'type'],
    ['18446744073709551616', 'uint64', 'range'],
    ['1.5', 'int64', 'type'],
    [Infinity, 'int32', 'range'],
  ] as const)('refuses %s as %s', (value, type, reason) => expect(toRaw(value, type, null)).toMatchObject({ ok: false, reason }))

  it('takes text that says what is meant', () => {
    expect(toRaw('18446744073709551615', 'uint64', null)).toEqual({ ok: true, raw: 2n ** 64n - 1n })
    expect(toRaw('off', 'bool', null)).toEqual({ ok: true, raw: false })
    expect(toRaw('1.5', 'float64', null)).toEqual({ ok: true, raw: 1.5 })
  })
})

describe('quality', () => {
  it('carries the codes of OPC 10000-6', () => {
    expect(quality.BadNoCommunication).toBe(0x80310000)
    expect(severityOf(quality.UncertainLastUsableValue)).toBe('uncertain')
    expect(qualityText(quality.BadNoCommunication)).toBe('Bad · no reply')
    expect(qualityName(0x8ffe0000)).toBe('0x8ffe0000')
  })
})

describe('paths', () => {
  it.each(['', '/a', 'a/', 'a//b', 'a/ b', 'x'.repeat(241), 'a\u0007b'])('refuses “%s”', (path) => expect(pathProblem(path)).not.toBeNull())
  it.each(['a', 'berth/1/shore/active power', 'Ångström/ü'])('takes “%s”', (path) => expect(pathProblem(path)).toBeNull())
})

describe('what a person reads', () => {
  it.each([
    [1482.6, undefined, '1482.6'],
    [48211.4, undefined, '48\u202f211.4'],
    [-12.5, undefined, '−12.5'],
    [0.1 + 0.2, undefined, '0.3'],
    [1481.6300048828125, 'float32', '1481.63'],
    [4.99e30, undefined, '4.99e+30'],
    [10994n, 'uint64', '10\u202f994'],
    [null, undefined, '—'],
    [true, 'bool', 'true'],
  ] as const)('%s', (value, type, text) => expect(valueText(value, type)).toBe(text))

  it.each([
    [0.42, '0.4 ms'],
    [62.3, '62 ms'],
    [1200, '1.2 s'],
    [42_000, '42 s'],
    [600_000, '10 min'],
    [7_500_000, '2 h 5 min'],
    [270_000_000, '3 d 3 h'],
  ])('%s ms', (ms, text) => expect(duration(ms)).toBe(text))
})

describe('points of a Modbus link', () => {
  const settings = modbusTcpSettings.parse({ host: 'meters', order: 'CDAB' })
  const point = (address: string, type: string, more = {}) => ({ address, type, options: {}, access: 'read', ...more }) as never
  const fields = (address: string, type: string, more = {}) =>
    modbusTcp.problems(point(address, type, more), settings).map(({ field }) => field)

  it('refuse what cannot be polled, at the field', () => {
    expect(fields('holding/65533', 'float64')).toEqual(['address'])
    expect(fields('holding/65532', 'float64')).toEqual([])
    expect(fields('holding/1', 'string')).toEqual(['options.length'])
    expect(fields('holding/1', 'string', { options: { length: 0 } })).toEqual(['options.length'])
    expect(fields('holding/1', 'int16', { options: { coding: 'bcd' } })).toEqual(['options.coding'])
    expect(fields('holding/1', 'uint16', { options: { coding: 'bcd' } })).toEqual([])
    expect(fields('coil/1', 'int16')).toEqual(['type'])
    expect(fields('holding/1', 'bool')).toEqual(['type'])
    expect(fields('holding/1.3', 'bool')).toEqual([])
    expect(fields('input/1', 'int16', { access: 'readwrite' })).toEqual(['access'])
    expect(fields('nonsense', 'int16')).toEqual(['address'])
    const patient = modbusTcpSettings.parse({ host: 'meters', requests: { pause: 200 } })
    expect(modbusTcp.problems(point('holding/1', 'int16', { interval: 100 }), patient)).toMatchObject([{ field: 'interval' }])
    expect(modbusTcp.problems(point('holding/1', 'int16', { interval: 200 }), patient)).toEqual([])
  })

  it('step by their width', () => {
    expect(modbusTcp.next(point('holding/40', 'float32'))).toBe('holding/42')
    expect(modbusTcp.next(point('11:holding/70', 'uint64'))).toBe('11:holding/74')
    expect(modbusTcp.next(point('holding/94.15', 'bool'))).toBe('holding/95.0')
    expect(modbusTcp.next(point('holding/100', 'string', { options: { length: 12 } }))).toBe('holding/106')
    expect(modbusTcp.next(point('coil/3', 'bool'))).toBe('coil/4')
  })
})

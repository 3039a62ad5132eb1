import { describe, expect, it } from 'vitest'
import { inputReading, inputWay } from '#core/equipment/inputs'

describe('values of a tag as an input has them', () => {
  const float = (unit: string) => ({ type: 'float64' as const, unit })
  it('are converted where both have units that differ', () => {
    expect(inputReading(2500, inputWay('W', float('kW')))).toEqual({ ok: true, value: 2.5 })
    expect(inputReading(50, inputWay('°F', float('°C')))).toMatchObject({ ok: true, value: expect.closeTo(10, 9) as number })
    for (const [from, to] of [
      ['', 'kW'],
      ['kW', ''],
      ['kW', 'kW'],
    ] as const)
      // prettier-ignore
      expect(inputReading(7, inputWay(from, float(to)))).toEqual({ ok: true, value: 7 })
  })
  it('are none where units do not go together, or a text would have to be converted', () => {
    expect(inputReading(1, inputWay('kW', float('bar')))).toEqual({ ok: false, problem: 'kW is not converted to bar' })
    expect(inputReading('1', inputWay('W', float('kW')))).toMatchObject({ ok: false })
  })
  it('fit the type of the input or are refused', () => {
    expect(inputReading(40, inputWay('', { type: 'int8', unit: '' }))).toEqual({ ok: true, value: 40 })
    expect(inputReading(400, inputWay('', { type: 'int8', unit: '' }))).toMatchObject({
      ok: false,
      problem: expect.stringMatching(/127/) as string,
    })
    expect(inputReading(12, inputWay('', { type: 'string', unit: '' }))).toEqual({ ok: true, value: '12' })
  })
})

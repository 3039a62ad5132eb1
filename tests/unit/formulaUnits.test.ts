import { describe, expect, it } from 'vitest'
import { unitProblem } from '#core/formulas/units'
import { classContract } from '#core/equipment/settings'
import { classProblems } from '#core/equipment/problems'
import { Model } from '#core/equipment/model'

const units: Record<string, string> = {
  ...{ power: 'kW', rated: 'kW', heat: 'W', oil: '°C', air: '°C', flow: 'm³/h', run: 'h', used: 'kWh', current: 'A', voltage: 'V' },
  ...{ angle: '°', turn: 'rad', reactive: 'kvar', apparent: 'kVA', way: 'm', speed: 'm/s', odd: 'widgets', plain: '' },
}
const problem = (formula: string, unit = '') => unitProblem(formula, (name) => units[name] ?? '', unit)

describe('units in a formula', () => {
  it.each([
    ['power + rated', 'kW'],
    ['100 * power / rated', '%'],
    ['oil - air', 'K'],
    ['oil + 273.15', 'K'],
    ['oil * 9 / 5 + 32', '°F'],
    ['power * run', 'kWh'],
    ['used / run', 'kW'],
    ['voltage * current', 'W'],
    ['sqrt(apparent ^ 2 - power ^ 2)', 'kvar'],
    ['way / speed', 's'],
    ['power > 20 and oil < 90', ''],
    ['oil > 80 ? power : rated', 'kW'],
    ['min(power, rated, 100)', 'kW'],
    ['power + convert(heat, "W", "kW")', 'kW'],
    ['power + odd + plain', 'kW'],
    ['number(power) + oil', '°C'],
    ['sin(turn)', ''],
    ['3600 / since(power)', '1/min'],
    ['round(power, 1)', 'kW'],
  ])('that go together are left alone: %s', (formula, unit) => expect(problem(formula, unit)).toBeNull())

  it.each([
    ['power + oil', 'kW', /^power \(kW\) and oil \(°C\) are added, and do not go together\. convert/],
    ['power + heat', 'kW', /power \(kW\) and heat \(W\) are added/],
    ['rated - (power * run)', '', /rated \(kW\) and \(power \* run\) \(kW · h\) are taken from each other/],
    ['oil > power', '', /oil \(°C\) and power \(kW\) are compared/],
    ['0 < power < oil', '', /are compared/],
    ['oil > 80 ? power : oil', '', /are chosen between/],
    ['max(power, flow)', '', /put together by max/],
    ['power * run', 'kW', /^It gives kW · h, and the property is in kW\./],
    ['power * run', 'MWh', /^It gives kW · h, and the property is in MWh: multiply by 0\.001\.$/],
    ['power / rated', '%', /^It gives a share of 1, and the property is in %: multiply by 100\.$/],
    ['used / flow', '°C', /^It gives kWh\/m³\/h, and the property is in °C/],
    ['sin(angle)', '', /sin takes an angle in rad, and angle \(°\) is none/],
    ['convert(heat, "kW", "MW")', 'MW', /heat \(W\) is converted as if it were in kW/],
    ['sqrt(power)', 'kW', /to the power of 0\.5/],
  ])('that do not are told: %s', (formula, unit, message) => expect(problem(formula, unit)).toMatch(message))

  it('are looked at where a class is saved, at the formula', () => {
    const properties = [
      { name: 'power', unit: 'kW', made: { kind: 'input' } },
      { name: 'oil', unit: '°C', made: { kind: 'input' } },
      { name: 'odd', made: { kind: 'formula', formula: 'power + oil' } },
    ]
    expect(classProblems(classContract.parse({ name: 'X', properties }), null, new Model([], []))).toEqual([
      { path: 'properties.2.made.formula', message: expect.stringMatching(/do not go together/) as string },
    ])
  })
})

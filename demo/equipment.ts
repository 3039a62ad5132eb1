import { propertyTags } from '#core/equipment/made'
import { Model } from '#core/equipment/model'
import { classContract, equipmentContract, type EquipmentDraft } from '#core/equipment/settings'
import { thingsOf } from '#db/rows'
import { tagOfProperty } from '#shared/equipment/tags'
import type { TagDraft } from '#shared/tags'

/** The port as its people speak of it: berths with what stands there, and the converter that feeds them. */
export const demoClasses = () =>
  [
    {
      ...{ name: 'Berth', level: 'area', description: 'Where a ferry lies and is fed from the shore' },
      properties: [
        { name: 'power', unit: 'kW', title: 'Power', made: { kind: 'gather', of: 'power', how: 'sum', class: 'Feeder' } },
        { name: 'energy_today', unit: 'kWh', title: 'Energy today', made: { kind: 'gather', of: 'energy_today', how: 'sum' } },
      ],
    },
    {
      ...{ name: 'Feeder', level: 'work unit', description: 'Shore power of one berth, behind its meter' },
      properties: [
        { name: 'serial_number', type: 'string', title: 'Serial number', made: { kind: 'constant', value: 'HSF-0000' } },
        { name: 'rated_power', unit: 'kW', title: 'Rated power', made: { kind: 'constant', value: 2500 } },
        { name: 'power', unit: 'kW', type: 'float32', title: 'Power', made: { kind: 'input', alone: true } },
        {
          ...{ name: 'closed', type: 'bool', title: 'Breaker closed', made: { kind: 'input' } },
          limits: [
            {
              kind: 'state',
              name: 'open',
              values: [false],
              severity: 'trouble',
              text: 'The breaker is open: the berth has no shore power',
            },
          ],
        },
        {
          ...{ name: 'load', unit: '%', title: 'Load', made: { kind: 'formula', formula: '100 * power / rated_power' } },
          limits: [
            { kind: 'higher', at: 95, band: 3, severity: 'trouble', text: 'The feeder is close to its rated power' },
            { kind: 'high', at: 60, band: 1.5, delay: 3000 },
          ],
        },
        {
          ...{ name: 'load_1min', unit: '%', title: 'Load, mean by time of 1 min' },
          made: { kind: 'rollup', of: 'load', how: 'mean by time', window: { count: 1, unit: 'minute' } },
        },
        {
          ...{ name: 'demand_15min', unit: 'kW', title: 'Demand, mean of the last 15 min' },
          made: { kind: 'rollup', of: 'power', how: 'mean by time', window: { count: 1, unit: 'minute' }, over: 15 },
        },
        {
          ...{ name: 'peak_today', unit: 'kW', title: 'Peak of today' },
          made: { kind: 'rollup', of: 'power', how: 'max', window: { count: 1, unit: 'day' }, shows: 'running' },
        },
        {
          ...{ name: 'energy_today', unit: 'kWh', title: 'Energy today' },
          made: { kind: 'rollup', of: 'power', how: 'integral', window: { count: 1, unit: 'day' }, shows: 'running' },
        },
      ],
    },
    {
      ...{ name: 'Frequency converter', level: 'work unit', description: 'Makes the frequency that a ship wants' },
      properties: [
        { name: 'rated_power', unit: 'kW', title: 'Rated power', made: { kind: 'constant', value: 3000 } },
        { name: 'frequency', unit: 'Hz', type: 'float32', title: 'Output frequency', made: { kind: 'input' } },
        { name: 'power', unit: 'kW', type: 'float32', title: 'Output power', made: { kind: 'input' } },
        { name: 'winding', unit: '°C', type: 'float32', title: 'Winding temperature', made: { kind: 'input' } },
        { name: 'load', unit: '%', title: 'Load', made: { kind: 'formula', formula: '100 * power / rated_power' } },
      ],
    },
  ].map((one) => classContract.parse(one))

const site = 'Harrow Sound'

export const demoEquipment = (): EquipmentDraft[] =>
  [
    { path: site, level: 'site' },
    { path: `${site}/Shore power`, level: 'area' },
    ...[1, 2, 3].flatMap((berth) => [
      { path: `${site}/Shore power/Berth ${berth}`, class: 'Berth' },
      {
        ...{ path: `${site}/Shore power/Berth ${berth}/Feeder`, class: 'Feeder' },
        constants: { serial_number: `HSF-010${berth}` },
        bindings: { power: `berth/${berth}/shore/active_power`, closed: `berth/${berth}/shore/breaker_closed` },
      },
    ]),
    {
      ...{ path: `${site}/Shore power/Converter`, class: 'Frequency converter' },
      relations: [{ kind: 'feeds', to: `${site}/Shore power/Berth 2` }],
      bindings: { frequency: 'converter/frequency', power: 'converter/power' },
    },
  ].map((one) => equipmentContract.parse(one))

/** @param rows the equipment as it was stored */
export const equipmentTags = (rows: readonly unknown[]): TagDraft[] => {
  const model = new Model(demoClasses(), thingsOf('equipment', rows))
  return [...model.equipment.values()].flatMap((one) => propertyTags(model, one).map(tagOfProperty))
}

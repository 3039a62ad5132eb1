import { linkContract, type LinkDraft } from '#shared/links/link'
import { pointTag, type TagDraft } from '#shared/tags'
import { named } from './named'

/** The demo's feeder meters: three units behind one gateway. */
export const berthMeters = (modbusPort: number): LinkDraft =>
  linkContract.parse({
    name: 'Berth meters',
    kind: 'modbus-tcp',
    settings: { host: '127.0.0.1', port: modbusPort, unit: 11, order: 'CDAB' },
  })

type Meter = Partial<Omit<Parameters<typeof pointTag>[0], 'path' | 'linkId'>> & { name: string; address: string }

const tenth = { gain: 0.1, offset: 0 }

/** What every meter has. Offsets as in the meter's own list, less one. */
const channels: Meter[] = [
  { name: 'active_power', address: 'holding/40', type: 'float32', unit: 'kW', description: 'Power taken by the ship' },
  { name: 'reactive_power', address: 'holding/42', type: 'float32', unit: 'kvar' },
  { name: 'apparent_power', address: 'holding/44', type: 'float32', unit: 'kVA' },
  { name: 'current_l1', address: 'holding/50', type: 'int16', scaling: tenth, unit: 'A' },
  { name: 'current_l2', address: 'holding/51', type: 'int16', scaling: tenth, unit: 'A' },
  { name: 'current_l3', address: 'holding/52', type: 'int16', scaling: tenth, unit: 'A' },
  {
    name: 'voltage',
    address: 'holding/60',
    type: 'uint32',
    options: { order: 'ABCD' },
    unit: 'V',
    description: 'Line to line, at the plug',
  },
  { name: 'frequency', address: 'holding/64', type: 'float32', unit: 'Hz' },
  { name: 'power_factor', address: 'holding/66', type: 'float32' },
  {
    name: 'energy_import',
    address: 'holding/70',
    type: 'uint64',
    options: { order: 'ABCD' },
    scaling: { gain: 0.001, offset: 0 },
    unit: 'kWh',
    interval: 5000,
    description: 'Counts watt hours, shown in kilowatt hours',
  },
  {
    name: 'trip_limit',
    address: 'holding/90',
    type: 'float32',
    unit: 'kW',
    access: 'readwrite',
    description: 'The breaker opens above this',
  },
  { name: 'horn', address: 'holding/94.4', type: 'bool', access: 'readwrite', description: 'Bit 4 of the status word' },
  { name: 'cable_temperature', address: 'holding/96', type: 'int16', scaling: tenth, unit: '°C' },
  { name: 'serial_number', address: 'holding/100', type: 'string', options: { length: 12 }, interval: 60_000 },
  {
    name: 'arm_extension',
    address: 'holding/120',
    type: 'uint16',
    unit: 'cm',
    access: 'readwrite',
    description: 'How far the cable arm reaches out, shown on the meter’s display',
  },
  { name: 'breaker_closed', address: 'coil/3', type: 'bool', access: 'readwrite' },
  {
    name: 'plugged',
    address: 'discrete/0',
    type: 'bool',
    description: 'The ship’s plug is seated',
    names: named({ 0: 'no plug', 1: 'seated' }),
  },
  { name: 'uptime', address: 'input/0', type: 'uint32', options: { order: 'ABCD' }, unit: 's', interval: 5000 },
]

export const meterTags = (linkId: number): TagDraft[] =>
  [11, 12, 13].flatMap((unit, berth) =>
    channels.map(({ name, address, ...rest }) =>
      pointTag({
        type: 'bool',
        ...rest,
        path: `berth/${berth + 1}/shore/${name}`,
        linkId,
        address: unit === 11 ? address : `${unit}:${address}`,
      }),
    ),
  )

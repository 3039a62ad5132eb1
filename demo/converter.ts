import { linkContract, type LinkDraft } from '#shared/links/link'
import { pointTag, type TagDraft } from '#shared/tags'
import { named } from './named'

/** The demo's frequency converter: a controller in rack 0, slot 2. */
export const converterLink = (port: number): LinkDraft =>
  linkContract.parse({
    name: 'Frequency converter FC-1',
    kind: 'iso-tcp',
    settings: { host: '127.0.0.1', port, way: { by: 'slot', kind: 'operator', rack: 0, slot: 2 }, requests: { connections: 2 } },
  })

type Place = Partial<Omit<Parameters<typeof pointTag>[0], 'path' | 'linkId'>> & { name: string; address: string }

/** Block 10 is what it measures, block 20 what it is told. */
const places: Place[] = [
  { name: 'running', address: 'DB10.0.0', type: 'bool' },
  { name: 'at_set_point', address: 'DB10.0.3', type: 'bool', description: 'The frequency is the one that was asked for' },
  { name: 'state', address: 'DB10.2', type: 'int16', names: named({ 10: 'stands', 30: 'ramps', 40: 'at set point' }) },
  { name: 'frequency', address: 'DB10.4', type: 'float32', unit: 'Hz' },
  { name: 'voltage', address: 'DB10.8', type: 'float32', unit: 'V' },
  { name: 'current', address: 'DB10.12', type: 'float32', unit: 'A' },
  { name: 'power', address: 'DB10.16', type: 'float32', unit: 'kW' },
  { name: 'dc_voltage', address: 'DB10.20', type: 'float32', unit: 'V' },
  { name: 'starts', address: 'DB10.24', type: 'int32' },
  { name: 'energy', address: 'DB10.28', type: 'float64', unit: 'kWh', interval: 5000 },
  { name: 'last_start', address: 'DB10.36', type: 'datetime', interval: 5000 },
  { name: 'ship', address: 'DB10.44', type: 'string', options: { length: 20 }, interval: 5000 },
  {
    name: 'temperatures',
    address: 'DB10.66',
    type: 'int16[]',
    options: { count: 6 },
    description: 'Tenths of a degree, three phases of either side',
  },
  { name: 'set_frequency', address: 'DB20.0', type: 'float32', unit: 'Hz', access: 'readwrite', range: { low: 0, high: 66 } },
  { name: 'limit', address: 'DB20.4', type: 'float32', unit: 'kW', access: 'readwrite', description: 'Above this it stops' },
  { name: 'ramp', address: 'DB20.8', type: 'int16', unit: 's', access: 'readwrite' },
  { name: 'enable', address: 'DB20.10.0', type: 'bool', access: 'readwrite' },
  { name: 'heartbeat', address: 'M0', type: 'uint16' },
  { name: 'cooling_left', address: 'T5', type: 'uint32', unit: 'ms' },
]

export const converterTags = (linkId: number): TagDraft[] =>
  places.map(({ name, ...rest }) => pointTag({ type: 'bool', ...rest, path: `converter/${name}`, linkId }))

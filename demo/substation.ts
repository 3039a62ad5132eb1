import { linkContract, type LinkDraft } from '#shared/links/link'
import { pointTag, type TagDraft } from '#shared/tags'
import { named } from './named'

/** Where the demo’s building services are: both at 127.0.0.1, the ventilation where broadcasts arrive. */
export interface SubstationPorts {
  ventilation: number
  transformer: number
}

/** At another address of this machine, as devices take no notice of what comes from their own place. */
export const substationSettings = ({ ventilation, transformer }: SubstationPorts) => ({
  ...{ localAddress: '127.0.0.2', port: ventilation, broadcast: '127.255.255.255' },
  devices: [{ instance: 4002, host: '127.0.0.1', port: transformer }],
})

/** The demo’s building services: ventilation and the watch of the transformer. */
export const substationLink = (ports: SubstationPorts): LinkDraft =>
  linkContract.parse({
    name: 'Substation building services',
    kind: 'bacnet-ip',
    settings: { ...substationSettings(ports), interval: 2000, notices: { compare: 30 }, writes: { priority: 10 } },
  })

type Place = Partial<Omit<Parameters<typeof pointTag>[0], 'path' | 'linkId'>> & { name: string; address: string }

const places: Place[] = [
  { name: 'hall_temperature', address: '4001:analog-input/1', type: 'float32', unit: '°C' },
  { name: 'outside_temperature', address: '4001:analog-input/2', type: 'float32', unit: '°C' },
  { name: 'fan_speed', address: '4001:analog-input/3', type: 'float32', unit: '%' },
  { name: 'filter_pressure', address: '4001:analog-input/4', type: 'float32', unit: 'Pa' },
  { name: 'filter_alarm', address: '4001:binary-input/1', type: 'bool', names: named({ 0: 'Clean', 1: 'Clogged' }) },
  { name: 'fan_hours', address: '4001:accumulator/1', type: 'uint32', unit: 'h', options: { notices: 'off' } },
  {
    ...{ name: 'hall_set_point', address: '4001:analog-value/1', type: 'float32', unit: '°C', access: 'readwrite' },
    ...{ range: { low: 10, high: 35 }, description: 'The fans keep the transformer hall at this' },
  },
  { name: 'fan_enable', address: '4001:binary-value/1', type: 'bool', access: 'readwrite', names: named({ 0: 'Locked', 1: 'Free' }) },
  {
    ...{ name: 'mode', address: '4001:multi-state-value/1', type: 'uint32', access: 'readwrite' },
    names: named({ 1: 'Off', 2: 'Automatic', 3: 'Night', 4: 'Smoke extraction' }),
  },
  { name: 'winding_temperature', address: '4002:analog-input/1', type: 'float32', unit: '°C' },
  { name: 'oil_temperature', address: '4002:analog-input/2', type: 'float32', unit: '°C' },
]

export const substationTags = (linkId: number): TagDraft[] =>
  places.map(({ name, ...rest }) => pointTag({ type: 'bool', ...rest, path: `substation/${name}`, linkId }))

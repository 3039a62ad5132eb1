import { toEngineering } from '../tags/scaling'
import type { DataType } from '../tags/types'
import { namesFrom, type ValueName } from '../tags/valueNames'
import { formatAddress, type SensorAddress } from './address'
import type { DeviceDescription, Item, Parameter, ProcessData } from './description/description'
import { typeFor } from './point'
import type { ExpectedDevice, IoLinkPointOptions } from './settings'

/** The rooms of a port, as places. */
export const rooms = { in: 'Process data in', out: 'Process data out', parameters: 'Parameters' } as const
export type Room = keyof typeof rooms

/** What a port offers to become a tag. */
export interface OfferedPoint {
  room: Room | 'port'
  name: string
  about: string
  address: string
  type: DataType
  options: IoLinkPointOptions
  access: 'read' | 'readwrite'
  /** Of the scaled value. */
  unit: string
  scaling: { gain: number; offset: number } | null
  range: { low: number; high: number } | null
  /** Of the scaled value. */
  names: readonly ValueName[]
}

/** The process data that hold; where a parameter decides and nobody has said which, the first. */
export const layoutOf = (layouts: readonly ProcessData[], expected: Pick<ExpectedDevice, 'when'> | null): ProcessData | null => {
  const when = expected?.when
  return (when ? layouts.find(({ condition }) => condition && Number(condition.value) === when.value) : undefined) ?? layouts[0] ?? null
}

/** Everything that a port with such a device has; without a description, what all devices have. */
export const offeredAt = (
  port: number,
  description: DeviceDescription | null,
  expected: Pick<ExpectedDevice, 'when'> | null,
): OfferedPoint[] => {
  const layout = description ? layoutOf(description.processData, expected) : null
  const side = (of: 'in' | 'out') =>
    (layout?.[of]?.items ?? []).map((item) =>
      pointOf(item, of, { port, of, bitOffset: item.bitOffset, bits: item.type.bits }, of === 'out' ? 'readwrite' : 'read'),
    )
  return [...side('in'), ...side('out'), ...(description?.parameters ?? []).flatMap((one) => parametersAt(port, one)), ...ofPort(port)]
}

const ofPort = (port: number): OfferedPoint[] =>
  (
    [
      ['state', 'Port state', 'How the port is, in the words of the standard'],
      ['events', 'Device events', 'What the device reports and has not taken back'],
    ] as const
  ).map(([of, name, about]) => ({
    ...{ room: 'port', name, about, address: formatAddress({ port, of }), type: 'string', options: {}, access: 'read' },
    ...{ unit: '', scaling: null, range: null, names: [] },
  }))

/** What can only be written is no value. */
const parametersAt = (port: number, { index, access, record, subindexAccess, name }: Parameter): OfferedPoint[] => {
  if (access === 'wo') return []
  const isWhole = record.items.length === 1 && record.items[0]!.subindex === 0
  return record.items.map((item) => {
    const part = isWhole
      ? { subindex: 0, bits: 0 }
      : subindexAccess
        ? { subindex: item.subindex, bits: 0 }
        : { subindex: 0, bits: item.type.bits }
    const address: SensorAddress = { port, of: 'parameter', index, ...part, bitOffset: part.bits > 0 ? item.bitOffset : 0 }
    const named = isWhole || item.name.startsWith(name) ? item : { ...item, name: `${name} ${item.name}` }
    return pointOf(named, 'parameters', address, access === 'rw' ? 'readwrite' : 'read')
  })
}

const pointOf = ({ name, about, type, scale }: Item, room: Room, address: SensorAddress, access: OfferedPoint['access']): OfferedPoint => {
  const isScaled = scale.gradient !== 1 || scale.offset !== 0
  const { gradient: gain, offset, unit } = scale
  const ends = type.range && [type.range.low, type.range.high].map((end) => rounded(end * gain + offset)).sort((a, b) => a - b)
  const isHex = type.kind === 'octets' || type.kind === 'time' || type.kind === 'span'
  return {
    ...{ room, name, about, address: formatAddress(address), type: typeFor(type), options: isHex ? { form: 'hex' } : {}, access, unit },
    scaling: isScaled && type.kind !== 'bool' ? { gain, offset } : null,
    range: ends && ends[0]! < ends[1]! ? { low: ends[0]!, high: ends[1]! } : null,
    names: namesFrom(
      type.names.map(({ value, name }) => ({ value: isScaled ? Number(toEngineering(value, { gain, offset })) : value, name })),
    ),
  }
}

/** Without the tail that fractions of two bring. */
const rounded = (value: number) => Number(value.toPrecision(12))

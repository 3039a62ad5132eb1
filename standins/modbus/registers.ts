import { encodeRegisters } from '#core/modbus/decoding'
import type { ModbusType, WordOrder } from '#core/modbus/layout'
import type { ScalarValue } from '#core/tags/types'
import type { Berth, BerthState } from '../physics/berth'

/** What a meter shows where. `from` gives the raw value, before any scaling a client applies. */
export interface Channel {
  name: string
  table: 'holding' | 'input'
  offset: number
  type: ModbusType
  order: WordOrder
  length?: number
  from(state: BerthState): ScalarValue
  /** Takes a raw value that a client wrote; absent where the register is read-only. */
  take?(state: BerthState, value: ScalarValue): void
}

export interface BitChannel {
  name: string
  table: 'coil' | 'discrete'
  offset: number
  from(state: BerthState): boolean
  take?(state: BerthState, on: boolean): void
}

const float = (name: string, offset: number, from: Channel['from'], take?: Channel['take']): Channel => ({
  name,
  table: 'holding',
  offset,
  type: 'float32',
  order: 'CDAB',
  from,
  ...(take ? { take } : {}),
})

const tenths = (name: string, offset: number, from: (state: BerthState) => number): Channel => ({
  name,
  table: 'holding',
  offset,
  type: 'int16',
  order: 'ABCD',
  from: (state) => Math.round(from(state) * 10),
})

/**
 * The register map of the feeder meters. float32 with swapped words stands beside plain int16 × 10,
 * as meters of several generations do; 46 to 49 and 58 to 59 do not exist.
 */
export const channelsOf = (berthNumber: number): Channel[] => [
  float('active_power', 40, (s) => s.activePower),
  float('reactive_power', 42, (s) => s.reactivePower),
  float('apparent_power', 44, (s) => Math.hypot(s.activePower, s.reactivePower)),
  tenths('current_l1', 50, (s) => s.current * 0.998),
  tenths('current_l2', 51, (s) => s.current * 1.003),
  tenths('current_l3', 52, (s) => s.current * 0.999),
  { name: 'voltage', table: 'holding', offset: 60, type: 'uint32', order: 'ABCD', from: (s) => Math.round(s.voltage) },
  float('frequency', 64, (s) => s.frequency),
  float('power_factor', 66, (s) => s.powerFactor),
  { name: 'energy_import', table: 'holding', offset: 70, type: 'uint64', order: 'ABCD', from: (s) => BigInt(Math.floor(s.energy)) },
  float(
    'trip_limit',
    90,
    (s) => s.tripLimit,
    (s, value) => (s.tripLimit = Number(value)),
  ),
  { name: 'status_word', table: 'holding', offset: 94, type: 'uint16', order: 'ABCD', from: statusWord, take: takeStatusWord },
  tenths('cable_temperature', 96, (s) => s.cableTemperature),
  {
    name: 'serial_number',
    table: 'holding',
    offset: 100,
    type: 'string',
    order: 'ABCD',
    length: 12,
    from: () => `HSM-${2210 + berthNumber}-B`,
  },
  {
    name: 'arm_extension',
    table: 'holding',
    offset: 120,
    type: 'uint16',
    order: 'ABCD',
    from: (s) => armExtension.get(s) ?? 0,
    take: (s, value) => armExtension.set(s, Number(value)),
  },
  { name: 'uptime', table: 'input', offset: 0, type: 'uint32', order: 'ABCD', from: (s) => Math.floor(s.uptime) },
  { name: 'input_frequency', table: 'input', offset: 10, type: 'uint16', order: 'ABCD', from: (s) => Math.round(s.frequency * 100) },
  { name: 'energy_double', table: 'input', offset: 20, type: 'float64', order: 'ABCD', from: (s) => s.energy / 1000 },
]

/** Bit 0: plugged in. Bit 1: breaker closed. Bit 4: horn, which a client may switch. */
function statusWord(state: BerthState): number {
  return Number(state.plugged) | (Number(state.breakerClosed) << 1) | (Number(horn.has(state)) << 4)
}

function takeStatusWord(state: BerthState, value: ScalarValue) {
  if ((Number(value) >> 4) & 1) horn.add(state)
  else horn.delete(state)
}

const horn = new WeakSet<BerthState>()
/** How far the cable arm reaches out, cm, as somebody writes it: the meter shows it on its display. */
const armExtension = new WeakMap<BerthState, number>()

export const bitChannels: BitChannel[] = [
  { name: 'breaker_closed', table: 'coil', offset: 3, from: (s) => s.breakerClosed, take: (s, on) => (s.breakerClosed = on) },
  { name: 'plugged', table: 'discrete', offset: 0, from: (s) => s.plugged },
  { name: 'overload', table: 'discrete', offset: 1, from: (s) => s.activePower > 0.9 * s.tripLimit },
]

/** Values that a person pinned on the stand-in's page, by channel name. */
export type Pinned = Map<string, ScalarValue>

/** The register image of one meter at this moment: offset to word. Offsets not in it do not exist. */
export const imageOf = (berth: Berth, channels: Channel[], table: 'holding' | 'input', pinned: Pinned): Map<number, number> => {
  const image = new Map<number, number>()
  for (const channel of channels) {
    if (channel.table !== table) continue
    const value = pinned.get(channel.name) ?? channel.from(berth.state)
    const words = encodeRegisters(value, { type: channel.type, order: channel.order, bit: null, length: channel.length ?? 0 })
    words.forEach((word, i) => image.set(channel.offset + i, word))
  }
  return image
}

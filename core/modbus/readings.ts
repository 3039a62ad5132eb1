import { decoderFor } from './decoding'
import { ordersMatter, registersOf, wordOrders, type ModbusType, type WordOrder } from './layout'
import type { ScalarValue } from '../tags/types'

/** One way to read the same words. */
export interface Reading {
  type: ModbusType
  order: WordOrder | null
  value: ScalarValue
}

const candidates: ModbusType[] = ['uint16', 'int16', 'float32', 'uint32', 'int32', 'float64', 'uint64', 'int64']

/**
 * Every reading that the given registers allow, narrow types first. Registers are big-endian as
 * they came off the wire. Two orders that give the same value are both listed: a person may know
 * the order and not the value.
 */
export const readingsOf = (registers: Buffer): Reading[] => {
  const available = registers.length >> 1
  return candidates
    .filter((type) => registersOf(type, 0) <= available)
    .flatMap((type) =>
      ordersFor(type).map((order) => ({
        type,
        order: ordersMatter(type) ? order : null,
        value: decoderFor({ type, order, bit: null, length: 0 })(registers, 0),
      })),
    )
}

const ordersFor = (type: ModbusType): readonly WordOrder[] => (ordersMatter(type) ? wordOrders : ['ABCD'])

/**
 * Whether a value looks like a quantity in a plant: finite, and neither vanishing nor vast.
 * Only sorts likely readings to the front; it decides nothing.
 */
export const looksLikeQuantity = (value: ScalarValue): boolean => {
  if (typeof value === 'bigint') return value > -1_000_000_000_000n && value < 1_000_000_000_000n
  if (typeof value !== 'number') return false
  const size = Math.abs(value)
  return Number.isFinite(value) && (size === 0 || (size >= 1e-4 && size < 1e9))
}

import type { DataType } from '../tags/types'

/**
 * How values lie in 16-bit registers. The letters are the bytes of the value, most significant
 * first, in the order in which they cross the wire; 64-bit values continue the pattern.
 */
export const wordOrders = ['ABCD', 'CDAB', 'BADC', 'DCBA'] as const
export type WordOrder = (typeof wordOrders)[number]

export const wordOrderText: Record<WordOrder, string> = {
  ABCD: 'high word first, as the standard has it',
  CDAB: 'low word first',
  BADC: 'high word first, bytes of each word swapped',
  DCBA: 'low word first, bytes of each word swapped',
}

/** The types that registers can hold. */
export const modbusTypes = [
  'bool',
  'uint16',
  'int16',
  'uint32',
  'int32',
  'uint64',
  'int64',
  'float32',
  'float64',
  'string',
] as const satisfies DataType[]
export type ModbusType = (typeof modbusTypes)[number]
export const isModbusType = (type: DataType): type is ModbusType => (modbusTypes as readonly DataType[]).includes(type)

/** How one point is laid out in its registers. `length` is the bytes of a string, else 0; `isBcd`: digits, as `bcd.ts` has them. */
export interface Layout {
  type: ModbusType
  isBcd?: boolean
  order: WordOrder
  bit: number | null
  length: number
}

export const registersByType: Record<Exclude<ModbusType, 'string'>, number> = {
  bool: 1,
  int16: 1,
  uint16: 1,
  int32: 2,
  uint32: 2,
  float32: 2,
  int64: 4,
  uint64: 4,
  float64: 4,
}

/** How many 16-bit registers a value of this type covers. */
export const registersOf = (type: ModbusType, length: number) => (type === 'string' ? Math.ceil(length / 2) : registersByType[type])

/** Whether an order makes a difference: one register holding a number has none of its own. */
export const ordersMatter = (type: ModbusType) => type === 'string' || registersByType[type] > 1

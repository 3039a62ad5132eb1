import type { PointDefinition } from '../links/protocol'
import { holdsBits, parseAddress, type Table } from './address'
import { isBcdType } from './bcd'
import { isModbusType, ordersMatter, registersOf, type Layout, type ModbusType } from './layout'
import type { ModbusPointOptions, ModbusTcpSettings } from './settings'

/** Where a point lies and how it is laid out, everything left open filled in from the link. */
export interface ModbusPoint {
  unit: number
  table: Table
  offset: number
  /** Registers, or 1 bit in the tables of bits. */
  count: number
  layout: Layout
}

/** Null when the address cannot be read; the sheet refuses such a point before it is saved. */
export const pointOf = (point: PointDefinition, settings: Pick<ModbusTcpSettings, 'unit' | 'order'>): ModbusPoint | null => {
  const parsed = parseAddress(point.address)
  if (!parsed.ok || !isModbusType(point.type)) return null
  const { address } = parsed
  const layout = layoutOf(point.type, point.options, settings, address.bit)
  return {
    unit: address.unit ?? settings.unit,
    table: address.table,
    offset: address.offset,
    count: holdsBits(address.table) ? 1 : registersOf(layout.type, layout.length),
    layout,
  }
}

/**
 * The word order of a link speaks of values wider than a register. One register holding a number
 * is big-endian (Modbus Application Protocol, 4.2) unless the tag itself says otherwise; the same
 * goes for text.
 */
const layoutOf = (
  type: ModbusType,
  options: ModbusPointOptions,
  settings: Pick<ModbusTcpSettings, 'order'>,
  bit: number | null,
): Layout => ({
  type,
  order: options.order ?? (ordersMatter(type) && type !== 'string' ? settings.order : 'ABCD'),
  bit,
  length: options.length ?? 0,
  ...(options.coding === 'bcd' && isBcdType(type) ? { isBcd: true } : {}),
})

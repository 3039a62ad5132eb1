import { takesOf } from './taking'
import type { AddressFacts, FieldProblem, PointDefinition, PointOptions, Protocol } from '../links/protocol'
import type { Spot } from '../notes/spot'
import type { DataType } from '../tags/types'
import {
  defaultType,
  formatAddress,
  formatReference,
  holdsBits,
  isWritable,
  maxOffset,
  parseAddress,
  typesOf,
  type ModbusAddress,
} from './address'
import { modbusColumns } from './columns'
import { bcdTypes, isBcdType, mostOfBcd } from './bcd'
import { isModbusType, ordersMatter, registersOf, type Layout } from './layout'
import { modbusLoad } from './load'
import { limits } from './pdu'
import { pointOf } from './point'
import { modbusVariants } from './variants'
import { modbusReference } from './reference'
import type { ModbusPointOptions, ModbusTcpSettings } from './settings'
import { mbapFrames } from '../wire/frames'

const describe = (text: string, settings: unknown): AddressFacts => {
  const parsed = parseAddress(text)
  if (!parsed.ok) return parsed
  const { address } = parsed
  return {
    ok: true,
    canonical: formatAddress(address),
    notations: notationsOf(address, settings as ModbusTcpSettings),
    note: parsed.note,
    unit: String(address.unit ?? (settings as ModbusTcpSettings).unit),
    types: typesOf(address),
    defaultType: defaultType(address),
    writable: isWritable(address.table),
  }
}

const notationsOf = (address: ModbusAddress, settings: ModbusTcpSettings) => [
  { label: 'unit', text: String(address.unit ?? settings.unit) },
  { label: 'offset in the frame, from 0', text: formatAddress({ ...address, unit: null }) },
  ...(address.offset < 9999 ? [{ label: 'reference from 1, 5 digits', text: formatReference(address, 5) }] : []),
  { label: 'reference from 1, 6 digits', text: formatReference(address, 6) },
]

const problems = (point: PointDefinition, settings: unknown): FieldProblem[] => {
  const parsed = parseAddress(point.address)
  if (!parsed.ok) return [{ field: 'address', message: parsed.problem }]
  const { address } = parsed
  return [
    typeProblem(point, address),
    lengthProblem(point),
    codingProblem(point),
    pastTheEnd(address, widthOf(point, address), point),
    accessProblem(point, address),
    writeProblem(point, widthOf(point, address)),
    intervalProblem(point, settings as ModbusTcpSettings),
  ].filter((problem) => problem !== null)
}

const optionsOf = (point: PointDefinition) => point.options as ModbusPointOptions

/** How far one point reaches: registers, or one bit. */
const widthOf = (point: PointDefinition, address: ModbusAddress) =>
  holdsBits(address.table) || !isModbusType(point.type) ? 1 : registersOf(point.type, optionsOf(point).length ?? 0)

const typeProblem = (point: PointDefinition, address: ModbusAddress): FieldProblem | null => {
  const possible = typesOf(address)
  if ((possible as readonly DataType[]).includes(point.type)) return null
  if (!isModbusType(point.type)) return { field: 'type', message: `Registers hold no ${point.type}; read them as ${possible.join(', ')}.` }
  const what = holdsBits(address.table) ? `A ${address.table}` : 'A single bit'
  const hint = point.type === 'bool' ? 'Name the bit, such as ' + formatAddress({ ...address, bit: 0 }) + '.' : `${what} is bool.`
  return { field: 'type', message: `${formatAddress(address)} cannot be read as ${point.type}. ${hint}` }
}

const lengthProblem = (point: PointDefinition): FieldProblem | null => {
  if (point.type !== 'string') return null
  const length = optionsOf(point).length ?? 0
  const most = 2 * limits.readRegisters
  if (Number.isInteger(length) && length >= 1 && length <= most) return null
  return { field: 'options.length', message: `A string needs a length of 1 to ${most} bytes; each register carries two.` }
}

const codingProblem = (point: PointDefinition): FieldProblem | null =>
  optionsOf(point).coding === undefined || isBcdType(point.type)
    ? null
    : { field: 'options.coding', message: `BCD digits are read as ${bcdTypes.join(' or ')}, not as ${point.type}.` }

const pastTheEnd = (address: ModbusAddress, width: number, point: PointDefinition): FieldProblem | null => {
  const last = address.offset + width - 1
  if (last <= maxOffset) return null
  const message = `${point.type} covers ${width} registers, offsets ${address.offset} to ${last}, and a table ends at ${maxOffset}.`
  return { field: 'address', message }
}

const accessProblem = (point: PointDefinition, address: ModbusAddress): FieldProblem | null =>
  point.access === 'read' || isWritable(address.table)
    ? null
    : { field: 'access', message: `A ${address.table}${holdsBits(address.table) ? '' : ' register'} can only be read.` }

/** Function 16 carries less than function 3 (6.12 and 6.3). */
const writeProblem = (point: PointDefinition, width: number): FieldProblem | null =>
  point.access === 'read' || width <= limits.writeRegisters
    ? null
    : {
        field: 'access',
        message: `It covers ${width} registers, and a write carries ${limits.writeRegisters} (${2 * limits.writeRegisters} bytes) at most: read it only, or shorten it.`,
      }

/** A link that pauses after each request cannot ask more often than that. */
const intervalProblem = (point: PointDefinition, settings: ModbusTcpSettings): FieldProblem | null => {
  const { pause } = settings.requests
  if (point.interval == null || point.interval >= pause) return null
  const message = `The link pauses ${pause} ms after each request, so every ${point.interval} ms is more often than it can ask.`
  return { field: 'interval', message }
}

const readingOf = ({ type, order, isBcd }: Layout, count: number) =>
  [type, ...(isBcd ? ['bcd'] : []), ...(ordersMatter(type) && type !== 'string' && count > 1 ? [order] : [])].join(' ')

/** Points of one table of one unit can meet; a register that is read bit by bit is one place. */
const spot = (point: PointDefinition, settings: unknown): Spot | null => {
  const placed = pointOf(point, settings as ModbusTcpSettings)
  if (!placed) return null
  const { unit, table, offset, count, layout } = placed
  const isBit = layout.type === 'bool' && !holdsBits(table)
  return {
    place: `${unit}:${table}`,
    from: offset,
    to: offset + count,
    bit: isBit ? layout.bit : null,
    reading: readingOf(layout, count),
    address: formatAddress({ unit, table, offset, bit: isBit ? layout.bit : null }),
    ...(layout.isBcd && isBcdType(layout.type) ? { most: mostOfBcd[layout.type] } : {}),
  }
}

const next = (point: PointDefinition, by: number | null = null): string | null => {
  const parsed = parseAddress(point.address)
  if (!parsed.ok) return point.address
  const { address } = parsed
  if (address.bit !== null) {
    const bit = address.bit + (by ?? 1)
    return formatAddress({ ...address, bit: bit & 15, offset: address.offset + (bit >> 4) })
  }
  return formatAddress({ ...address, offset: address.offset + (by ?? widthOf(point, address)) })
}

const onUnit = (text: string, unit: string): string | null => {
  const parsed = parseAddress(text)
  return parsed.ok && /^\d{1,3}$/.test(unit) && Number(unit) <= 255 ? formatAddress({ ...parsed.address, unit: Number(unit) }) : null
}

const optionsText = (point: PointDefinition, settings: unknown): string => {
  const { order, coding } = optionsOf(point)
  if (!isModbusType(point.type)) return ''
  const shown = ordersMatter(point.type)
    ? (order ?? (point.type === 'string' ? undefined : (settings as ModbusTcpSettings).order))
    : undefined
  return [shown, coding].filter((word) => word !== undefined).join(' ')
}

const leanOptions = (options: PointOptions, settings: unknown): PointOptions => {
  const { order, ...rest } = options as ModbusPointOptions
  return order === undefined || order === (settings as ModbusTcpSettings).order ? rest : { order, ...rest }
}

const usualStringLength = 16

const optionsFor = (type: DataType, options: PointOptions): PointOptions => {
  const { length, coding, ...rest } = options as ModbusPointOptions
  if (type === 'string') return { ...rest, length: length ?? usualStringLength }
  return coding !== undefined && isBcdType(type) ? { ...rest, coding } : rest
}

export const modbusTcp: Protocol = {
  kind: 'modbus-tcp',
  title: 'Modbus TCP',
  subtitle: 'Meters, drives, remote I/O and serial gateways',
  isMuteUntilAsked: true,
  capabilities: { browse: false, read: true, watch: false, write: true, publish: false, messages: false, tap: true },
  frames: mbapFrames,
  place: (settings) => `${(settings as ModbusTcpSettings).host}:${(settings as ModbusTcpSettings).port}`,
  goal: (settings) => {
    const { host, port } = settings as ModbusTcpSettings
    return { speaks: 'Modbus TCP', host, port, carries: 'tcp', usualPort: 502 }
  },
  interval: (settings) => (settings as ModbusTcpSettings).interval,
  describe,
  isPassing: () => false,
  problems,
  spot,
  load: (points, settings, experience) => modbusLoad(points, settings as ModbusTcpSettings, experience),
  next,
  words: { takes: takesOf },
  onUnit,
  variants: modbusVariants,
  shortAddress: (address) => address,
  reference: (settings) => modbusReference(settings as ModbusTcpSettings),
  optionsText,
  leanOptions,
  whyNotKept: () => null,
  optionsFor,
  columns: modbusColumns,
}

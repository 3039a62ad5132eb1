import { modbusTypes, type ModbusType } from './layout'

/**
 * Modbus data addresses. A point is a table, a zero-based offset as it stands in the frame
 * (Modbus Application Protocol V1.1b3, 4.4), optionally a bit of a register, and optionally the
 * unit that holds it.
 */
export const tables = ['coil', 'discrete', 'input', 'holding'] as const
export type Table = (typeof tables)[number]

export interface ModbusAddress {
  unit: number | null
  table: Table
  offset: number
  bit: number | null
}

export type Parsed = { ok: true; address: ModbusAddress; note: string | null } | { ok: false; problem: string }

/** The leading digit that the trade gives each table in 5 and 6 digit references. */
const referenceDigit: Record<Table, string> = { coil: '0', discrete: '1', input: '3', holding: '4' }
const tableByDigit: Record<string, Table> = { '0': 'coil', '1': 'discrete', '3': 'input', '4': 'holding' }

export const maxOffset = 65535
export const holdsBits = (table: Table) => table === 'coil' || table === 'discrete'
export const isWritable = (table: Table) => table === 'coil' || table === 'holding'

const refuse = (problem: string): Parsed => ({ ok: false, problem })

/**
 * Understands `holding/40`, `holding/40.3`, `11:holding/40` (unit 11), and references counted
 * from 1: `40041`, `400041`, `400041.3`, `11:400041`.
 */
export const parseAddress = (text: string): Parsed => {
  const input = text.trim().toLowerCase().replace(/\s+/g, '')
  if (input === '') return refuse('An address is a table and an offset, such as holding/40, or a reference, such as 400041.')
  const whole = /^(?:(\d+):)?(.*)$/.exec(input)!
  const unit = whole[1] === undefined ? null : Number(whole[1])
  if (unit !== null && unit > 255) return refuse(`Unit ${unit} is out of range: a unit is 0 to 255.`)
  const rest = whole[2]!
  const parsed = /^\d/.test(rest) ? parseReference(rest) : parseOffset(rest)
  return parsed.ok ? { ...parsed, address: { ...parsed.address, unit } } : parsed
}

const parseOffset = (text: string): Parsed => {
  const match = /^([a-z]+)[/.]?(\d+)?(?:\.(\d+))?$/.exec(text)
  const table = tables.find((name) => name === match?.[1])
  if (!match || !table) return refuse(`“${text}” names no table: use coil, discrete, input or holding, such as holding/40.`)
  if (match[2] === undefined) return refuse(`Add the zero-based offset: ${table}/0 to ${table}/${maxOffset}.`)
  return checked(table, Number(match[2]), match[3], null)
}

const parseReference = (text: string): Parsed => {
  const match = /^(\d+)(?:\.(\d+))?$/.exec(text)
  if (!match) return refuse(`“${text}” is neither a reference (400041) nor a table and offset (holding/40).`)
  const digits = match[1]!
  if (digits.length !== 5 && digits.length !== 6)
    return refuse(
      `A reference has 5 or 6 digits; “${digits}” has ${digits.length}. For offset ${Number(digits)} write holding/${Number(digits)}.`,
    )
  const table = tableByDigit[digits[0]!]
  if (!table) return refuse(`References start with 0 (coil), 1 (discrete), 3 (input) or 4 (holding); “${digits}” starts with ${digits[0]}.`)
  const number = Number(digits.slice(1))
  if (number === 0) return refuse(`References count from 1: the first one of this table is ${digits.slice(0, -1)}1.`)
  return checked(table, number - 1, match[2], `${digits} counts from 1, so it is offset ${number - 1} in the frame.`)
}

const checked = (table: Table, offset: number, bitText: string | undefined, note: string | null): Parsed => {
  if (offset > maxOffset) return refuse(`Offset ${offset} is past the end: a table has offsets 0 to ${maxOffset}.`)
  const bit = bitText === undefined ? null : Number(bitText)
  if (bit !== null && holdsBits(table)) return refuse(`A ${table} is one bit already; leave “.${bit}” out.`)
  if (bit !== null && bit > 15) return refuse(`A register has bits 0 to 15, not ${bit}.`)
  return { ok: true, address: { unit: null, table, offset, bit }, note }
}

const bitSuffix = (address: ModbusAddress) => (address.bit === null ? '' : `.${address.bit}`)
const unitPrefix = (address: ModbusAddress) => (address.unit === null ? '' : `${address.unit}:`)

/** The notation we store and show: `11:holding/40.3`. */
export const formatAddress = (address: ModbusAddress): string =>
  `${unitPrefix(address)}${address.table}/${address.offset}${bitSuffix(address)}`

/** The same point counted from 1; five digits where they reach, else six. */
export const formatReference = (address: ModbusAddress, digits?: 5 | 6): string => {
  const number = address.offset + 1
  const width = digits ?? (number <= 9999 ? 5 : 6)
  return `${referenceDigit[address.table]}${String(number).padStart(width - 1, '0')}${bitSuffix(address)}`
}

/** What an address yields when nobody says otherwise. */
export const defaultType = (address: ModbusAddress): ModbusType => (holdsBits(address.table) || address.bit !== null ? 'bool' : 'uint16')

export const typesOf = (address: ModbusAddress): readonly ModbusType[] =>
  holdsBits(address.table) || address.bit !== null ? ['bool'] : modbusTypes.filter((type) => type !== 'bool')

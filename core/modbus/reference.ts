import type { Reference } from '../links/reference'
import { defaultType, formatAddress, formatReference, holdsBits, isWritable, maxOffset, tables, typesOf, type Table } from './address'
import { exceptionMeaning, namedExceptions } from './exceptions'
import { bcdTypes, mostOfBcd } from './bcd'
import { registersByType, wordOrders, wordOrderText } from './layout'
import { limits } from './pdu'
import { mostElements } from './rounds'
import type { ModbusTcpSettings } from './settings'

const example = { unit: null, table: 'holding' as const, offset: 40, bit: null }

const functions: Record<Table, string> = {
  coil: 'function 1, written by 5 and 15',
  discrete: 'function 2',
  holding: 'function 3, written by 6 and 16',
  input: 'function 4',
}

/** Addresses, types, limits and errors of Modbus (Application Protocol V1.1b3), as this link has them. */
export const modbusReference = (settings: ModbusTcpSettings): Reference => ({
  notation: [
    { form: formatAddress(example), about: 'a table and an offset, counted from 0 as it travels' },
    { form: formatReference(example, 5), about: 'the same as a reference of 5 digits, counted from 1' },
    { form: formatReference(example, 6), about: 'the same as a reference of 6 digits' },
    { form: formatAddress({ ...example, bit: 3 }), about: 'bit 3 of that register; the lowest is 0' },
    { form: formatAddress({ ...example, unit: 12 }), about: `the same on unit 12; without it, unit ${settings.unit}` },
    ...wordOrders.map((order) => ({
      form: order,
      about: `word order: ${wordOrderText[order]}${order === settings.order ? '; as this link has it' : ''}`,
    })),
  ],
  places: tables.map((table) => {
    const address = { unit: null, table, offset: 0, bit: null }
    return {
      name: table,
      about: `${formatAddress(address)} to ${formatAddress({ ...address, offset: maxOffset })}, references from ${formatReference(address, 5)}; ${functions[table]}`,
      types: typesOf(address),
      usual: defaultType(address),
      writable: isWritable(table),
    }
  }),
  limits: [
    ...tables
      .filter((table) => table === 'holding' || table === 'coil')
      .map((table) => ({
        what: holdsBits(table) ? 'Bits in one request' : 'Registers in one request',
        is: `${mostElements(table, settings.requests)} on this link, ${holdsBits(table) ? limits.readBits : limits.readRegisters} by the standard`,
      })),
    { what: 'Registers in one write', is: `${limits.writeRegisters} by the standard` },
    ...bcdTypes.map((type) => ({ what: `${type} in BCD`, is: `up to ${mostOfBcd[type]}` })),
    { what: 'Text', is: `1 to ${2 * limits.readRegisters} bytes, two in each register` },
    { what: 'Gaps read across', is: `${settings.requests.readAcross} registers` },
    ...Object.entries(registersByType).map(([type, registers]) => ({
      what: type,
      is: registers === 1 ? '1 register' : `${registers} registers`,
    })),
  ],
  errors: namedExceptions.map((code) => {
    const { name, words, next } = exceptionMeaning(code)
    return { code: `${code} ${name}`, words, next }
  }),
})

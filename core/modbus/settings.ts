import { z } from 'zod'
import type { SerialPortSettings } from '../contracts/serial'
import { codings } from './bcd'
import { hostField, localAddressField, milliseconds, patienceWith, portField, wholeNumber, writeWithin } from '../contracts/fields'
import { maxOffset, tables } from './address'
import { wordOrders } from './layout'
import { limits } from './pdu'

const unitField = wholeNumber('A unit', 0, 255)

const hole = z
  .object({
    unit: unitField.nullable().default(null).describe('Null: every unit.'),
    table: z.enum(tables),
    from: wholeNumber('An offset', 0, maxOffset),
    to: wholeNumber('An offset', 0, maxOffset),
  })
  .refine((range) => range.from <= range.to, { message: 'A range ends at or after its start.', path: ['to'] })

const timing = z
  .object({
    unit: unitField,
    answer: milliseconds('The time to answer', 20, 60_000),
    pause: milliseconds('The pause', 0, 10_000).default(0),
  })
  .describe('Of a unit that needs longer than the others: how long to wait for it, and to leave it alone afterwards, ms.')

/** What every link of this protocol is set to, whatever its requests travel over. */
export const modbusFields = {
  unit: unitField.default(1).describe('The unit of addresses that name none.'),
  order: z.enum(wordOrders).default('ABCD').describe('The word order of tags that choose none.'),
  interval: milliseconds('The interval', 10, 86_400_000)
    .default(1000)
    .describe('How often tags are read that choose no interval of their own, ms.'),
  patience: patienceWith(1000),
  requests: z
    .object({
      registers: wholeNumber('Registers in one request', 1, limits.readRegisters).default(limits.readRegisters),
      bits: wholeNumber('Bits in one request', 1, limits.readBits).default(limits.readBits),
      readAcross: wholeNumber('Gaps read across', 0, 2000)
        .default(24)
        .describe('Registers that nobody asked for and that are read to save a request.'),
      inFlight: wholeNumber('Requests under way at once', 1, 16).default(1),
      connections: wholeNumber('Connections', 1, 16).default(4),
      pause: milliseconds('The pause between requests', 0, 10_000).default(0),
    })
    .prefault({}),
  leaveOut: z
    .object({
      after: wholeNumber('The number of silent requests', 0, 100).default(3),
      for: milliseconds('The time left out', 500, 3_600_000).default(30_000),
    })
    .describe('After so many silent requests in a row a unit leaves the round for so long, ms. 0: never.')
    .prefault({}),
  writes: z
    .object({
      keep: z.enum(['all', 'latest']).default('all'),
      within: writeWithin.describe('So long a write may wait, ms; what was not sent by then is not sent at all.'),
      function: z.enum(['fitting', 'multiple']).default('fitting'),
    })
    .prefault({}),
  units: z
    .array(timing)
    .max(247, 'At most 247 units.')
    .refine((units) => new Set(units.map(({ unit }) => unit)).size === units.length, 'A unit stands here twice.')
    .default([])
    .describe('Units with patience of their own.'),
  holes: z.array(hole).max(200, 'At most 200 ranges.').default([]).describe('Ranges that no request may touch, both ends included.'),
  localAddress: localAddressField.describe('The address of the network interface to use; empty: as the system chooses.'),
}

/** What a Modbus TCP link is set to. Everything but the host has a default that fits most devices. */
export const modbusTcpSettings = z.object({
  host: hostField.describe('Name or numeric address.'),
  port: portField.default(502),
  ...modbusFields,
})

export type ModbusTcpSettings = z.output<typeof modbusTcpSettings>
/** What links over any way are set to. */
export type ModbusCommon = Omit<ModbusTcpSettings, 'host' | 'port' | 'requests'> & {
  requests: Omit<ModbusTcpSettings['requests'], 'inFlight' | 'connections'>
}

/** How requests travel where that is not Modbus TCP: a line has one request under way, and frames without transactions. */
export interface ModbusWay {
  framing: 'rtu' | 'ascii'
  /** Null: over TCP. */
  serial: SerialPortSettings | null
  settle: number
  broadcast: number
}

/** Settings as the engine has them, of either kind of link. */
export type ModbusSettings = ModbusTcpSettings & { way?: ModbusWay }

/** How long to wait for a unit, ms. */
export const answerMsOf = ({ patience, units }: Pick<ModbusTcpSettings, 'patience' | 'units'>, unit: number): number =>
  units.find((one) => one.unit === unit)?.answer ?? patience.answer

/** How long to leave the line alone after a request to a unit, ms. */
export const pauseMsOf = ({ requests, units }: Pick<ModbusTcpSettings, 'requests' | 'units'>, unit: number): number =>
  Math.max(requests.pause, units.find((one) => one.unit === unit)?.pause ?? 0)

/** Unit 0 of a line is everybody, who obeys and does not answer. */
export const isBroadcast = ({ way }: Pick<ModbusSettings, 'way'>, unit: number) => way !== undefined && unit === 0

/** What a point of a Modbus TCP link may have of its own, where the standard leaves it open. */
export const modbusTcpPoint = z.object({
  order: z.enum(wordOrders, { error: 'A word order is ABCD, CDAB, BADC or DCBA.' }).optional(),
  length: z.int({ error: 'A length is a whole number.' }).optional().describe('Bytes of a string.'),
  coding: z
    .enum(codings, { error: 'A coding is bcd, or left out.' })
    .optional()
    .describe('Of a uint16 or uint32: bcd, a decimal digit in each four bits; left out: a binary number.'),
})

export type ModbusPointOptions = z.output<typeof modbusTcpPoint>

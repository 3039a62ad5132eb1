import { z } from 'zod'
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

/** What a Modbus TCP link is set to. Everything but the host has a default that fits most devices. */
export const modbusTcpSettings = z.object({
  host: hostField.describe('Name or numeric address.'),
  port: portField.default(502),
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
  holes: z.array(hole).max(200, 'At most 200 ranges.').default([]).describe('Ranges that no request may touch, both ends included.'),
  localAddress: localAddressField.describe('The address of the network interface to use; empty: as the system chooses.'),
})

export type ModbusTcpSettings = z.output<typeof modbusTcpSettings>

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

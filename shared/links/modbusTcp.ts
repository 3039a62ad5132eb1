import { z } from 'zod'
import { wordOrders } from '#core/modbus/layout'
import { maxOffset, tables } from '#core/modbus/address'
import { limits } from '#core/modbus/pdu'
import { hostField, localAddressField, milliseconds, portField, wholeNumber, writeWithin } from '../fields'

const unitField = wholeNumber('A unit', 0, 255)

const hole = z
  .object({
    unit: unitField.nullable().default(null),
    table: z.enum(tables),
    from: wholeNumber('An offset', 0, maxOffset),
    to: wholeNumber('An offset', 0, maxOffset),
  })
  .refine((range) => range.from <= range.to, { message: 'A range ends at or after its start.', path: ['to'] })

/** Settings of a Modbus TCP link. Everything but the host has a default that fits most devices. */
export const modbusTcpSettings = z.object({
  host: hostField,
  port: portField.default(502),
  unit: unitField.default(1),
  order: z.enum(wordOrders).default('ABCD'),
  interval: milliseconds('The interval', 10, 86_400_000).default(1000),
  patience: z
    .object({
      connect: milliseconds('The time to connect', 100, 60_000).default(3000),
      answer: milliseconds('The time to answer', 20, 60_000).default(1000),
      retryFirst: milliseconds('The first pause', 100, 600_000).default(1000),
      retryMost: milliseconds('The longest pause', 100, 3_600_000).default(30_000),
    })
    .refine((p) => p.retryFirst <= p.retryMost, { message: 'The longest pause is not below the first.', path: ['retryMost'] })
    .prefault({}),
  requests: z
    .object({
      registers: wholeNumber('Registers in one request', 1, limits.readRegisters).default(limits.readRegisters),
      bits: wholeNumber('Bits in one request', 1, limits.readBits).default(limits.readBits),
      readAcross: wholeNumber('Gaps read across', 0, 2000).default(24),
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
    .prefault({}),
  writes: z
    .object({
      keep: z.enum(['all', 'latest']).default('all'),
      within: writeWithin,
      function: z.enum(['fitting', 'multiple']).default('fitting'),
    })
    .prefault({}),
  holes: z.array(hole).max(200, 'At most 200 ranges.').default([]),
  localAddress: localAddressField,
})

/** What a point of a Modbus TCP link may have of its own. */
export const modbusTcpPoint = z.object({
  order: z.enum(wordOrders, { error: 'A word order is ABCD, CDAB, BADC or DCBA.' }).optional(),
  length: z.int({ error: 'A length is a whole number.' }).optional(),
})

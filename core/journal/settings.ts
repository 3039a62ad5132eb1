import { z } from 'zod'
import { hostField, portField, wholeNumber } from '../contracts/fields'
import { tlsField } from '../contracts/protection'
import { severities } from './entry'

/** Where entries go besides, as RFC 5424 has it. */
export const forwardingContract = z
  .object({
    host: hostField,
    port: portField.default(514),
    over: z.enum(['udp', 'tcp']).default('udp').describe('UDP (RFC 5426), or TCP with octet counting (RFC 6587; with TLS: RFC 5425).'),
    tls: tlsField,
    facility: wholeNumber('The facility', 0, 23).default(16).describe('0 to 23; 16 to 23 are for local use.'),
    least: z.enum(severities).default('note').describe('What is less grave stays here.'),
  })
  .refine(({ over, tls }) => over === 'tcp' || tls.mode === 'off', { error: 'Over UDP nothing is encrypted.', path: ['tls', 'mode'] })
  .describe('A syslog server that gets the entries, too; null: none.')

/** Where events are kept, how many, and for how long. What people did is kept apart, by settings of its own. */
export const journalKeeping = z
  .object({
    where: z.enum(['database', 'memory']).default('database').describe('In memory they end with the engine.'),
    most: wholeNumber('The number of entries', 100, 20_000_000).default(200_000),
    days: wholeNumber('The number of days', 1, 36_500).nullable().default(365).describe('Null: for as long as there is room.'),
    mostMb: wholeNumber('The space', 1, 1_000_000).nullable().default(1000).describe('MB in the database; null: as much as they take.'),
    deedDays: wholeNumber('The number of days', 1, 36_500)
      .nullable()
      .default(null)
      .describe('What people did and wrote; null: the newest of them, as many as are kept.'),
    forward: forwardingContract.nullable().default(null),
  })
  .refine(({ where, most }) => where === 'database' || most <= mostInMemory, {
    error: `In memory at most ${(100_000).toLocaleString('en-GB')} entries.`,
    path: ['most'],
  })
export type JournalKeeping = z.output<typeof journalKeeping>
export type Forwarding = z.output<typeof forwardingContract>

/** What the memory of the engine can bear beside its work. */
export const mostInMemory = 100_000

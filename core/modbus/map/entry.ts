import { z } from 'zod'
import { pathProblem } from '../../tags/path'
import { formatAddress, holdsBits, parseAddress, typesOf, type ModbusAddress, type Table } from '../address'
import { modbusTypes, registersOf, wordOrders, type ModbusType } from '../layout'

/** What stands at an address: the value of a tag, or whether the value can be believed. */
export const told = ['value', 'good'] as const

/** The longest text, bytes: as many registers as one request reads. */
export const longestText = 250

const mostGain = 1e9

/** One line of a map: a tag, where it lies, and how it is laid out there. */
export const mapEntry = z
  .object({
    path: z.string({ error: 'A tag is named by its path.' }).superRefine((path, context) => complain(pathProblem(path), context)),
    at: z
      .string({ error: 'An address is text.' })
      .overwrite((text) => {
        const parsed = parseAddress(text)
        return parsed.ok ? formatAddress(parsed.address) : text.trim()
      })
      .superRefine((text, context) => {
        const parsed = parseAddress(text)
        if (!parsed.ok) complain(parsed.problem, context)
      })
      .describe('Table and offset as they travel, as in holding/40, coil/3 or 2:input/0; of a register a bit, as in holding/40.3.'),
    type: z.enum(modbusTypes, { error: `A type is one of ${modbusTypes.join(', ')}.` }),
    order: z.enum(wordOrders, { error: 'A word order is ABCD, CDAB, BADC or DCBA.' }).default('ABCD'),
    length: z
      .int({ error: 'A length is a whole number.' })
      .min(0, 'A length is not below 0.')
      .max(longestText, `A text has at most ${longestText} bytes.`)
      .default(0)
      .describe('Bytes of a string.'),
    gain: z
      .number({ error: 'A gain is a number.' })
      .refine((gain) => gain !== 0 && Math.abs(gain) <= mostGain, 'A gain is not 0, and at most 1e9.')
      .default(1)
      .describe('The value is what the registers hold × gain.'),
    tells: z.enum(told).default('value').describe('The value of the tag, or, as a bool, whether it is good.'),
  })
  .superRefine((entry, context) => {
    for (const [field, message] of problemsOf(entry)) context.addIssue({ code: 'custom', path: [field], message })
  })
  .meta({ id: 'MapEntry' })

export type MapEntry = z.output<typeof mapEntry>

const complain = (message: string | null, context: z.RefinementCtx) => {
  if (message) context.addIssue({ code: 'custom', message })
}

const problemsOf = ({ at, type, length, gain, tells }: MapEntry): [field: string, message: string][] => {
  const parsed = parseAddress(at)
  if (!parsed.ok) return []
  const { address } = parsed
  const problems: [string, string][] = []
  const oneBit = holdsBits(address.table) || address.bit !== null
  if (tells === 'good' && type !== 'bool') problems.push(['type', 'Whether a value is good is told as a bool.'])
  else if (oneBit && type !== 'bool') problems.push(['type', `One bit holds a bool, no ${type}.`])
  else if (!typesOf(address).includes(type) && type !== 'bool') problems.push(['type', `${at} holds no ${type}.`])
  if (type === 'string' && length < 1) problems.push(['length', 'How many bytes has the text? At least 1.'])
  if (gain !== 1 && (type === 'bool' || type === 'string')) problems.push(['gain', `A ${type} has no gain.`])
  if (address.offset + registersFor(address, type, length) > 65_536) problems.push(['at', 'It would end past the end of the table.'])
  return problems
}

/** Registers, or one bit. */
const registersFor = ({ table }: ModbusAddress, type: ModbusType, length: number) => (holdsBits(table) ? 1 : registersOf(type, length))

/** Where an entry lies, everything left open filled in. */
export interface Place {
  unit: number
  table: Table
  offset: number
  bit: number | null
  /** Registers, or one bit in the tables of bits. */
  count: number
}

/** @param unit of entries that name none */
export const placeOf = ({ at, type, length }: Pick<MapEntry, 'at' | 'type' | 'length'>, unit: number): Place | null => {
  const parsed = parseAddress(at)
  if (!parsed.ok) return null
  const { address } = parsed
  const { table, offset, bit } = address
  return { unit: address.unit ?? unit, table, offset, bit, count: registersFor(address, type, length) }
}

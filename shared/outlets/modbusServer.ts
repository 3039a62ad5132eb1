import { z } from 'zod'
import { serialFields } from '#core/contracts/serial'
import { nameField, wholeNumber } from '#core/contracts/fields'
import { framings } from '#core/modbus/framings'
import { clashesOf } from '#core/modbus/map/clashes'
import { mapEntry } from '#core/modbus/map/entry'
import { gapWays, whenNotGood } from '#core/modbus/map/ways'
import { clashesIn, doorPlace } from './doors'
import { folderRules } from './folderRules'

/** One door of the server: where it listens, and how requests are framed there. */
const door = z.object({
  ...doorPlace(502),
  framing: z.enum(framings).default('tcp').describe('Modbus TCP, or the frames of serial lines over TCP, as converters pass them on.'),
})

/** A serial port at which it answers masters of a line. */
const line = z.object({
  on: z.boolean().default(true),
  ...serialFields,
  framing: z.enum(['rtu', 'ascii']).default('rtu'),
})

const addressRange = z
  .union([z.ipv4(), z.ipv6(), z.cidrv4(), z.cidrv6()], {
    error: 'A numeric address, as in 10.8.0.14, or a range of them, as in 10.8.0.0/24.',
  })
  .describe('Where it comes from.')

/** A machine that may do what others may not: the protocol has no names, addresses are all there is. */
const machine = z.object({
  name: nameField('machine'),
  from: addressRange,
  rules: folderRules.prefault([{ folder: '', may: 'write' }]),
})

const limits = z.object({
  connections: wholeNumber('The most connections of a door', 1, 10_000).default(200),
  perAddress: wholeNumber('The most connections from one address', 1, 10_000).default(50),
  /** Requests of one connection that wait; more are taken from the socket only once these are answered. */
  waiting: wholeNumber('The most requests that wait', 1, 1000).default(32),
})

/** The most entries of a map: as many as two full tables of registers. */
export const mostEntries = 100_000

/** A Modbus server: its doors, what lies where, and who may read and write it. */
export const modbusServerSettings = z
  .object({
    doors: z.array(door).min(1, 'At least one door.').max(16, 'At most 16 doors.').prefault([{}]),
    lines: z.array(line).max(16, 'At most 16 serial lines.').default([]).describe('Serial ports at which it answers, too.'),
    unit: wholeNumber('A unit', 0, 255).default(1).describe('Of entries that name none.'),
    map: z
      .array(mapEntry)
      .max(mostEntries, `At most ${mostEntries.toLocaleString('en-GB')} entries.`)
      .default([]),
    gaps: z.enum(gapWays).default('refuse').describe('What is told of addresses between: exception 2, or zeros.'),
    notGood: z
      .enum(whenNotGood)
      .default('marker')
      .describe('Where a value is not good: a number that means none (NaN, 0x8000, 0xFFFF), exception 4, or what was good last.'),
    /** What machines may do that are not listed. */
    anyone: folderRules.prefault([{ folder: '', may: 'read' }]),
    machines: z.array(machine).max(200, 'At most 200 machines.').default([]),
    limits: limits.prefault({}),
  })
  .superRefine(({ doors, lines, machines, map, unit }, context) => {
    clashesIn(
      doors,
      machines.map(({ name }) => ({ name })),
      context,
      'machines',
    )
    for (const [i, { device }] of lines.entries())
      if (lines.findIndex((one) => one.device === device) < i)
        context.addIssue({ code: 'custom', path: ['lines', i, 'device'], message: 'This port stands here twice.' })
    for (const { at, with: other } of clashesOf(map, unit)) {
      const message = `${map[other]!.path} lies at ${map[other]!.at} already.`
      context.addIssue({ code: 'custom', path: ['map', at, 'at'], message })
    }
  })

export type ModbusServerSettings = z.output<typeof modbusServerSettings>
export type ModbusDoor = ModbusServerSettings['doors'][number]
export type ModbusLine = ModbusServerSettings['lines'][number]
export type ModbusMachine = ModbusServerSettings['machines'][number]

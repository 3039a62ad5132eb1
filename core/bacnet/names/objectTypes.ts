import type { DataType } from '../../tags/types'
import type { AppTagName } from '../tagged'

/** The kinds of objects (ANSI/ASHRAE 135, clause 12 and 21, BACnetObjectType). */
export interface ObjectType {
  number: number
  /** As in `analog-input`. */
  name: string
  /** Several of them, as a list has it. */
  title: string
  /** The short form of the trade, as in `AI`; absent: there is none. */
  short?: string
  /** What its present value is as a tag, and on the wire; absent: it has none, or one of several members. */
  value?: { type: DataType; tag: AppTagName }
  /** Always: its present value goes by priorities. Maybe: as the maker decided. */
  commandable?: 'always' | 'maybe'
  /** Its present value can be written without priorities. */
  writable?: true
}

const real = { type: 'float32', tag: 'real' } as const
const wide = { type: 'float64', tag: 'double' } as const
const twoStates = { type: 'bool', tag: 'enumerated' } as const
const number = { type: 'uint32', tag: 'unsigned' } as const
const code = { type: 'uint32', tag: 'enumerated' } as const
const text = { type: 'string', tag: 'text' } as const

export const objectTypes: readonly ObjectType[] = [
  { number: 0, name: 'analog-input', title: 'Analog inputs', short: 'AI', value: real },
  { number: 1, name: 'analog-output', title: 'Analog outputs', short: 'AO', value: real, commandable: 'always' },
  { number: 2, name: 'analog-value', title: 'Analog values', short: 'AV', value: real, commandable: 'maybe' },
  { number: 3, name: 'binary-input', title: 'Binary inputs', short: 'BI', value: twoStates },
  { number: 4, name: 'binary-output', title: 'Binary outputs', short: 'BO', value: twoStates, commandable: 'always' },
  { number: 5, name: 'binary-value', title: 'Binary values', short: 'BV', value: twoStates, commandable: 'maybe' },
  { number: 6, name: 'calendar', title: 'Calendars', value: { type: 'bool', tag: 'boolean' } },
  { number: 7, name: 'command', title: 'Commands', value: number, writable: true },
  { number: 8, name: 'device', title: 'Device' },
  { number: 9, name: 'event-enrollment', title: 'Event enrolments' },
  { number: 10, name: 'file', title: 'Files' },
  { number: 11, name: 'group', title: 'Groups' },
  { number: 12, name: 'loop', title: 'Control loops', value: real },
  { number: 13, name: 'multi-state-input', title: 'Multi-state inputs', short: 'MSI', value: number },
  { number: 14, name: 'multi-state-output', title: 'Multi-state outputs', short: 'MSO', value: number, commandable: 'always' },
  { number: 15, name: 'notification-class', title: 'Notification classes' },
  { number: 16, name: 'program', title: 'Programs' },
  { number: 17, name: 'schedule', title: 'Schedules', value: real },
  { number: 18, name: 'averaging', title: 'Averagings' },
  { number: 19, name: 'multi-state-value', title: 'Multi-state values', short: 'MSV', value: number, commandable: 'maybe' },
  { number: 20, name: 'trend-log', title: 'Trend logs' },
  { number: 21, name: 'life-safety-point', title: 'Life safety points', value: code },
  { number: 22, name: 'life-safety-zone', title: 'Life safety zones', value: code },
  { number: 23, name: 'accumulator', title: 'Accumulators', value: number },
  { number: 24, name: 'pulse-converter', title: 'Pulse converters', value: real },
  { number: 25, name: 'event-log', title: 'Event logs' },
  { number: 26, name: 'global-group', title: 'Global groups' },
  { number: 27, name: 'trend-log-multiple', title: 'Trend logs of several' },
  { number: 28, name: 'load-control', title: 'Load controls', value: code },
  { number: 29, name: 'structured-view', title: 'Structured views' },
  { number: 30, name: 'access-door', title: 'Doors', value: code, commandable: 'always' },
  { number: 31, name: 'timer', title: 'Timers', value: number },
  { number: 39, name: 'bitstring-value', title: 'Bit string values', value: { type: 'bool[]', tag: 'bits' }, commandable: 'maybe' },
  { number: 40, name: 'characterstring-value', title: 'Text values', value: text, commandable: 'maybe' },
  { number: 42, name: 'date-value', title: 'Date values', value: { type: 'string', tag: 'date' }, commandable: 'maybe' },
  { number: 44, name: 'datetime-value', title: 'Date and time values', value: { type: 'datetime', tag: 'date' }, commandable: 'maybe' },
  {
    number: 45,
    name: 'integer-value',
    title: 'Integer values',
    short: 'IV',
    value: { type: 'int32', tag: 'signed' },
    commandable: 'maybe',
  },
  { number: 46, name: 'large-analog-value', title: 'Large analog values', short: 'LAV', value: wide, commandable: 'maybe' },
  {
    ...{ number: 47, name: 'octetstring-value', title: 'Octet string values' },
    ...{ value: { type: 'string', tag: 'octets' }, commandable: 'maybe' },
  },
  { number: 48, name: 'positive-integer-value', title: 'Positive integer values', short: 'PIV', value: number, commandable: 'maybe' },
  { number: 50, name: 'time-value', title: 'Time values', value: { type: 'string', tag: 'time' }, commandable: 'maybe' },
  { number: 54, name: 'lighting-output', title: 'Lighting outputs', value: real, commandable: 'always' },
  { number: 55, name: 'binary-lighting-output', title: 'Binary lighting outputs', value: code, commandable: 'always' },
  { number: 56, name: 'network-port', title: 'Network ports' },
]

const byNumber = new Map(objectTypes.map((one) => [one.number, one]))
const byWord = new Map(objectTypes.flatMap((one) => [one.name, ...(one.short ? [one.short.toLowerCase()] : [])].map((word) => [word, one])))

export const objectType = (number: number): ObjectType | null => byNumber.get(number) ?? null
/** By its name or its short form, in letters of either case. */
export const objectTypeNamed = (word: string): ObjectType | null => byWord.get(word.toLowerCase()) ?? null
/** As in `analog-input`; a number where the standard has no name for it here. */
export const objectTypeName = (number: number): string => byNumber.get(number)?.name ?? String(number)

export const deviceType = 8

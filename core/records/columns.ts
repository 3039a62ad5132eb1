import type { Carried } from '../messages/carried'
import { jsonOf, textOf } from '../messages/carried'
import type { FieldType } from '../bridges/fit'
import { fieldTypeOf, type CatalogueColumn } from '../sql/columnTypes'
import type { SqlDialect } from '../sql/settings'
import { toRaw } from '../tags/scaling'
import { integerRanges, type ScalarType, type TagValue } from '../tags/types'

/** A column of a result, as far as the database says what it is. */
export type AskedColumn = Pick<CatalogueColumn, 'name' | 'type' | 'declared' | 'length' | 'digits' | 'decimals'>

/** A column as tags have it. */
export interface SetColumn {
  name: string
  /** As the database calls its type. */
  declared: string
  type: ScalarType
  /** What is to be said of how it is passed on; empty: nothing. */
  note: string
}

/** A number of so many decimal digits is in a `float64` as it is (IEEE 754, binary64). */
const exactDigits = 15

const wholes = (['int8', 'uint8', 'int16', 'uint16', 'int32', 'uint32', 'int64', 'uint64'] as const).map((type) => ({
  type,
  ...integerRanges[type]!,
}))

const plainTexts = new Set([
  ...['text', 'character varying', 'character', 'varchar', 'char', 'tinytext', 'mediumtext', 'longtext', 'name', 'uuid', 'enum', 'set'],
])

type As = (type: ScalarType, note?: string) => SetColumn

/** What a column becomes: without loss, or as text. */
export const setColumnOf = (column: AskedColumn, dialect: SqlDialect): SetColumn => {
  const field = fieldTypeOf({ ...column, nullable: true, hasDefault: false, isGenerated: false, isKey: false }, dialect)
  const as: As = (type, note = '') => ({ name: column.name, declared: field.name, type, note })
  switch (field.holds) {
    case 'whole':
      return whole(field, column, dialect, as)
    case 'float32':
    case 'float64':
      return as(field.holds)
    case 'decimal':
      return decimal(field, as)
    case 'truth':
      return as('bool')
    case 'time':
      return as('datetime', zoned.has(column.type) ? '' : 'it has no zone: taken as UTC')
    default:
      return as('string', textNotes[field.holds] ?? (plainTexts.has(column.type) ? '' : `${field.name} is passed on as text`))
  }
}

const zoned = new Set(['timestamp with time zone', 'timestamp'])
const textNotes: Partial<Record<FieldType['holds'], string>> = { date: 'a day, as text', bytes: 'bytes, as base64', json: 'JSON, as text' }

const whole = ({ low, high }: FieldType, { declared }: AskedColumn, dialect: SqlDialect, as: As): SetColumn => {
  if (declared === 'tinyint(1)') return as('bool')
  // a number of bits
  if (low === undefined || high === undefined) return as(dialect === 'mysql' ? 'uint64' : 'string')
  return as(wholeTypeOf(low, high))
}

const wholeTypeOf = (low: bigint, high: bigint): ScalarType => wholes.find((type) => type.low <= low && type.high >= high)?.type ?? 'string'

const decimal = ({ digits, decimals = 0, name }: FieldType, as: As): SetColumn => {
  if (digits !== undefined && decimals === 0 && digits <= 18) return as('int64', `${name} is passed on as int64: exact`)
  if (digits !== undefined && digits <= exactDigits) return as('float64', `${name} is passed on as float64: exact here`)
  return as('string', `${name} holds more digits than a float64: passed on as text`)
}

/** From what a database gave to what a tag holds; undefined: null, or nothing that fits. */
export type ColumnReader = (value: Carried) => TagValue | undefined

const readers: Partial<Record<ScalarType, (value: Carried) => TagValue | undefined>> = {
  bool: (value) =>
    typeof value === 'boolean' ? value : typeof value === 'number' || typeof value === 'bigint' ? Number(value) !== 0 : undefined,
  float32: numberOf,
  float64: numberOf,
  int64: wideOf,
  uint64: wideOf,
  string: (value) =>
    typeof value === 'string'
      ? value
      : typeof value === 'object' && !(value instanceof Date) && !(value instanceof Uint8Array)
        ? jsonOf(value)
        : textOf(value),
  datetime: (value) => (value instanceof Date && !Number.isNaN(value.getTime()) ? value.getTime() : undefined),
}

function numberOf(value: Carried) {
  if (typeof value === 'number') return value
  return typeof value === 'string' && value.trim() !== '' ? Number(value) : typeof value === 'bigint' ? Number(value) : undefined
}

function wideOf(value: Carried) {
  if (typeof value === 'bigint') return value
  if (typeof value === 'number' && Number.isInteger(value)) return BigInt(value)
  return typeof value === 'string' && /^-?\d+$/.test(value) ? BigInt(value) : undefined
}

/** @param nulls what stands in place of null, where it fits; null: nothing does */
export const readerOf = ({ type }: SetColumn, nulls: string | null): ColumnReader => {
  const instead = nulls === null ? undefined : insteadOf(nulls, type)
  const read = readers[type] ?? numberOf
  return (value) => (value === null || value === undefined ? instead : read(value))
}

const insteadOf = (text: string, type: ScalarType): TagValue | undefined => {
  const fits = toRaw(text, type, null)
  return fits.ok ? fits.raw : undefined
}

/** What a database takes for the value of a tag. */
export const carriedFor = (value: TagValue, { type }: SetColumn): Carried =>
  type === 'datetime' && typeof value === 'number' ? new Date(value) : (value as Carried)

import type { FieldType } from '../bridges/fit'
import { elementOf, integerRanges, isArrayType, isNumeric, isWide, type DataType } from '../tags/types'
import type { SqlDialect } from './settings'

/** A column as the database's own catalogue has it (ISO/IEC 9075-11, INFORMATION_SCHEMA.COLUMNS). */
export interface CatalogueColumn {
  name: string
  /** DATA_TYPE. */
  type: string
  /** As it was declared, where the catalogue knows more than the type. */
  declared: string
  length: number | null
  digits: number | null
  decimals: number | null
  nullable: boolean
  /** The database fills it in by itself where nothing is given. */
  hasDefault: boolean
  /** It is worked out by the database, and takes nothing. */
  isGenerated: boolean
  isKey: boolean
}

const range = (bits: number, signed: boolean) =>
  signed ? { low: -(2n ** BigInt(bits - 1)), high: 2n ** BigInt(bits - 1) - 1n } : { low: 0n, high: 2n ** BigInt(bits) - 1n }

const wholes: Record<string, number> = { tinyint: 8, smallint: 16, mediumint: 24, int: 32, integer: 32, bigint: 64, year: 16 }

const holdsOf: Record<string, FieldType['holds']> = {
  ...{ real: 'float32', float: 'float32', double: 'float64', 'double precision': 'float64' },
  ...{ numeric: 'decimal', decimal: 'decimal' },
  ...{ boolean: 'truth', bit: 'whole' },
  ...{ 'timestamp with time zone': 'time', 'timestamp without time zone': 'time', timestamp: 'time', datetime: 'time', date: 'date' },
  ...{ bytea: 'bytes', binary: 'bytes', varbinary: 'bytes', blob: 'bytes', tinyblob: 'bytes', mediumblob: 'bytes', longblob: 'bytes' },
  ...{ json: 'json', jsonb: 'json' },
}

/** What a column can hold. A type that is not known here takes text, and the database has the last word. */
export const fieldTypeOf = (column: CatalogueColumn, dialect: SqlDialect): FieldType => {
  const { type, length, digits, decimals } = column
  const shared = { name: nameOf(column), nullable: column.nullable || column.hasDefault }
  const bits = wholes[type]
  if (bits !== undefined) return { ...shared, holds: 'whole', ...range(bits, !column.declared.includes('unsigned')) }
  const holds = holdsOf[type] ?? 'text'
  if (holds === 'decimal') return { ...shared, holds, ...(digits === null ? {} : { digits, decimals: decimals ?? 0 }) }
  if (holds === 'text' || holds === 'bytes') return { ...shared, holds, ...(length === null || length < 1 ? {} : { length }) }
  // what both databases call “float” is a double in one of them
  if (type === 'float' && dialect === 'postgresql') return { ...shared, holds: 'float64' }
  return { ...shared, holds }
}

const short: Record<string, string> = {
  'timestamp with time zone': 'timestamptz',
  'timestamp without time zone': 'timestamp',
  'character varying': 'varchar',
  character: 'char',
}

const nameOf = ({ type, declared, length, digits, decimals }: CatalogueColumn): string => {
  if (declared) return declared
  const name = short[type] ?? type
  if (type === 'numeric' && digits !== null) return `numeric(${digits},${decimals ?? 0})`
  return length === null ? name : `${name}(${length})`
}

const proposals: Record<SqlDialect, Record<'truth' | 'text' | 'time' | 'json' | 'float32' | 'float64', string>> = {
  postgresql: { truth: 'boolean', text: 'text', time: 'timestamptz', json: 'jsonb', float32: 'real', float64: 'double precision' },
  mysql: { truth: 'boolean', text: 'varchar(255)', time: 'datetime(3)', json: 'json', float32: 'float', float64: 'double' },
}

/** The type of a column that holds whatever a tag of this type may have. */
export const proposedFor = (type: DataType, dialect: SqlDialect): string => {
  const names = proposals[dialect]
  if (isArrayType(type)) return names.json
  const element = elementOf(type)
  if (element === 'bool') return names.truth
  if (element === 'datetime') return names.time
  if (element === 'string' || !isNumeric(element)) return names.text
  if (element === 'float32' || element === 'float64') return names[element]
  if (isWide(element)) return element === 'uint64' ? (dialect === 'mysql' ? 'bigint unsigned' : 'numeric(20,0)') : 'bigint'
  return integerRanges[element]!.high > 32_767n ? (element === 'uint32' ? 'bigint' : 'integer') : 'smallint'
}

/** Types that a person may choose from for a new column. */
export const choosableTypes: Record<SqlDialect, readonly string[]> = {
  postgresql: [
    ...['timestamptz', 'double precision', 'real', 'smallint', 'integer', 'bigint', 'numeric(20,0)', 'numeric(12,4)', 'boolean'],
    ...['text', 'varchar(40)', 'varchar(255)', 'date', 'jsonb', 'bytea'],
  ],
  mysql: [
    ...['datetime(3)', 'double', 'float', 'smallint', 'integer', 'bigint', 'bigint unsigned', 'decimal(12,4)', 'boolean'],
    ...['varchar(40)', 'varchar(255)', 'text', 'date', 'json', 'varbinary(255)'],
  ],
}

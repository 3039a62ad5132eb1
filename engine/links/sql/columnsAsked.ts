import pg from 'pg'
import type { FieldPacket } from 'mysql2'
import type { AskedColumn } from '#core/records/columns'

/** What the columns of a result are, by what both protocols say beside the rows. */

const { builtins } = pg.types

/** By the numbers of PostgreSQL’s own types (pg_type). */
const pgNames = new Map<number, string>([
  [builtins.BOOL, 'boolean'],
  [builtins.INT2, 'smallint'],
  [builtins.INT4, 'integer'],
  [builtins.INT8, 'bigint'],
  [builtins.OID, 'bigint'],
  [builtins.FLOAT4, 'real'],
  [builtins.FLOAT8, 'double precision'],
  [builtins.NUMERIC, 'numeric'],
  [builtins.TEXT, 'text'],
  [builtins.VARCHAR, 'character varying'],
  [builtins.BPCHAR, 'character'],
  [19, 'name'],
  [builtins.UUID, 'uuid'],
  [builtins.DATE, 'date'],
  [builtins.TIME, 'time'],
  [builtins.TIMETZ, 'time with time zone'],
  [builtins.INTERVAL, 'interval'],
  [builtins.TIMESTAMP, 'timestamp without time zone'],
  [builtins.TIMESTAMPTZ, 'timestamp with time zone'],
  [builtins.BYTEA, 'bytea'],
  [builtins.JSON, 'json'],
  [builtins.JSONB, 'jsonb'],
  [builtins.INET, 'inet'],
  [builtins.MONEY, 'money'],
])
/** Before what is declared of a type stands a header of so many bytes (atttypmod). */
const header = 4

export const pgColumn = ({ name, dataTypeID, dataTypeModifier }: pg.FieldDef): AskedColumn => {
  const type = pgNames.get(dataTypeID) ?? `type ${dataTypeID}`
  const declared = dataTypeModifier - header
  const bare = { name, type, declared: '', length: null, digits: null, decimals: null }
  if (declared < 0) return bare
  if (type === 'numeric') return { ...bare, digits: (declared >> 16) & 0xffff, decimals: declared & 0x7ff }
  return type === 'character varying' || type === 'character' ? { ...bare, length: declared } : bare
}

/** By the numbers of the protocol of MySQL and MariaDB (Column Definition, field types). */
const mysqlNames: Record<number, string> = {
  ...{ 1: 'tinyint', 2: 'smallint', 3: 'int', 9: 'mediumint', 8: 'bigint', 13: 'year', 16: 'bit' },
  ...{ 4: 'float', 5: 'double', 0: 'decimal', 246: 'decimal' },
  ...{ 7: 'timestamp', 12: 'datetime', 10: 'date', 14: 'date', 11: 'time', 245: 'json' },
  ...{ 247: 'enum', 248: 'set', 253: 'varchar', 254: 'char', 252: 'text' },
}
const unsignedFlag = 32
const binaryFlag = 128
const binaryCharset = 63
const undecided = 31
const firstText = 252

/** What the protocol says beyond what the types of the package name. */
interface MysqlField {
  name: string
  columnType?: number
  type?: number
  columnLength?: number
  length?: number
  decimals?: number
  characterSet?: number
  flags?: number | string[]
}

/** The two ways in which packages of this protocol call the same things. */
const factsOf = (field: FieldPacket) => {
  const { name, columnType, type, columnLength, length, decimals = 0, characterSet, flags } = field as unknown as MysqlField
  const bits = typeof flags === 'number' ? flags : 0
  return {
    ...{ name, number: columnType ?? type ?? 253, length: columnLength ?? length ?? 0 },
    ...{ decimals: decimals >= undecided ? 0 : decimals, isUnsigned: (bits & unsignedFlag) !== 0 },
    isBytes: characterSet === binaryCharset && (bits & binaryFlag) !== 0,
  }
}

export const mysqlColumn = (field: FieldPacket): AskedColumn => {
  const { name, number, length, decimals, isUnsigned, isBytes } = factsOf(field)
  const type = mysqlNames[number] ?? `type ${number}`
  const bare = { name, type, declared: '', length: null, digits: null, decimals: null }
  // text and bytes have the same numbers, and only the character set tells them apart
  if (number >= firstText && isBytes) return { ...bare, type: number === firstText ? 'blob' : 'varbinary' }
  if (type === 'tinyint' && length === 1) return { ...bare, declared: 'tinyint(1)' }
  if (type === 'decimal') return { ...bare, digits: length - Number(decimals > 0) - Number(!isUnsigned), decimals }
  return isUnsigned ? { ...bare, declared: `${type} unsigned` } : bare
}

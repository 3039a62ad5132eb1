import type { FieldPacket, Pool as MysqlPool, TypeCastField } from 'mysql2'
import pg from 'pg'
import type { Carried } from '#core/messages/carried'
import type { AskedRows, RowQuery } from '../receiving'
import { mysqlColumn, pgColumn } from './columnsAsked'
import { parameter } from './rows'

/** Rows on request: within a transaction that may only read, so many and no more, each value as exactly as the database has it. */

const { builtins } = pg.types
type Parse = (text: string) => Carried

const utc = (text: string) => (/^\d{4}-/.test(text) ? new Date(`${text.replace(' ', 'T')}Z`) : text)
const zoned = (text: string) => {
  // “+02” is short for “+02:00”
  const time = new Date(text.replace(' ', 'T').replace(/([+-]\d\d)$/, '$1:00'))
  return Number.isNaN(time.getTime()) ? text : time
}
const json = (text: string) => JSON.parse(text) as Carried

/** What is not named here stays the text that the database writes. */
const parsers = new Map<number, Parse>([
  ...[builtins.INT2, builtins.INT4, builtins.FLOAT4, builtins.FLOAT8, builtins.OID].map((type): [number, Parse] => [type, Number]),
  [builtins.INT8, BigInt],
  [builtins.BOOL, (text) => text === 't'],
  [builtins.TIMESTAMP, utc],
  [builtins.TIMESTAMPTZ, zoned],
  [builtins.JSON, json],
  [builtins.JSONB, json],
  [builtins.BYTEA, (text) => new Uint8Array(Buffer.from(text.slice(2), 'hex'))],
])
const types = { getTypeParser: (type: number) => parsers.get(type) ?? ((text: string) => text) }

export const asLists = { types: types as never, rowMode: 'array' as const }
export const listed = ({ rows, fields }: pg.QueryArrayResult): AskedRows => ({ columns: fields.map(pgColumn), rows: rows as Carried[][] })
const numbered = (parts: readonly string[]) => parts.reduce((whole, part, i) => `${whole}$${i}${part}`)

export const askPostgresql = async (pool: pg.Pool, query: RowQuery): Promise<AskedRows> => {
  const { parts, parameters, most, isPlain } = query
  const values = parameters.map((value) => parameter(value, 'postgresql'))
  if (isPlain) return listed(await pool.query({ text: numbered(parts), values, ...asLists }))
  const client = await pool.connect()
  let broken: Error | undefined
  try {
    await client.query('begin transaction read only')
    // as a cursor: a statement that comes to more is not fetched to its end; extended: it is one statement, whatever it says
    const cursor = { text: `declare asked no scroll cursor for ${numbered(parts)}`, values }
    await client.query({ ...cursor, queryMode: 'extended' } as pg.QueryConfig)
    return listed(await client.query({ text: `fetch ${most} from asked`, ...asLists }))
  } catch (error) {
    broken = error as Error
    throw error
  } finally {
    await client.query('rollback').catch((error: Error) => (broken = error))
    client.release(broken && !('severity' in broken) ? broken : undefined)
  }
}

export const typeCast = (field: TypeCastField, next: () => unknown): unknown => {
  switch (field.type) {
    case 'LONGLONG':
      return wideOf(field.string())
    case 'NEWDECIMAL':
    case 'DATE':
      return field.string()
    case 'TIMESTAMP':
    case 'DATETIME': {
      const text = field.string()
      return text === null ? null : utc(text)
    }
    case 'JSON': {
      const text = field.string()
      return text === null ? null : json(text)
    }
    case 'BIT':
      return field.buffer()?.reduce((whole, byte) => whole * 256 + byte, 0) ?? null
    default: {
      const value = next()
      return value instanceof Buffer ? new Uint8Array(value) : value
    }
  }
}

const wideOf = (text: string | null) => (text === null ? null : BigInt(text))

const asked = (parts: readonly string[], parameters: readonly Carried[]) => ({
  ...{ sql: parts.join('?'), values: parameters.map((value) => parameter(value, 'mysql')) },
  ...{ typeCast: typeCast as never, rowsAsArray: true },
})
export const listedMysql = ([rows, fields]: [unknown, FieldPacket[]]): AskedRows => ({
  columns: fields.map(mysqlColumn),
  rows: rows as Carried[][],
})

export const askMysql = async (pool: MysqlPool, { parts, parameters, most, isPlain }: RowQuery): Promise<AskedRows> => {
  if (isPlain) return listedMysql(await pool.promise().query(asked(parts, parameters)))
  const connection = await pool.promise().getConnection()
  try {
    await connection.query(`set session sql_select_limit = ${most}`)
    await connection.query('start transaction read only')
    return listedMysql(await connection.query(asked(parts, parameters)))
  } finally {
    await connection
      .query('rollback')
      .then(() => connection.query('set session sql_select_limit = default'))
      .then(
        () => connection.release(),
        () => connection.destroy(),
      )
  }
}

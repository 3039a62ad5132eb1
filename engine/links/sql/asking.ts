import type { Pool as MysqlPool, TypeCastField } from 'mysql2'
import pg from 'pg'
import type { Carried } from '#core/messages/carried'
import type { QueriedRows, RowQuery } from '../receiving'
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

export const askPostgresql = async (pool: pg.Pool, { parts, parameters, most }: RowQuery): Promise<QueriedRows> => {
  const client = await pool.connect()
  let broken: Error | undefined
  try {
    await client.query('begin transaction read only')
    const text = parts.reduce((whole, part, i) => `${whole}$${i}${part}`)
    // as a cursor: a statement that comes to more is not fetched to its end; extended: it is one statement, whatever it says
    const cursor = { text: `declare asked no scroll cursor for ${text}`, values: parameters.map((value) => parameter(value, 'postgresql')) }
    await client.query({ ...cursor, queryMode: 'extended' } as pg.QueryConfig)
    const { rows, fields } = await client.query({ text: `fetch ${most} from asked`, types: types as never })
    return { columns: fields.map(({ name }) => name), rows: rows as QueriedRows['rows'] }
  } catch (error) {
    broken = error as Error
    throw error
  } finally {
    await client.query('rollback').catch((error: Error) => (broken = error))
    client.release(broken && !('severity' in broken) ? broken : undefined)
  }
}

const cast = (field: TypeCastField, next: () => unknown): unknown => {
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

export const askMysql = async (pool: MysqlPool, { parts, parameters, most }: RowQuery): Promise<QueriedRows> => {
  const connection = await pool.promise().getConnection()
  try {
    await connection.query(`set session sql_select_limit = ${most}`)
    await connection.query('start transaction read only')
    const values = parameters.map((value) => parameter(value, 'mysql'))
    const [rows, fields] = await connection.query({ sql: parts.join('?'), values, typeCast: cast as never })
    return { columns: fields.map(({ name }) => name), rows: rows as QueriedRows['rows'] }
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

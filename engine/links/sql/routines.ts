import { sql, type RawBuilder } from 'kysely'
import type { FieldPacket, Pool as MysqlPool, PoolConnection } from 'mysql2/promise'
import type pg from 'pg'
import { z } from 'zod'
import { fault } from '#core/faults/catalogue'
import type { AskedColumn } from '#core/records/columns'
import { quotedName } from '#core/sql/quoted'
import type { SqlDialect } from '#core/sql/settings'
import type { Carried } from '#core/messages/carried'
import type { AskedRows, Routine, RoutineParameter, TablePlace } from '../receiving'
import { asLists, listed, listedMysql, typeCast } from './asking'
import type { Connections } from './database'
import { parameter } from './rows'

/** Procedures and functions that give something back (ISO/IEC 9075-11, ROUTINES and PARAMETERS). */

const routineRow = z.object({
  schema: z.string(),
  name: z.string(),
  specific: z.string(),
  kind: z.enum(['PROCEDURE', 'FUNCTION']),
  parameter: z.string().nullable(),
  position: z.coerce.number().nullable(),
  type: z.string().nullable(),
  declared: z.string().nullable(),
  mode: z.string().nullable(),
})

export const routineIn = async (connections: Connections, dialect: SqlDialect, place: TablePlace): Promise<Routine> => {
  const rows = (await connections.rows(routineQuery(dialect, place))).map((row) => routineRow.parse(row))
  const [first] = rows
  if (!first) throw fault('records.no-routine', { routine: [place.schema, place.table].filter(Boolean).join('.') }) as unknown as Error
  // of several with one name, the one that the database has first
  const own = rows.filter(({ specific, schema }) => specific === first.specific && schema === first.schema)
  return {
    ...{ schema: first.schema, name: first.name, kind: first.kind === 'FUNCTION' ? 'function' : 'procedure' },
    parameters: own.flatMap((row) => (row.position === null || row.position === 0 ? [] : [parameterOf(row)])),
  }
}

const routineQuery = (dialect: SqlDialect, { schema, table }: TablePlace): RawBuilder<unknown> => {
  const declared = dialect === 'mysql' ? sql`p.dtd_identifier` : sql`null`
  const own = dialect === 'mysql' ? sql`r.routine_schema = database()` : sql`r.routine_schema = any(current_schemas(false))`
  return sql`
    select r.routine_schema as ${sql.ref('schema')}, r.routine_name as name, r.specific_name as ${sql.ref('specific')}, r.routine_type as ${sql.ref('kind')},
      p.parameter_name as ${sql.ref('parameter')}, p.ordinal_position as ${sql.ref('position')}, p.data_type as ${sql.ref('type')},
      ${declared} as ${sql.ref('declared')}, p.parameter_mode as ${sql.ref('mode')}
    from information_schema.routines r
      left join information_schema.parameters p on p.specific_schema = r.routine_schema and p.specific_name = r.specific_name
    where r.routine_name = ${table} and ${schema === '' ? own : sql`r.routine_schema = ${schema}`}
    order by 1, 3, p.ordinal_position limit 500`
}

const modes: Record<string, RoutineParameter['mode']> = { OUT: 'out', INOUT: 'inout' }

const parameterOf = ({ parameter: name, position, type, declared, mode }: z.output<typeof routineRow>): RoutineParameter => ({
  ...{
    name: name ?? `$${position}`,
    type: (type ?? 'text').toLowerCase(),
    declared: declared ?? '',
    length: null,
    digits: null,
    decimals: null,
  },
  ...{ nullable: true, hasDefault: false, isGenerated: false, isKey: false, mode: modes[mode ?? ''] ?? 'in' },
})

export interface RoutineCall {
  routine: Routine
  given: ReadonlyMap<string, Carried>
  most: number
  /** It is ended after this time, ms. */
  within: number
}

const nameOf = ({ schema, name }: Routine, dialect: SqlDialect) => `${quotedName(schema, dialect)}.${quotedName(name, dialect)}`
const isUnnamed = (name: string) => name.startsWith('$')

export const callOnPostgresql = async (pool: pg.Pool, { routine, given, most }: RoutineCall): Promise<AskedRows> => {
  const values: unknown[] = []
  const isFunction = routine.kind === 'function'
  const parameters = routine.parameters.filter(({ mode }) => !isFunction || mode !== 'out')
  const placed = parameters.map(({ name, mode }) => {
    const value = mode === 'out' ? 'null' : `$${values.push(parameter(given.get(name) ?? null, 'postgresql'))}`
    return isUnnamed(name) ? value : `${quotedName(name, 'postgresql')} => ${value}`
  })
  const call = `${nameOf(routine, 'postgresql')}(${placed.join(', ')})`
  const text = isFunction ? `select * from ${call} limit ${most}` : `call ${call}`
  const { columns, rows } = listed(await pool.query({ text, values, ...asLists }))
  const isPlain = isFunction && columns.length === 1 && columns[0]!.name === routine.name
  return { columns: isPlain ? [{ ...columns[0]!, name: 'return' }] : columns, rows }
}

export const callOnMysql = async (pool: MysqlPool, call: RoutineCall): Promise<AskedRows> => {
  const { routine, given, within } = call
  const values = routine.parameters.map(({ name }) => parameter(given.get(name) ?? null, 'mysql'))
  const connection = await pool.getConnection()
  let isEnded = false
  try {
    if (routine.kind === 'function') {
      const sql = `select ${nameOf(routine, 'mysql')}(${values.map(() => '?').join(', ')}) as ${quotedName('return', 'mysql')}`
      return listedMysql(await connection.query({ sql, values, ...rowsIn(within) }))
    }
    return await callProcedure(connection, call, values)
  } catch (error) {
    if (!isTimeout(error as Error)) throw error
    isEnded = true
    await endStatement(pool, connection)
    throw error
  } finally {
    if (!isEnded) connection.release()
  }
}

const rowsIn = (timeout: number) => ({ timeout, typeCast: typeCast as never, rowsAsArray: true })
export const isTimeout = ({ code }: Error & { code?: string }) => code === 'PROTOCOL_SEQUENCE_TIMEOUT' || code === '57014'

/** What runs on there would go on without us. */
const endStatement = async (pool: MysqlPool, connection: PoolConnection) => {
  const { threadId } = connection
  connection.destroy()
  await pool.query({ sql: 'kill ?', values: [threadId], timeout: 2000 }).catch(() => {})
}

/** What goes out of it is handed over in variables of the session, and asked for in the type that it was declared with. */
const callProcedure = async (connection: PoolConnection, { routine, most, within }: RoutineCall, values: unknown[]): Promise<AskedRows> => {
  const { parameters } = routine
  const variable = (i: number) => `@conduit_${i}`
  const goesIn = parameters.flatMap(({ mode }, i) => (mode === 'inout' ? [i] : []))
  for (const i of goesIn) await connection.query(`set ${variable(i)} = ?`, [values[i]])
  const placed = parameters.map(({ mode }, i) => (mode === 'in' ? '?' : variable(i)))
  const sql = `call ${nameOf(routine, 'mysql')}(${placed.join(', ')})`
  const given = values.filter((_, i) => parameters[i]!.mode === 'in')
  const result = firstResult((await connection.query({ sql, values: given, ...rowsIn(within) })) as [unknown, unknown])
  const out = parameters.flatMap(({ mode, name, declared }, i) =>
    mode === 'in' ? [] : [`${castTo(declared, variable(i))} as ${quotedName(name, 'mysql')}`],
  )
  if (out.length === 0) return { ...result, rows: result.rows.slice(0, most) }
  const outs = listedMysql(await connection.query({ sql: `select ${out.join(', ')}`, ...rowsIn(within) }))
  return beside(result, outs, most)
}

const nothing: AskedRows = { columns: [], rows: [] }

/** A procedure answers with its results and a last word without rows; or with that alone. */
const firstResult = ([results, fields]: [unknown, unknown]): AskedRows => {
  if (!Array.isArray(results) || !Array.isArray(fields)) return nothing
  const at = fields.findIndex((one) => Array.isArray(one))
  return at < 0 ? nothing : listedMysql([(results as unknown[])[at], (fields as FieldPacket[][])[at]!])
}

const beside = ({ columns, rows }: AskedRows, outs: AskedRows, most: number): AskedRows => {
  const [last = []] = outs.rows
  const taken = rows.length === 0 ? [columns.map((): Carried => null)] : rows.slice(0, most)
  return { columns: [...columns, ...outs.columns] as AskedColumn[], rows: taken.map((row) => [...row, ...last]) }
}

const castTo = (declared: string, variable: string): string => {
  const type = declared.toLowerCase()
  if (/^(tiny|small|medium|big)?int/.test(type)) return `cast(${variable} as ${type.includes('unsigned') ? 'unsigned' : 'signed'})`
  if (/^decimal\(\d+,\d+\)/.test(type)) return `cast(${variable} as ${/^decimal\(\d+,\d+\)/.exec(type)![0]})`
  if (/^(double|float)/.test(type)) return `cast(${variable} as double)`
  return /^(datetime|timestamp)/.test(type) ? `cast(${variable} as datetime(6))` : variable
}

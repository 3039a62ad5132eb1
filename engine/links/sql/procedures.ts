import { CompiledQuery, sql, type RawBuilder } from 'kysely'
import { z } from 'zod'
import type { Carried } from '#core/messages/carried'
import type { CatalogueColumn } from '#core/sql/columnTypes'
import { quotedName } from '#core/sql/quoted'
import type { SqlDialect } from '#core/sql/settings'
import type { RowBatch, TablePlace } from '../receiving'
import type { Connections } from './database'
import { placed } from './rows'

/** Procedures of a database (ISO/IEC 9075-11, INFORMATION_SCHEMA.ROUTINES and PARAMETERS). */

const mostProcedures = 2000

const parameterRow = z.object({
  schema: z.string(),
  procedure: z.string(),
  name: z.string().nullable(),
  type: z.string().nullable(),
  declared: z.string().nullable(),
  mode: z.string().nullable(),
})

export interface Procedure {
  schema: string
  name: string
  /** What goes in, in the order in which it stands there. */
  parameters: CatalogueColumn[]
}

const own: Record<SqlDialect, RawBuilder<unknown>> = {
  postgresql: sql`r.routine_schema not in ('pg_catalog', 'information_schema') and r.routine_type = 'PROCEDURE'`,
  mysql: sql`r.routine_schema = database() and r.routine_type = 'PROCEDURE'`,
}

export const proceduresIn = async (connections: Connections, dialect: SqlDialect): Promise<Procedure[]> => {
  const declared = dialect === 'mysql' ? sql`p.dtd_identifier` : sql`null`
  const rows = await connections.rows(sql`
    select r.routine_schema as ${sql.ref('schema')}, r.routine_name as ${sql.ref('procedure')}, p.parameter_name as ${sql.ref('name')},
      p.data_type as ${sql.ref('type')}, ${declared} as ${sql.ref('declared')}, p.parameter_mode as ${sql.ref('mode')}
    from information_schema.routines r
      left join information_schema.parameters p on p.specific_schema = r.routine_schema and p.specific_name = r.specific_name
    where ${own[dialect]} order by 1, 2, p.ordinal_position limit ${sql.lit(mostProcedures)}`)
  const found = new Map<string, Procedure>()
  for (const row of rows.map((one) => parameterRow.parse(one))) {
    const key = JSON.stringify([row.schema, row.procedure])
    const procedure = found.get(key) ?? { schema: row.schema, name: row.procedure, parameters: [] }
    found.set(key, procedure)
    if (row.name !== null && row.mode !== 'OUT') procedure.parameters.push(parameterOf(row))
  }
  return [...found.values()]
}

const parameterOf = ({ name, type, declared }: z.output<typeof parameterRow>): CatalogueColumn => ({
  ...{ name: name!, type: (type ?? 'text').toLowerCase(), declared: declared ?? '', length: null, digits: null, decimals: null },
  ...{ nullable: true, hasDefault: false, isGenerated: false, isKey: false },
})

/** Where no schema is given, the first that has such a procedure. */
export const procedureAt = (all: readonly Procedure[], { schema, table }: TablePlace): Procedure | undefined =>
  all.find((one) => one.name === table && (schema === '' || one.schema === schema))

/** A call with one row: by the names of its parameters where the database knows those, else in their order. */
export const callOf = ({ columns }: RowBatch, procedure: Procedure, row: readonly Carried[], dialect: SqlDialect): CompiledQuery => {
  const parameters: unknown[] = []
  const name = `${quotedName(procedure.schema, dialect)}.${quotedName(procedure.name, dialect)}`
  const given = (column: string) => placed(row[columns.indexOf(column)] ?? null, parameters, dialect)
  const all =
    dialect === 'mysql'
      ? procedure.parameters.map((one) => given(one.name))
      : columns.map((column) => `${quotedName(column, dialect)} => ${given(column)}`)
  return CompiledQuery.raw(`call ${name}(${all.join(', ')})`, parameters)
}

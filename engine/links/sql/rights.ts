import { sql } from 'kysely'
import { z } from 'zod'
import { quotedName } from '#core/sql/quoted'
import type { SqlDialect } from '#core/sql/settings'
import type { TableUse } from '../driver'
import type { Connections } from './database'

/** What our account may not do that bridges want of it. */

const needs = { insert: ['INSERT'], upsert: ['INSERT', 'UPDATE'], update: ['UPDATE', 'SELECT'] } as const

const nameOf = ({ schema, table }: TableUse) => [schema, table].filter(Boolean).join('.')
const granted = z.object({ granted: z.union([z.boolean(), z.coerce.number().transform((value) => value !== 0)]).nullable() })

const missing = async (connections: Connections, dialect: SqlDialect, use: TableUse): Promise<string | null> => {
  if (use.how === 'call') return null
  for (const right of needs[use.how]) {
    const [row] = await connections.rows(dialect === 'mysql' ? mysqlRight(use, right) : postgresqlRight(use, right))
    const { granted: is } = granted.parse(row)
    if (is === null) return `${nameOf(use)} is not there`
    if (!is) return `no right to ${right} on ${nameOf(use)}`
  }
  return null
}

const postgresqlRight = ({ schema, table }: TableUse, right: string) => {
  const name = [schema, table]
    .filter(Boolean)
    .map((part) => quotedName(part, 'postgresql'))
    .join('.')
  return sql`select has_table_privilege(to_regclass(${name}), ${right}) as granted`
}

const mysqlRight = ({ schema, table }: TableUse, right: string) => {
  const ours = sql`grantee = concat('''', replace(current_user(), '@', '''@'''), '''') and privilege_type = ${right}`
  const of = schema === '' ? sql`database()` : sql`${schema}`
  return sql`
    select case when not exists (select 1 from information_schema.tables where table_schema = ${of} and table_name = ${table}) then null else (
      exists (select 1 from information_schema.user_privileges where ${ours}) or
      exists (select 1 from information_schema.schema_privileges where ${ours} and ${of} like table_schema) or
      exists (select 1 from information_schema.table_privileges where ${ours} and table_schema = ${of} and table_name = ${table})
    ) end as granted`
}

/** In words, one for each table; empty: our account may do all that bridges want. */
export const missingRights = async (connections: Connections, dialect: SqlDialect, uses: readonly TableUse[]): Promise<string[]> => {
  const found: string[] = []
  for (const use of uses) {
    const problem = await missing(connections, dialect, use)
    if (problem !== null) found.push(problem)
  }
  return found
}

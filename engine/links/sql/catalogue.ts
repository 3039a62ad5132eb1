import { sql, type RawBuilder } from 'kysely'
import { z } from 'zod'
import { fault } from '#core/faults/catalogue'
import type { CatalogueColumn } from '#core/sql/columnTypes'
import type { SqlDialect } from '#core/sql/settings'
import type { ListedTable, TableFacts, TablePlace } from '../receiving'
import type { Connections } from './database'

/** So many tables are listed at most. */
const mostTables = 2000

const flag = z.union([z.boolean(), z.coerce.number().transform((value) => value !== 0)])
const count = z.coerce.number().nullable()

const columnRow = z.object({
  ...{ schema: z.string(), name: z.string(), type: z.string(), declared: z.string().nullable() },
  ...{ length: count, digits: count, decimals: count },
  ...{ nullable: flag, has_default: flag, is_generated: flag, is_key: flag },
})

const placeRow = z.object({ schema: z.string(), table: z.string(), kind: z.enum(['table', 'view']) })

/** The tables and views that our account may see. */
export const tablesIn = async (connections: Connections, dialect: SqlDialect): Promise<ListedTable[]> => {
  const own = dialect === 'mysql' ? sql`table_schema = database()` : sql`table_schema not in ('pg_catalog', 'information_schema')`
  const rows = await connections.rows(sql`
    select table_schema as ${sql.ref('schema')}, table_name as ${sql.ref('table')},
      case when table_type = 'BASE TABLE' then 'table' else 'view' end as kind
    from information_schema.tables where ${own} order by 1, 2 limit ${sql.lit(mostTables)}`)
  return rows.map((row) => placeRow.parse(row))
}

/** What the catalogue says of a table; rejects with a fault where there is none. */
export const tableIn = async (connections: Connections, dialect: SqlDialect, place: TablePlace): Promise<TableFacts> => {
  const rows = (await connections.rows(columnsQuery[dialect](place))).map((row) => columnRow.parse(row))
  const [first] = rows
  if (!first) throw fault('sql.no-table', { table: [place.schema, place.table].filter(Boolean).join('.') }) as unknown as Error
  // of several schemas that hold such a table, the one that is looked into first
  const columns = rows.filter(({ schema }) => schema === first.schema).map(columnOf)
  return { schema: first.schema, table: place.table, dialect, columns }
}

const columnOf = ({ name, type, declared, length, digits, decimals, ...flags }: z.output<typeof columnRow>): CatalogueColumn => ({
  ...{ name, type: type.toLowerCase(), declared: declared ?? '', length, digits, decimals },
  nullable: flags.nullable,
  hasDefault: flags.has_default,
  isGenerated: flags.is_generated,
  isKey: flags.is_key,
})

const columnsQuery: Record<SqlDialect, (place: TablePlace) => RawBuilder<unknown>> = {
  postgresql: ({ schema, table }) => sql`
    select c.table_schema as schema, c.column_name as name, c.data_type as type, null as declared,
      c.character_maximum_length as length, c.numeric_precision as digits, c.numeric_scale as decimals,
      c.is_nullable = 'YES' as nullable, c.column_default is not null or c.is_identity = 'YES' as has_default,
      c.is_generated = 'ALWAYS' as is_generated,
      exists (select from information_schema.table_constraints t
        join information_schema.key_column_usage k using (constraint_schema, constraint_name)
        where t.constraint_type = 'PRIMARY KEY' and k.table_schema = c.table_schema and k.table_name = c.table_name
          and k.column_name = c.column_name) as is_key
    from information_schema.columns c
    where c.table_name = ${table}
      and ${schema === '' ? sql`c.table_schema = any(current_schemas(false))` : sql`c.table_schema = ${schema}`}
    order by array_position(current_schemas(false), c.table_schema::name), c.ordinal_position`,
  mysql: ({ schema, table }) => sql`
    select table_schema as ${sql.ref('schema')}, column_name as name, data_type as type, column_type as declared,
      character_maximum_length as length, numeric_precision as digits, numeric_scale as decimals,
      is_nullable = 'YES' as nullable, column_default is not null or extra like '%auto_increment%' as has_default,
      extra like '%GENERATED%' and extra not like '%DEFAULT_GENERATED%' as is_generated, column_key = 'PRI' as is_key
    from information_schema.columns
    where table_name = ${table} and table_schema = ${schema === '' ? sql`database()` : sql`${schema}`}
    order by ordinal_position`,
}

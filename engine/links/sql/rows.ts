import { sql, type RawBuilder } from 'kysely'
import type { Carried } from '#core/bridges/carried'
import { isoText, jsonOf } from '#core/bridges/carried'
import type { SqlDialect } from '#core/sql/settings'
import type { RowBatch } from '../receiving'

/** Statements have this many parameters at most (a count of two bytes in the protocol of PostgreSQL). */
const mostParameters = 60_000
const mostRows = 1000

/** A batch in parts that a statement can carry, each with the number of its rows. */
export const statementsFor = function* (
  batch: RowBatch,
  dialect: SqlDialect,
): Generator<{ statement: RawBuilder<unknown>; rows: RowBatch['rows'] }> {
  if (batch.how === 'update') {
    for (const row of batch.rows) yield { statement: updateOf(batch, row, dialect), rows: [row] }
    return
  }
  const most = Math.max(1, Math.min(mostRows, Math.floor(mostParameters / batch.columns.length)))
  for (let at = 0; at < batch.rows.length; at += most) {
    const rows = batch.rows.slice(at, at + most)
    yield { statement: insertOf(batch, rows, dialect), rows }
  }
}

const tableOf = ({ place: { schema, table } }: RowBatch) => (schema === '' ? sql.id(table) : sql.id(schema, table))
const names = (columns: readonly string[]) => sql.join(columns.map((column) => sql.id(column)))

const insertOf = (batch: RowBatch, rows: RowBatch['rows'], dialect: SqlDialect) => {
  const values = rows.map((row) => sql`(${sql.join(row.map((value) => parameter(value, dialect)))})`)
  return sql`insert into ${tableOf(batch)} (${names(batch.columns)}) values ${sql.join(values)}${whereThereIsOne(batch, dialect)}`
}

/** What happens where a row with the same key is there already. */
const whereThereIsOne = ({ how, key, columns }: RowBatch, dialect: SqlDialect): RawBuilder<unknown> => {
  if (how !== 'upsert') return sql``
  const others = columns.filter((column) => !key.includes(column))
  if (dialect === 'mysql') {
    const set = (others.length > 0 ? others : key).map((column) => sql`${sql.id(column)} = values(${sql.id(column)})`)
    return sql` on duplicate key update ${sql.join(set)}`
  }
  if (others.length === 0) return sql` on conflict (${names(key)}) do nothing`
  const set = others.map((column) => sql`${sql.id(column)} = ${sql.id('excluded', column)}`)
  return sql` on conflict (${names(key)}) do update set ${sql.join(set)}`
}

const updateOf = (batch: RowBatch, row: readonly Carried[], dialect: SqlDialect) => {
  const { columns, key } = batch
  const is = (column: string, i: number) => sql`${sql.id(column)} = ${parameter(row[i]!, dialect)}`
  const set = columns.flatMap((column, i) => (key.includes(column) ? [] : [is(column, i)]))
  const where = columns.flatMap((column, i) => (key.includes(column) ? [is(column, i)] : []))
  return sql`update ${tableOf(batch)} set ${sql.join(set)} where ${sql.join(where, sql` and `)}`
}

/** As both databases read it whatever the type of the column. */
const parameter = (value: Carried, dialect: SqlDialect): unknown => {
  if (value === null || value === undefined) return null
  if (typeof value === 'bigint') return value.toString()
  if (value instanceof Date) return dialect === 'mysql' ? isoText(value).replace('T', ' ').replace('Z', '') : isoText(value)
  if (value instanceof Uint8Array) return Buffer.from(value)
  return typeof value === 'object' ? jsonOf(value) : value
}

import { CompiledQuery } from 'kysely'
import type { Carried } from '#core/messages/carried'
import { isoText, jsonOf } from '#core/messages/carried'
import { quotedName } from '#core/sql/quoted'
import type { SqlDialect } from '#core/sql/settings'
import type { RowBatch } from '../receiving'

/** Statements have this many parameters at most (a count of two bytes in the protocol of PostgreSQL). */
const mostParameters = 60_000
const mostRows = 1000

/** A batch in parts that a statement can carry, each with the number of its rows. Texts are made here: a builder takes longer than the database. */
export const statementsFor = function* (
  batch: RowBatch,
  dialect: SqlDialect,
): Generator<{ statement: CompiledQuery; rows: RowBatch['rows'] }> {
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

const tableOf = ({ place: { schema, table } }: RowBatch, dialect: SqlDialect) =>
  [schema, table]
    .filter(Boolean)
    .map((part) => quotedName(part, dialect))
    .join('.')
const named = (columns: readonly string[], dialect: SqlDialect) => columns.map((column) => quotedName(column, dialect)).join(', ')

const insertOf = (batch: RowBatch, rows: RowBatch['rows'], dialect: SqlDialect): CompiledQuery => {
  const parameters: unknown[] = []
  const values = rows.map((row) => `(${row.map((value) => placed(value, parameters, dialect)).join(', ')})`)
  const into = `insert into ${tableOf(batch, dialect)} (${named(batch.columns, dialect)})`
  return CompiledQuery.raw(`${into} values ${values.join(', ')}${whereThereIsOne(batch, dialect)}`, parameters)
}

/** What happens where a row with the same key is there already. */
const whereThereIsOne = ({ how, key, columns }: RowBatch, dialect: SqlDialect): string => {
  if (how !== 'upsert') return ''
  const others = columns.filter((column) => !key.includes(column))
  const set = (all: readonly string[], from: (name: string) => string) =>
    all.map((column) => `${quotedName(column, dialect)} = ${from(quotedName(column, dialect))}`).join(', ')
  if (dialect === 'mysql') return ` on duplicate key update ${set(others.length > 0 ? others : key, (name) => `values(${name})`)}`
  const conflict = ` on conflict (${named(key, dialect)}) do`
  return others.length === 0 ? `${conflict} nothing` : `${conflict} update set ${set(others, (name) => `excluded.${name}`)}`
}

const updateOf = (batch: RowBatch, row: readonly Carried[], dialect: SqlDialect): CompiledQuery => {
  const { columns, key } = batch
  const parameters: unknown[] = []
  const pairs = (isMeant: (column: string) => boolean) =>
    columns.flatMap((column, i) => (isMeant(column) ? [`${quotedName(column, dialect)} = ${placed(row[i]!, parameters, dialect)}`] : []))
  const set = pairs((column) => !key.includes(column)).join(', ')
  const where = pairs((column) => key.includes(column)).join(' and ')
  return CompiledQuery.raw(`update ${tableOf(batch, dialect)} set ${set} where ${where}`, parameters)
}

/** Values never stand in the text. */
export const placed = (value: Carried, parameters: unknown[], dialect: SqlDialect): string => {
  const count = parameters.push(parameter(value, dialect))
  return dialect === 'mysql' ? '?' : `$${count}`
}

/** As both databases read it whatever the type of the column. */
export const parameter = (value: Carried, dialect: SqlDialect): unknown => {
  if (value === null || value === undefined) return null
  if (typeof value === 'bigint') return value.toString()
  if (value instanceof Date) return dialect === 'mysql' ? isoText(value).replace('T', ' ').replace('Z', '') : isoText(value)
  if (value instanceof Uint8Array) return Buffer.from(value)
  return typeof value === 'object' ? jsonOf(value) : value
}

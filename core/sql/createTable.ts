import { choosableTypes } from './columnTypes'
import type { SqlDialect } from './settings'

export interface NewColumn {
  name: string
  /** One of `choosableTypes`. */
  type: string
  nullable: boolean
}

export interface NewTable {
  /** Empty: where the database puts it by itself. */
  schema: string
  table: string
  columns: readonly NewColumn[]
  /** Columns by which a row is found again. */
  key: readonly string[]
  /** A column of times with an index; empty: none. */
  indexed: string
  /** A column of times by which it is parted (PostgreSQL); empty: none. */
  parted: string
}

/** A name as a statement has it, whatever is in it (ISO/IEC 9075-2, delimited identifiers). */
export const quotedName = (name: string, dialect: SqlDialect): string =>
  dialect === 'mysql' ? `\`${name.replaceAll('`', '``')}\`` : `"${name.replaceAll('"', '""')}"`

const placeOf = ({ schema, table }: NewTable, dialect: SqlDialect) =>
  [schema, table]
    .filter((part) => part !== '')
    .map((part) => quotedName(part, dialect))
    .join('.')

/** What is wrong with a table that is to be made; empty: nothing. */
export const newTableProblems = ({ table, columns, key, indexed, parted }: NewTable, dialect: SqlDialect): string[] => {
  const names = columns.map(({ name }) => name)
  const known = new Set(choosableTypes[dialect])
  return [
    ...(table === '' ? ['A table needs a name.'] : []),
    ...(names.length === 0 ? ['A table has at least one column.'] : []),
    ...names
      .filter((name, i) => names.findIndex((other) => other.toLowerCase() === name.toLowerCase()) !== i)
      .map((name) => `There are two columns “${name}”.`),
    ...names.filter((name) => name === '').map(() => 'A column has a name.'),
    ...columns
      .filter(({ type }) => !known.has(type))
      .map(({ name, type }) => `“${type}” is no type that column “${name}” could be made with.`),
    ...(parted && dialect !== 'postgresql' ? ['Only tables of PostgreSQL are parted from here.'] : []),
    ...(parted && key.length > 0 && !key.includes(parted) ? [`The key has to hold “${parted}”, by which the table is parted.`] : []),
    ...[...key, ...(indexed ? [indexed] : []), ...(parted ? [parted] : [])]
      .filter((name) => !names.includes(name))
      .map((name) => `There is no column “${name}”.`),
  ]
}

/** The statements that make it, in their order. */
export const createStatements = (table: NewTable, dialect: SqlDialect): string[] => {
  const name = (text: string) => quotedName(text, dialect)
  const columns = table.columns.map(
    ({ name: column, type, nullable }) =>
      `  ${name(column)} ${type}${nullable && !table.key.includes(column) && column !== table.parted ? '' : ' not null'}`,
  )
  const key = table.key.length > 0 ? [`  primary key (${table.key.map(name).join(', ')})`] : []
  const parting = table.parted === '' ? '' : ` partition by range (${name(table.parted)})`
  const make = `create table ${placeOf(table, dialect)} (\n${[...columns, ...key].join(',\n')}\n)${parting}`
  if (table.indexed === '') return [make]
  const index = `create index ${name(`${table.table}_${table.indexed}`.slice(0, 60))} on ${placeOf(table, dialect)} (${name(table.indexed)})`
  return [make, index]
}

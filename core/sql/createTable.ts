import { choosableTypes } from './columnTypes'
import { quotedName } from './quoted'
import { rangePartingText } from './rangeParting'
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
  /** A column of times by which it is parted; empty: none. */
  parted: string
  /** What a part holds. */
  partedPer: 'day' | 'month'
}

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
    ...columns
      .filter(({ name, type }) => name === parted && !/time/.test(type))
      .map(({ name, type }) => `A table is parted by times, and “${name}” is to be of type ${type}.`),
    ...(parted && key.length > 0 && !key.includes(parted) ? [`The key has to hold “${parted}”, by which the table is parted.`] : []),
    ...[...key, ...(indexed ? [indexed] : []), ...(parted ? [parted] : [])]
      .filter((name) => !names.includes(name))
      .map((name) => `There is no column “${name}”.`),
  ]
}

const partingText = ({ parted, partedPer }: NewTable, dialect: SqlDialect, now: number): string => {
  if (parted === '') return ''
  return dialect === 'mysql' ? rangePartingText(parted, partedPer, now) : ` partition by range (${quotedName(parted, dialect)})`
}

/**
 * The statements that make it, in their order.
 * @param now Unix milliseconds: where parts are made with the table, they begin there
 */
export const createStatements = (table: NewTable, dialect: SqlDialect, now = Date.now()): string[] => {
  const name = (text: string) => quotedName(text, dialect)
  const columns = table.columns.map(
    ({ name: column, type, nullable }) =>
      `  ${name(column)} ${type}${nullable && !table.key.includes(column) && column !== table.parted ? '' : ' not null'}`,
  )
  const key = table.key.length > 0 ? [`  primary key (${table.key.map(name).join(', ')})`] : []
  const make = `create table ${placeOf(table, dialect)} (\n${[...columns, ...key].join(',\n')}\n)${partingText(table, dialect, now)}`
  if (table.indexed === '') return [make]
  const index = `create index ${name(`${table.table}_${table.indexed}`.slice(0, 60))} on ${placeOf(table, dialect)} (${name(table.indexed)})`
  return [make, index]
}

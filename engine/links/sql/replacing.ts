import { CompiledQuery } from 'kysely'
import { quotedName } from '#core/sql/quoted'
import type { SqlDialect } from '#core/sql/settings'
import { tableName } from '#core/records/statements'
import type { CellWrite } from '../receiving'
import { placed } from './rows'

/** One value of one row becomes another, unless somebody else changed it since it was read. */
export const replaceStatement = ({ place, key, cell }: CellWrite, dialect: SqlDialect): CompiledQuery => {
  const parameters: unknown[] = []
  const column = quotedName(cell.column, dialect)
  const set = `${column} = ${placed(cell.value, parameters, dialect)}`
  const found = `${quotedName(key.column, dialect)} = ${placed(key.value, parameters, dialect)}`
  const before = placed(cell.before, parameters, dialect)
  const where = `${found} and ${isStill(column, before, cell, dialect)}`
  return CompiledQuery.raw(`update ${tableName({ kind: 'table', ...place }, dialect)} set ${set} where ${where}`, parameters)
}

/** Times are read to the millisecond, and a table may hold them more exactly. */
const isStill = (column: string, before: string, { type, before: value }: CellWrite['cell'], dialect: SqlDialect): string => {
  const isTime = type === 'datetime' && value !== null
  if (dialect === 'mysql') return isTime ? `timestampdiff(microsecond, ${before}, ${column}) between 0 and 999` : `${column} <=> ${before}`
  return isTime ? `date_trunc('milliseconds', ${column}) = ${before}` : `${column} is not distinct from ${before}`
}

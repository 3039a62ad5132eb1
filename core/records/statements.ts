import type { Carried } from '../messages/carried'
import { quotedName } from '../sql/quoted'
import type { SqlDialect } from '../sql/settings'
import type { CursorSettings, RowsFrom, SnapshotSettings } from './settings'

/** A statement with its parameters beside it: between two parts stands one. */
export interface SetQuery {
  parts: readonly string[]
  parameters: readonly Carried[]
  most: number
  /** Its text is made here, and asks for rows of one table: nothing can come of it but rows. */
  isPlain: boolean
}

/** Statements of ISO/IEC 9075-2 for what sets of rows ask; names are quoted, values never stand in the text. */
export class SetStatements {
  constructor(
    private how: SnapshotSettings | CursorSettings,
    private dialect: SqlDialect,
  ) {}

  /** All rows, one more than may be: so many are too many. */
  rows(): SetQuery {
    return this.query([`select ${this.chosen()} from ${this.from()}${this.ordered()} limit ${this.how.most + 1}`], [], this.how.most + 1)
  }

  /** The first rows, to look at. */
  firstRows(most: number): SetQuery {
    return this.query([`select ${this.chosen()} from ${this.from()}${this.ordered()} limit ${most}`], [], most)
  }

  /** How many there are, counted to one more than may be. */
  count(): SetQuery {
    return this.query([`select ${this.counted()} as rows_there`], [], 1)
  }

  /** Only what the rows are called, in their order. */
  keys(): SetQuery {
    return this.query(
      [`select ${this.named(this.how.key)} from ${this.from()}${this.ordered()} limit ${this.how.most + 1}`],
      [],
      this.how.most + 1,
    )
  }

  /** The row of a key; a second tells that the key is none. */
  rowOf(key: Carried): SetQuery {
    return this.query([`select ${this.chosen()} from ${this.from()} where ${this.named(this.how.key)} = `, ' limit 2'], [key], 2)
  }

  /** What moves when something changed. */
  stamp(): SetQuery {
    const stamp = this.named(this.how.again.stamp)
    return this.query([`select (select max(${stamp}) from ${this.from()}) as stamp, ${this.counted()} as rows_there`], [], 1)
  }

  /** However many a table has, no more are looked at than a set could hold. */
  private counted(): string {
    return `(select count(*) from (select 1 as one from ${this.from()} limit ${this.how.most + 1}) as counted)`
  }

  /** All columns, or those that were chosen with those that are needed besides. */
  private chosen(): string {
    const { columns, key } = this.how
    if (columns.length === 0) return '*'
    const wanted = key !== '' && !columns.includes(key) ? [...columns, key] : columns
    return wanted.map((column) => this.named(column)).join(', ')
  }

  private from(): string {
    const { from } = this.how
    return from.kind === 'table' ? tableName(from, this.dialect) : `(${statementText(from)}) as ${this.named('rows_asked')}`
  }

  private ordered(): string {
    const by = this.how.order || this.how.key
    if (by === '') return ''
    return ` order by ${this.named(by)}${'descending' in this.how && this.how.descending ? ' desc' : ''}`
  }

  private named(column: string): string {
    return quotedName(column, this.dialect)
  }

  private query(parts: readonly string[], parameters: readonly Carried[], most: number): SetQuery {
    return { parts, parameters, most, isPlain: this.how.from.kind === 'table' }
  }
}

export const tableName = ({ schema, table }: Extract<RowsFrom, { kind: 'table' }>, dialect: SqlDialect): string =>
  [schema, table]
    .filter(Boolean)
    .map((part) => quotedName(part, dialect))
    .join('.')

const statementText = ({ statement }: Extract<RowsFrom, { kind: 'query' }>): string => `\n${statement.trim().replace(/;$/, '')}\n`

import type { Fault } from '#core/faults/catalogue'
import type { Carried } from '#core/bridges/carried'
import type { CatalogueColumn } from '#core/sql/columnTypes'
import type { SqlDialect } from '#core/sql/settings'
import type { Qos } from '#core/mqtt/settings'

/**
 * What bridges send to a link. Each takes many at a time and says of each what became of it. Whatever rejects says that the
 * far side is away, and that all of it is to be sent again.
 */
export type Receiver = MessageSender | RowStore | LineFolder

/** Null: it was taken. A fault: it was refused, and would be again. */
export type Verdict = Fault | null

export interface OutMessage {
  topic: string
  payload: string
  qos: Qos
  retain: boolean
}

export interface MessageSender {
  takes: 'topic'
  send(messages: readonly OutMessage[]): Promise<Verdict[]>
}

export interface TablePlace {
  /** Empty: where the database looks first. */
  schema: string
  table: string
}

export interface TableFacts extends TablePlace {
  dialect: SqlDialect
  columns: CatalogueColumn[]
}

export interface RowBatch {
  place: TablePlace
  how: 'insert' | 'upsert' | 'update'
  key: readonly string[]
  columns: readonly string[]
  rows: readonly (readonly Carried[])[]
}

export interface RowStore {
  takes: 'table'
  dialect: SqlDialect
  /** Rejects with a fault where there is no such table. */
  describe(place: TablePlace): Promise<TableFacts>
  tables(): Promise<TablePlace[]>
  put(batch: RowBatch): Promise<Verdict[]>
  /** Runs statements that change what is there, all of them or none where the database can do that. */
  run(statements: readonly string[]): Promise<void>
}

export interface LineBatch {
  /** Below the folder of the link. */
  file: string
  /** Written once, where the file begins. */
  head: Uint8Array
  lines: readonly Uint8Array[]
  /** How long the file was before an attempt of which nobody knows how far it came; absent: this is the first. */
  from?: number
}

export interface LineFolder {
  takes: 'file'
  /** Each line is in the file as a whole, or not at all. */
  append(batch: LineBatch): Promise<void>
  /** Bytes in a file; 0: it is not there. */
  sizeOf(file: string): Promise<number>
}

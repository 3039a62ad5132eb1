import type { Fault } from '#core/faults/catalogue'
import type { OperationText } from '#core/http/operation'
import type { Carried } from '#core/messages/carried'
import type { AskedColumn, SetColumn } from '#core/records/columns'
import type { CatalogueColumn } from '#core/sql/columnTypes'
import type { Parting } from '#core/sql/parting'
import type { SqlDialect } from '#core/sql/settings'
import type { Qos } from '#core/mqtt/settings'

/**
 * What bridges send to a link. Each takes many at a time and says of each what became of it. Whatever rejects says that the
 * far side is away, and that all of it is to be sent again.
 */
export type Receiver = MessageSender | RowStore | LineFolder | CallTaker

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

export interface ListedTable extends TablePlace {
  kind: 'table' | 'view' | 'procedure'
}

export interface TableFacts extends TablePlace {
  dialect: SqlDialect
  columns: CatalogueColumn[]
}

export interface RowBatch {
  place: TablePlace
  how: 'insert' | 'upsert' | 'update' | 'call'
  key: readonly string[]
  columns: readonly string[]
  /** The table is parted by time: its parts are made before. */
  parts?: Parting & { times: readonly number[] }
  rows: readonly (readonly Carried[])[]
}

/** A statement that asks for rows; what changes is handed over beside its text. */
export interface RowQuery {
  /** Between two of them stands a parameter. */
  parts: readonly string[]
  parameters: readonly Carried[]
  /** So many rows at most. */
  most: number
  /** Its text is ours and cannot but ask: it needs no transaction that may only read. */
  isPlain?: boolean
}

/** Rows as lists, and what their columns are. */
export interface AskedRows {
  columns: AskedColumn[]
  rows: Carried[][]
}

/** A procedure or function, as the catalogue has it. */
export interface Routine {
  schema: string
  name: string
  kind: 'procedure' | 'function'
  parameters: RoutineParameter[]
}
export interface RoutineParameter extends CatalogueColumn {
  mode: 'in' | 'out' | 'inout'
}

/** A value of one row that becomes another, where it still is what it was. */
export interface CellWrite {
  place: TablePlace
  key: { column: string; value: Carried }
  cell: { column: string; type: SetColumn['type']; before: Carried; value: Carried }
}

export interface RowStore {
  takes: 'table'
  dialect: SqlDialect
  /** Rejects with a fault where there is no such table; of a procedure its parameters. */
  describe(place: TablePlace, as?: 'table' | 'procedure'): Promise<TableFacts>
  tables(): Promise<ListedTable[]>
  put(batch: RowBatch): Promise<Verdict[]>
  /** Changes nothing, whatever the statement says. Rejects with a fault. */
  ask(query: RowQuery): Promise<AskedRows>
  /** How many rows it was: 0 where none is as it was any more. Rejects with a fault. */
  replace(write: CellWrite): Promise<number>
  /** Of its parameters those that are wanted. Rejects with a fault where there is none of that name. */
  routine(place: TablePlace): Promise<Routine>
  /** Runs it, and gives the rows of its first result, or what its parameters hold then. Rejects with a fault. */
  callRoutine(routine: Routine, given: ReadonlyMap<string, Carried>, most: number): Promise<AskedRows>
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

export interface FoundFile {
  /** Below the folder of the link. */
  name: string
  size: number
  /** Tells it from another file that has its name later. */
  identity: string
  /** When it was changed last, Unix milliseconds. */
  changedAt: number
}

export interface LineFolder {
  takes: 'file'
  /** Each line is in the file as a whole, or not at all. */
  append(batch: LineBatch): Promise<void>
  /** Bytes in a file; 0: it is not there. */
  sizeOf(file: string): Promise<number>
  /** What is there, by a pattern with `*`. Rejects with a fault where the folder is not there. */
  list(pattern: string): Promise<FoundFile[]>
  read(file: string, from: number, most: number): Promise<Uint8Array>
}

/** An operation of a web API, with what is given for its parameters. */
export interface WebCall {
  operation: string
  given: Readonly<Record<string, Carried>>
  headers?: Readonly<Record<string, string>>
}

/** What a web API said: what was asked for, or that it is refused. */
export type WebAnswer = { ok: true; body: Uint8Array } | { ok: false; status: number | null; why: Fault }

export interface CallTaker {
  takes: 'call'
  /** Null: there is none of that name. */
  operation(name: string): OperationText | null
  /** Rejects with a fault where it is away: the same call may be answered another time. */
  call(call: WebCall): Promise<WebAnswer>
}

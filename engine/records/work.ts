import type { SetColumn } from '#core/records/columns'
import type { Fault } from '#core/faults/catalogue'
import type { RecordItem, SetShape } from '#core/records/items'
import type { How, RecordSetDraft } from '#core/records/settings'
import type { TagValue } from '#core/tags/types'
import type { RowStore } from '../links/receiving'
import type { MemoryStore } from '../sources/memoryStore'
import type { TagTable } from '../table/tagTable'
import type { TagRegister } from '../tags/tagRegister'
import type { TriggerAround } from '../bridges/triggering'
import type { SetBoard } from './board'

/** What a kind of set does while it is switched on. What fails, it throws as a fault; whoever runs it tells the tags. */
export interface SetWork {
  /** Reads it, or what can be read without a person’s doing. */
  read(): Promise<void>
  /** When it is read by itself; returns how to end that. */
  begin?(): () => void
  /** A consumer wrote a part of it. */
  write(item: RecordItem, value: TagValue): Promise<void>
  /** What its tags are to be. */
  shape(): SetShape | null
  /** In words, for a person. */
  sentence(): string
  /** What consumers did to it, for what takes its place once its settings are changed. */
  remembers?(): Remembered
}

/** The row that a cursor points at, by its key; what a procedure was given. */
export interface Remembered {
  /** Of what it was: of another table or procedure it says nothing. */
  of: string
  label?: string | null
  given?: ReadonlyMap<string, TagValue>
}

export interface SetGround<H extends How = How> {
  set: Omit<RecordSetDraft, 'how'> & { how: H; id: number }
  board: SetBoard
  table: TagTable
  tags: TagRegister
  memory: MemoryStore
  timing: Omit<TriggerAround, 'spool'>
  /** What the one before it remembered; null: there was none. */
  remembered: Remembered | null
  /** Throws a fault while the link cannot be asked. */
  store(): RowStore
  /** Asks for a reading: what is wanted while one waits goes with it. */
  wake(): void
  /** Whether the last reading came about. */
  isWell(): boolean
}

/** The same list each time, so that a shape is known again. */
export const noParameters: readonly SetColumn[] = []

/** Thrown as it is. */
export const thrown = (why: Fault): Error => why as unknown as Error

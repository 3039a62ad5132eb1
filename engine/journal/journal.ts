import { randomUUID } from 'node:crypto'
import type { Kysely } from 'kysely'
import type { Logger } from 'pino'
import type { Fault } from '#core/faults/catalogue'
import { counted } from '#core/text/counted'
import { visible } from '#core/text/visible'
import type { Database, JournalSeverity } from '#db/tables'
import type { Writer } from '#shared/writes'
import { TableLog } from './tableLog'
import { UnsavedWrites } from './unsavedWrites'

interface Entry {
  at: Date
  severity: JournalSeverity
  source: string
  text: string
  fault: Fault | null
}

/** A value that somebody is about to write to the plant. */
export interface BegunWrite extends Writer {
  /** Its own, so that it is recorded once even if it is handed in twice. */
  key: string
  at: Date
  tagId: number | null
  path: string
  /** What was there before and what was to be there, as text. */
  before: string | null
  value: string
}

/** What came of it. */
export interface WriteRecord extends BegunWrite {
  fault: Fault | null
  ms: number
}

/** Tells what came of a write. */
export type EndOfWrite = (fault: Fault | null) => void

const mostKept = 20_000
const mostWritesKept = 50_000
/** Foreign text may be of any length; this much of it is enough to know it by. */
const longestText = 2000

/** Where the engine's parts tell what happened. */
export interface JournalWriter {
  note(source: string, text: string): void
  caution(source: string, text: string, fault?: Fault | null): void
  trouble(source: string, text: string, fault?: Fault | null): void
  /** Called before the value leaves for the plant. */
  writing(write: Omit<BegunWrite, 'key' | 'at'>): EndOfWrite
}

/** What happened, and what was written, for people: to the log at once, and to the database soon. */
export class Journal implements JournalWriter {
  private entries: TableLog<Entry>
  private writes: TableLog<WriteRecord>
  private underWay = new Map<string, BegunWrite>()
  private unsaved: UnsavedWrites | null
  private unsavedTold = false

  constructor(
    private db: Kysely<Database>,
    private log: Logger,
    /** Where writes are kept until they are in the database; absent: in memory only. */
    unsavedPath?: string,
  ) {
    this.unsaved = unsavedPath === undefined ? null : new UnsavedWrites(unsavedPath)
    this.entries = new TableLog({
      insert: (entries) => this.insertEntries(entries),
      trim: () => this.trim('journal', mostKept),
      lost: (count, why) => this.caution('Journal', `${counted(count, 'entry', 'entries')} of the journal lost: ${why}.`),
    })
    this.writes = new TableLog({
      insert: (records) => this.insertWrites(records),
      trim: () => this.trim('written', mostWritesKept),
      lost: (count, why) => this.caution('Journal', `${counted(count, 'record')} of writes lost: ${why}.`),
      allStored: () => this.onDisk((unsaved) => unsaved.keepOnly(this.underWay.values(), [])),
    })
    this.onDisk((unsaved) => unsaved.leftBehind().forEach((record) => this.writes.add(record)))
  }

  note(source: string, text: string) {
    this.add('note', source, text, null)
  }

  caution(source: string, text: string, fault: Fault | null = null) {
    this.add('caution', source, text, fault)
  }

  trouble(source: string, text: string, fault: Fault | null = null) {
    this.add('trouble', source, text, fault)
  }

  writing(write: Omit<BegunWrite, 'key' | 'at'>): EndOfWrite {
    const begun = { ...write, key: randomUUID(), at: new Date() }
    this.underWay.set(begun.key, begun)
    this.onDisk((unsaved) => unsaved.begin(begun))
    return (why) => {
      const ms = Date.now() - begun.at.getTime()
      this.underWay.delete(begun.key)
      this.onDisk((unsaved) => unsaved.end(begun.key, why, ms))
      this.writes.add({ ...begun, fault: why, ms })
    }
  }

  /** A disk that is full or away costs what is in the memory only if the engine ends before the database is back. */
  private onDisk(work: (unsaved: UnsavedWrites) => void) {
    const { unsaved } = this
    if (!unsaved) return
    try {
      work(unsaved)
      if (unsaved.isLong) unsaved.keepOnly(this.underWay.values(), this.writes.notStored)
    } catch (error) {
      if (!this.unsavedTold)
        this.caution('Journal', `Writes cannot be kept on disk until they are in the database: ${(error as Error).message}`)
      this.unsavedTold = true
    }
  }

  async flush() {
    await this.writes.flush()
    await this.entries.flush()
  }

  async close() {
    await this.writes.close()
    this.unsaved?.close()
    await this.entries.close()
  }

  private add(severity: JournalSeverity, source: string, text: string, fault: Fault | null) {
    this.log[severity === 'note' ? 'info' : severity === 'caution' ? 'warn' : 'error']({ source, code: fault?.code }, text)
    this.entries.add({ at: new Date(), severity, source, text, fault })
  }

  private insertEntries(entries: readonly Entry[]) {
    return this.db
      .insertInto('journal')
      .values(
        entries.map(({ source, text, fault, ...entry }) => ({ ...entry, source: shown(source), text: shown(text), fault: asJson(fault) })),
      )
      .execute()
  }

  private insertWrites(records: readonly WriteRecord[]) {
    return this.db
      .insertInto('written')
      .values(
        records.map(({ key, at, who, via, place, tagId, path, before, value, fault, ms }) => ({
          key,
          at,
          via,
          ms,
          tag_id: tagId,
          who: shown(who),
          place: shown(place),
          path: shown(path),
          before: before === null ? null : shown(before),
          value: shown(value),
          ok: fault === null,
          fault: asJson(fault),
        })),
      )
      .onConflict((conflict) => conflict.column('key').doNothing())
      .execute()
  }

  private async trim(table: 'journal' | 'written', kept: number) {
    const last = await this.db.selectFrom(table).select('id').orderBy('id', 'desc').offset(kept).limit(1).executeTakeFirst()
    if (last) await this.db.deleteFrom(table).where('id', '<=', last.id).execute()
  }
}

/** Text of others may hold anything, NUL included; what does not show is written out before it is stored. */
const shown = (text: string) => visible(text.length > longestText ? `${text.slice(0, longestText)} …` : text)
const asJson = (fault: Fault | null) =>
  fault === null ? null : JSON.stringify(fault, (_, part: unknown) => (typeof part === 'string' ? shown(part) : part))

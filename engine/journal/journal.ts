import type { Kysely } from 'kysely'
import type { Logger } from 'pino'
import { z } from 'zod'
import type { Fault } from '#core/faults/catalogue'
import { counted } from '#core/text/counted'
import type { Entry, JournalSeverity } from '#core/journal/entry'
import { journalKeeping, type JournalKeeping } from '#core/journal/settings'
import type { Database } from '#db/tables'
import type { ForwardingStatus } from '#shared/journal'
import { toldWrite } from '#shared/nodeRpc'
import type { Writer } from '#shared/writes'
import { earliestNow } from '#pacing/clock'
import { EventMemory } from './eventMemory'
import { EventTable } from './eventTable'
import { Forwarder } from './forwarder'
import { faultText, shownText } from './shown'
import { WriteLog } from './writeLog'

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

const mostWritesKept = 50_000
const mostDeedsKept = 100_000
const tidyEveryMs = 600_000
const dayMs = 86_400_000

/** Where the engine's parts tell what happened. */
export interface JournalWriter {
  note(source: string, text: string): void
  caution(source: string, text: string, fault?: Fault | null): void
  trouble(source: string, text: string, fault?: Fault | null): void
  /** Called before the value leaves for the plant. */
  writing(write: Omit<BegunWrite, 'key' | 'at'>): EndOfWrite
}

/** What happened, and what was written, for people: to the log at once, and to where it is kept soon. */
export class Journal implements JournalWriter {
  private keeping = journalKeeping.parse({})
  private table: EventTable
  /** Null: events are kept in the database. */
  private memory: EventMemory | null = null
  private forwarder: Forwarder | null = null
  private writes: WriteLog
  private tidying: NodeJS.Timeout

  constructor(
    private db: Kysely<Database>,
    private log: Logger,
    /** Where writes are kept until they are in the database; absent: in memory only. */
    unsavedPath?: string,
  ) {
    this.table = new EventTable(
      db,
      () => this.keeping,
      (count, why) => this.caution('Journal', `${counted(count, 'entry', 'entries')} of the journal lost: ${why}.`),
    )
    this.writes = new WriteLog({
      path: unsavedPath,
      insert: (records) => this.insertWrites(records),
      trim: () => this.tidyRecords(),
      caution: (text) => this.caution('Journal', text),
    })
    this.tidying = setInterval(() => void this.tidyRecords().catch(() => {}), tidyEveryMs)
    this.tidying.unref()
  }

  /** Takes other settings at once. What is kept in memory goes to the database when it is kept there; not the other way. */
  async keep(keeping: JournalKeeping) {
    const before = this.keeping
    this.keeping = keeping
    if (JSON.stringify(before.forward) !== JSON.stringify(keeping.forward)) {
      this.forwarder?.close()
      this.forwarder = keeping.forward && new Forwarder(keeping.forward)
    }
    await (keeping.where === 'memory' ? this.leaveTable() : this.leaveMemory()).catch((error: Error) =>
      this.caution('Journal', `Entries are not kept as said yet, and are looked through again in ten minutes: ${error.message}`),
    )
  }

  /** Entries that are in memory; null: they are in the database. */
  inMemory(): EventMemory | null {
    return this.memory
  }

  forwarding(): ForwardingStatus | null {
    return this.forwarder?.status() ?? null
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
    return this.writes.begin(write)
  }

  async flush() {
    await this.writes.flush()
    await this.table.flush()
  }

  async close() {
    clearInterval(this.tidying)
    await this.writes.close()
    await this.table.close()
    this.forwarder?.close()
  }

  private add(severity: JournalSeverity, source: string, text: string, fault: Fault | null) {
    this.log[severity === 'note' ? 'info' : severity === 'caution' ? 'warn' : 'error']({ source, code: fault?.code }, text)
    const at = Date.now()
    this.take({ at, lastAt: at, times: 1, severity, source, text, fault })
  }

  /** What happened elsewhere, as it was told there. */
  take(entry: Entry) {
    ;(this.memory ?? this.table).add(entry)
    this.forwarder?.add(entry)
  }

  /** Whoever keeps it in memory only wants nothing of it on a disk. */
  private async leaveTable() {
    this.memory ??= new EventMemory(() => this.keeping)
    this.memory.tidy()
    await this.table.flush()
    await this.table.clear()
  }

  private async leaveMemory() {
    const { memory } = this
    this.memory = null
    for (const { id: _id, ...entry } of memory?.all() ?? []) this.table.add(entry)
    await this.table.flush()
    await this.table.tidy()
  }

  /** Writes that were recorded elsewhere. Rejects where they cannot be read, or the database does not take them now. */
  async takeWrites(records: readonly unknown[]) {
    const told = z.array(toldWrite).parse(records)
    if (told.length > 0) await this.insertWrites(told)
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
          who: shownText(who),
          place: shownText(place),
          path: shownText(path),
          before: before === null ? null : shownText(before),
          value: shownText(value),
          ok: fault === null,
          fault: faultText(fault),
        })),
      )
      .onConflict((conflict) => conflict.column('key').doNothing())
      .execute()
  }

  /** Records of what people did: by their number, and by age where that is said. */
  private async tidyRecords() {
    for (const [table, most] of [
      ['written', mostWritesKept],
      ['deed', mostDeedsKept],
    ] as const) {
      const last = await this.db.selectFrom(table).select('id').orderBy('id', 'desc').offset(most).limit(1).executeTakeFirst()
      if (last) await this.db.deleteFrom(table).where('id', '<=', last.id).execute()
      const { deedDays } = this.keeping
      if (deedDays !== null)
        await this.db
          .deleteFrom(table)
          .where('at', '<', new Date(earliestNow() - deedDays * dayMs))
          .execute()
    }
  }
}

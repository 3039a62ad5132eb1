import type { Kysely } from 'kysely'
import type { Logger } from 'pino'
import type { Fault } from '#core/faults/catalogue'
import { counted } from '#core/text/counted'
import { visible } from '#core/text/visible'
import type { Database, JournalSeverity } from '#db/tables'
import type { Writer } from '#shared/writes'
import { TableLog } from './tableLog'

interface Entry {
  at: Date
  severity: JournalSeverity
  source: string
  text: string
  fault: Fault | null
}

/** A value that somebody wrote to the plant. */
export interface WriteRecord extends Writer {
  at: Date
  tagId: number | null
  path: string
  /** What was there before and what was to be there, as text. */
  before: string | null
  value: string
  fault: Fault | null
  ms: number
}

const mostKept = 20_000
const mostWritesKept = 50_000
/** Foreign text may be of any length; this much of it is enough to know it by. */
const longestText = 2000

/** Where the engine's parts tell what happened. */
export interface JournalWriter {
  note(source: string, text: string): void
  caution(source: string, text: string, fault?: Fault | null): void
  trouble(source: string, text: string, fault?: Fault | null): void
  written(record: WriteRecord): void
}

/** What happened, and what was written, for people: to the log at once, and to the database soon. */
export class Journal implements JournalWriter {
  private entries: TableLog<Entry>
  private writes: TableLog<WriteRecord>

  constructor(
    private db: Kysely<Database>,
    private log: Logger,
  ) {
    this.entries = new TableLog({
      insert: (entries) => this.insertEntries(entries),
      trim: () => this.trim('journal', mostKept),
      lost: (count, why) => this.caution('Journal', `${counted(count, 'entry', 'entries')} of the journal lost: ${why}.`),
    })
    this.writes = new TableLog({
      insert: (records) => this.insertWrites(records),
      trim: () => this.trim('written', mostWritesKept),
      lost: (count, why) => this.caution('Journal', `${counted(count, 'record')} of writes lost: ${why}.`),
    })
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

  written(record: WriteRecord) {
    this.writes.add(record)
  }

  async flush() {
    await this.writes.flush()
    await this.entries.flush()
  }

  async close() {
    await this.writes.close()
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
        records.map(({ at, who, via, place, tagId, path, before, value, fault, ms }) => ({
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

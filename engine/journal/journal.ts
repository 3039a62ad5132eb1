import type { Kysely } from 'kysely'
import type { Logger } from 'pino'
import type { Fault } from '#core/faults/catalogue'
import type { Database, JournalSeverity } from '#db/tables'

interface Entry {
  at: Date
  severity: JournalSeverity
  source: string
  text: string
  fault: Fault | null
}

const mostWaiting = 5000
const flushEveryMs = 500
const mostKept = 20_000
const trimEvery = 1000

/** Where the engine's parts tell what happened. */
export interface JournalWriter {
  note(source: string, text: string): void
  caution(source: string, text: string, fault?: Fault | null): void
  trouble(source: string, text: string, fault?: Fault | null): void
}

/**
 * What happened, for people. Entries go to the log at once and to the database soon; while it is
 * away they wait, up to a limit, and the count of those dropped is told afterwards.
 */
export class Journal implements JournalWriter {
  private waiting: Entry[] = []
  private dropped = 0
  private sinceTrim = 0
  private busy = false
  private timer: NodeJS.Timeout

  constructor(
    private db: Kysely<Database>,
    private log: Logger,
  ) {
    this.timer = setInterval(() => void this.flush(), flushEveryMs)
    this.timer.unref()
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

  private add(severity: JournalSeverity, source: string, text: string, fault: Fault | null) {
    this.log[severity === 'note' ? 'info' : severity === 'caution' ? 'warn' : 'error']({ source, code: fault?.code }, text)
    if (this.waiting.length >= mostWaiting) {
      this.waiting.shift()
      this.dropped++
    }
    this.waiting.push({ at: new Date(), severity, source, text, fault })
  }

  /** Writes what waits. A failure leaves everything waiting for the next time. */
  async flush() {
    if (this.busy || this.waiting.length === 0) return
    this.busy = true
    const batch = this.waiting.slice(0, 500)
    try {
      await this.db
        .insertInto('journal')
        .values(batch.map((entry) => ({ ...entry, fault: entry.fault ? JSON.stringify(entry.fault) : null })))
        .execute()
      this.waiting.splice(0, batch.length)
      this.tellDropped()
      await this.trim(batch.length)
    } catch {
      // the database is away; the feed reports that, and the next flush tries again
    } finally {
      this.busy = false
    }
  }

  private tellDropped() {
    if (this.dropped === 0) return
    const count = this.dropped
    this.dropped = 0
    this.caution('Journal', `${count} older entries were dropped while the database was away.`)
  }

  /** Keeps the newest entries only, so that the table cannot grow without end. */
  private async trim(added: number) {
    this.sinceTrim += added
    if (this.sinceTrim < trimEvery) return
    this.sinceTrim = 0
    const last = await this.db.selectFrom('journal').select('id').orderBy('id', 'desc').offset(mostKept).limit(1).executeTakeFirst()
    if (last) await this.db.deleteFrom('journal').where('id', '<=', last.id).execute()
  }

  async close() {
    clearInterval(this.timer)
    await this.flush()
  }
}

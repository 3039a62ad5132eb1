import { sql, type Kysely } from 'kysely'
import type { Entry } from '#core/journal/entry'
import { Folding } from '#core/journal/folding'
import type { JournalKeeping } from '#core/journal/settings'
import type { Database } from '#db/tables'
import { faultText, shownText } from './shown'
import { TableLog } from './tableLog'

interface Held extends Entry {
  /** Null: not in the table yet. */
  id: number | null
  /** How often it happened, as the table has it. */
  told: number
}

const countEveryMs = 1000
const tidyEveryMs = 600_000
/** More of them than folding remembers cannot change. */
const mostCounts = 2000

/** Events in the database: folded, bounded by number, age and space, and waiting where the database is away. */
export class EventTable {
  private folding = new Folding<Held>()
  private log: TableLog<Held>
  private counted = new Set<Held>()
  private timers: NodeJS.Timeout[]
  private counting: Promise<void> | null = null

  constructor(
    private db: Kysely<Database>,
    private keeping: () => JournalKeeping,
    lost: (count: number, why: string) => void,
  ) {
    this.log = new TableLog({
      insert: (entries) => this.insert(entries),
      trim: () => this.tidy(),
      dropped: (entry) => this.folding.forget(entry),
      lost,
    })
    this.timers = [
      setInterval(() => void this.tellCounts(), countEveryMs),
      setInterval(() => void this.tidy().catch(() => {}), tidyEveryMs),
    ]
    for (const timer of this.timers) timer.unref()
  }

  add(entry: Entry) {
    const held: Held = { ...entry, id: null, told: 0 }
    const first = this.folding.again(held)
    if (!first) this.log.add(held)
    else if (first.id !== null && this.counted.size < mostCounts) this.counted.add(first)
  }

  async flush() {
    await this.log.flush()
    await this.tellCounts()
  }

  /** Keeps as many as may be kept, now. */
  async tidy() {
    const { where, most, days, mostMb } = this.keeping()
    if (where === 'memory') return this.clear()
    const fitting = mostMb === null ? most : Math.min(most, await this.fitting(mostMb))
    const last = await this.db.selectFrom('journal').select('id').orderBy('id', 'desc').offset(fitting).limit(1).executeTakeFirst()
    if (last) await this.db.deleteFrom('journal').where('id', '<=', last.id).execute()
    if (days !== null)
      await sql`delete from journal where at < now() - make_interval(days => ${days}) and last_at < now() - make_interval(days => ${days})`.execute(
        this.db,
      )
  }

  /** Nothing of it stays. */
  async clear() {
    this.folding.clear()
    this.counted.clear()
    await this.db.deleteFrom('journal').execute()
  }

  async close() {
    for (const timer of this.timers) clearInterval(timer)
    await this.log.close()
    await this.tellCounts()
  }

  private async insert(entries: readonly Held[]) {
    const told = entries.map(({ times }) => times)
    const rows = await this.db
      .insertInto('journal')
      .values(
        entries.map(({ at, lastAt, times, severity, source, text, fault }) => ({
          ...{ at: new Date(at), last_at: new Date(lastAt), times, severity },
          ...{ source: shownText(source), text: shownText(text), fault: faultText(fault) },
        })),
      )
      .returning('id')
      .execute()
    for (const [i, entry] of entries.entries()) {
      entry.id = rows[i]?.id ?? null
      entry.told = told[i]!
      if (entry.times > entry.told) this.counted.add(entry)
    }
  }

  /** How often things happened since they were told. Never rejects: what cannot be told now is told later. */
  private tellCounts(): Promise<void> {
    return (this.counting ??= this.writeCounts()
      .catch(() => {})
      .finally(() => (this.counting = null)))
  }

  private async writeCounts() {
    if (this.counted.size === 0) return
    const entries = [...this.counted].map((entry) => ({ entry, times: entry.times, lastAt: entry.lastAt }))
    await sql`
      update journal set times = told.times, last_at = told.last_at
      from unnest(${entries.map(({ entry }) => entry.id)}::bigint[], ${entries.map(({ times }) => times)}::integer[],
        ${entries.map(({ lastAt }) => new Date(lastAt))}::timestamptz[]) as told (id, times, last_at)
      where journal.id = told.id`.execute(this.db)
    for (const { entry, times } of entries) {
      entry.told = times
      if (entry.times === times) this.counted.delete(entry)
    }
  }

  /** How many fit into so much space, by what the newest take, with all that belongs to them. */
  private async fitting(mostMb: number): Promise<number> {
    const each = await bytesOfEach(this.db)
    return each === null ? Number.MAX_SAFE_INTEGER : Math.max(1, Math.floor((mostMb * 1e6) / each))
  }
}

/** Fewer say nothing about how much an entry takes. */
const leastMeasured = 1000
/** What a row takes besides its columns (PostgreSQL, 66.6): its place in the page, and its head. */
const rowHead = 28

/** Space that an entry takes, with its share of the indexes, bytes; null: there are too few to tell. */
const bytesOfEach = async (db: Kysely<Database>): Promise<number | null> => {
  const newest = db.selectFrom('journal').selectAll().orderBy('id', 'desc').limit(leastMeasured)
  const { rows } = await sql<{ each: number | null; count: number }>`
    select (avg(pg_column_size(newest.*)) + ${rowHead})::float8
      * pg_total_relation_size('journal') / nullif(pg_relation_size('journal'), 0) as each,
      count(*)::int as count
    from ${newest.as('newest')}`.execute(db)
  const [measured] = rows
  return measured && measured.count >= leastMeasured ? measured.each : null
}

import { sql } from 'kysely'
import { z } from 'zod'
import { dropStatement, outdated, partStatement, spanAt, spansAhead, type Parting } from '#core/sql/parting'
import type { TablePlace } from '../receiving'
import type { Connections } from './database'

export const lookAgainMs = 600_000

/** The parts of one table that is parted by time: made ahead and for what comes late, and dropped by age where that is wanted. */
export interface TableParts {
  /** Before rows of these times are written. Rejects with what the database says. */
  ready(times: readonly number[]): Promise<void>
  /** Somebody may have dropped them. */
  doubt(): void
}

/** Those of PostgreSQL, each of them a table. */
export class DeclaredParts implements TableParts {
  private made = new Set<string>()
  private lookedAt = -Infinity

  constructor(
    private connections: Connections,
    private place: TablePlace,
    private parting: Parting,
  ) {}

  async ready(times: readonly number[]) {
    const { parting, place } = this
    const now = Date.now()
    const isDue = now - this.lookedAt > lookAgainMs
    const spans = [...(isDue ? spansAhead(now, parting) : []), ...times.map((time) => spanAt(time, parting.per))]
    const missing = [...new Map(spans.map((span) => [span.suffix, span])).values()].filter(({ suffix }) => !this.made.has(suffix))
    if (missing.length > 0) await this.connections.together(missing.map((span) => partStatement(place, span)))
    for (const { suffix } of missing) this.made.add(suffix)
    if (isDue) await this.dropOld(now)
    if (isDue) this.lookedAt = now
  }

  doubt() {
    this.made.clear()
    this.lookedAt = -Infinity
  }

  private async dropOld(now: number) {
    const { parting, place } = this
    if (parting.keep === null) return
    const rows = await this.connections.rows(sql`
      select n.nspname as schema, c.relname as part from pg_inherits i
        join pg_class c on c.oid = i.inhrelid join pg_namespace n on n.oid = c.relnamespace
      where i.inhparent = ${tableName(place)}::regclass`)
    const parts = rows.map((row) => partRow.parse(row))
    const old = new Set(
      outdated(
        place.table,
        parts.map(({ part }) => part),
        parting,
        now,
      ),
    )
    const statements = parts.filter(({ part }) => old.has(part)).map(({ schema, part }) => dropStatement(schema, part))
    if (statements.length > 0) await this.connections.together(statements)
    this.made.clear()
  }
}

const partRow = z.object({ schema: z.string(), part: z.string() })

const tableName = ({ schema, table }: TablePlace) =>
  [schema, table]
    .filter(Boolean)
    .map((part) => `"${part.replaceAll('"', '""')}"`)
    .join('.')

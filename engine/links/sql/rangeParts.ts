import { sql } from 'kysely'
import { z } from 'zod'
import type { Parting } from '#core/sql/parting'
import { addPartsStatement, dropPartsStatement, outdatedRanges, readBound, spansMissing, type RangePart } from '#core/sql/rangeParting'
import type { TablePlace } from '../receiving'
import type { Connections } from './database'
import { lookAgainMs, type TableParts } from './parts'

/** Bounds have to rise (1493), and names are given once (1517): somebody else was faster. */
const madeMeanwhile = new Set([1493, 1517])

/** The parts of one table of MySQL or MariaDB. */
export class RangeParts implements TableParts {
  private highest = -Infinity
  private lookedAt = -Infinity

  constructor(
    private connections: Connections,
    private place: TablePlace,
    private parting: Parting,
  ) {}

  async ready(times: readonly number[]) {
    const now = Date.now()
    const isDue = now - this.lookedAt > lookAgainMs
    if (!isDue && spansMissing(this.highest, times, this.parting, now).length === 0) return
    await this.makeFor(times, now)
    if (isDue) await this.dropOld(now)
    this.lookedAt = now
  }

  doubt() {
    this.highest = this.lookedAt = -Infinity
  }

  private async makeFor(times: readonly number[], now: number, isAgain = false): Promise<void> {
    this.highest = Math.max(-Infinity, ...(await this.parts()).map(({ to }) => to))
    const missing = spansMissing(this.highest, times, this.parting, now)
    if (missing.length === 0) return
    try {
      await this.connections.together([addPartsStatement(this.place, missing)])
      this.highest = missing.at(-1)!.to
    } catch (error) {
      if (isAgain || !madeMeanwhile.has((error as { errno?: number }).errno ?? 0)) throw error
      await this.makeFor(times, now, true)
    }
  }

  private async dropOld(now: number) {
    if (this.parting.keep === null) return
    const old = outdatedRanges(await this.parts(), this.parting, now)
    if (old.length > 0) await this.connections.together([dropPartsStatement(this.place, old)])
  }

  /** Those whose bound is a time, in their order. */
  private async parts(): Promise<RangePart[]> {
    const { schema, table } = this.place
    const rows = await this.connections.rows(sql`
      select partition_name as ${sql.ref('name')}, partition_description as ${sql.ref('bound')} from information_schema.partitions
      where table_schema = ${schema === '' ? sql`database()` : schema} and table_name = ${table} and partition_name is not null
      order by partition_ordinal_position`)
    return rows.flatMap((row) => {
      const { name, bound } = partRow.parse(row)
      const to = readBound(bound ?? '')
      return to === null ? [] : [{ name, to }]
    })
  }
}

const partRow = z.object({ name: z.string(), bound: z.string().nullable() })

import { sql } from 'kysely'
import { fault, type Fault } from '#core/faults/catalogue'
import type { SqlSettings } from '#core/sql/settings'
import type { Carried } from '#core/messages/carried'
import type {
  CellWrite,
  ListedTable,
  AskedRows,
  Routine,
  RowBatch,
  RowQuery,
  RowStore,
  TableFacts,
  TablePlace,
  Verdict,
} from '../receiving'
import { steadyNow } from '#pacing/clock'
import { tableIn, tablesIn } from './catalogue'
import type { Connections } from './database'
import { isBroken, isRefusal, sqlFault } from './errors'
import { replaceStatement } from './replacing'
import { isTimeout, routineIn } from './routines'
import { DeclaredParts, type TableParts } from './parts'
import { callOf, procedureAt, proceduresIn } from './procedures'
import { RangeParts } from './rangeParts'
import { statementsFor } from './rows'

/** What the catalogue said of a table is believed for so long. */
const believedMs = 15_000

interface Around {
  settings: SqlSettings
  name: string
  connections: Connections
  /** The database did not answer, or not in words of its own. */
  broken(why: Fault): void
}

/** Tables of a database, for bridges. */
export class Tables implements RowStore {
  readonly takes = 'table'
  private parted = new Map<string, TableParts>()
  private known = new Map<string, { at: number; facts: TableFacts }>()

  constructor(private around: Around) {}

  get dialect() {
    return this.around.settings.dialect
  }

  async tables(): Promise<ListedTable[]> {
    const { connections } = this.around
    const tables = await this.asking(() => tablesIn(connections, this.dialect))
    const procedures = await this.asking(() => proceduresIn(connections, this.dialect))
    return [...tables, ...procedures.map(({ schema, name }) => ({ schema, table: name, kind: 'procedure' as const }))]
  }

  async describe(place: TablePlace, as: 'table' | 'procedure' = 'table'): Promise<TableFacts> {
    const key = JSON.stringify([place.schema, place.table, as])
    const known = this.known.get(key)
    if (known && steadyNow() - known.at < believedMs) return known.facts
    const facts =
      as === 'table' ? await this.asking(() => tableIn(this.around.connections, this.dialect, place)) : await this.parametersOf(place)
    this.known.set(key, { at: steadyNow(), facts })
    return facts
  }

  /** What is wrong with a statement says nothing of tables and their parts. */
  async ask(query: RowQuery): Promise<AskedRows> {
    try {
      return await this.around.connections.ask(query)
    } catch (error) {
      throw isBroken(error as Error) ? this.away(error as Error) : (sqlFault(error as Error, this.around.settings) as unknown as Error)
    }
  }

  async replace(write: CellWrite): Promise<number> {
    this.mayWrite()
    const { connections, settings } = this.around
    try {
      return await connections.changed(replaceStatement(write, this.dialect))
    } catch (error) {
      throw isBroken(error as Error) ? this.away(error as Error) : (sqlFault(error as Error, settings, 'a value') as unknown as Error)
    }
  }

  routine(place: TablePlace): Promise<Routine> {
    return this.asking(() => routineIn(this.around.connections, this.dialect, place))
  }

  async callRoutine(routine: Routine, given: ReadonlyMap<string, Carried>, most: number): Promise<AskedRows> {
    this.mayWrite()
    const { connections, settings } = this.around
    try {
      return await connections.call({ routine, given, most })
    } catch (error) {
      const why = error as Error
      if (isTimeout(why)) throw fault('records.slow', { routine: routine.name, ms: settings.patience.answer }) as unknown as Error
      throw isBroken(why) ? this.away(why) : (sqlFault(why, settings, 'a call') as unknown as Error)
    }
  }

  private async parametersOf(place: TablePlace): Promise<TableFacts> {
    const all = await this.asking(() => proceduresIn(this.around.connections, this.dialect))
    const found = procedureAt(all, place)
    if (!found) throw fault('sql.no-table', { table: [place.schema, place.table].filter(Boolean).join('.') }) as unknown as Error
    return { schema: found.schema, table: found.name, dialect: this.dialect, columns: found.parameters }
  }

  async run(statements: readonly string[]): Promise<void> {
    this.mayWrite()
    this.known.clear()
    await this.asking(() => this.around.connections.together(statements))
  }

  async put(batch: RowBatch): Promise<Verdict[]> {
    this.mayWrite()
    if (batch.how === 'call') return this.call(batch)
    if (batch.parts) await this.makeParts(batch, batch.parts)
    const verdicts: Verdict[] = []
    for (const { statement, rows } of statementsFor(batch, this.dialect)) {
      try {
        const changed = await this.around.connections.changed(statement)
        verdicts.push(...rows.map(() => (batch.how === 'update' && changed === 0 ? this.nothingThere(batch) : null)))
      } catch (error) {
        if (!isRefusal(error as Error)) throw this.away(error as Error)
        verdicts.push(...(await this.oneByOne({ ...batch, rows }, error as Error)))
      }
    }
    return verdicts
  }

  private async makeParts({ place }: RowBatch, { times, ...parting }: NonNullable<RowBatch['parts']>) {
    const key = JSON.stringify([place, parting])
    const Parts = this.dialect === 'mysql' ? RangeParts : DeclaredParts
    const parts = this.parted.get(key) ?? new Parts(this.around.connections, place, parting)
    this.parted.set(key, parts)
    await this.asking(() => parts.ready(times))
  }

  /** One after the other: what a call does, nobody knows here. */
  private async call(batch: RowBatch): Promise<Verdict[]> {
    const { schema, table: name, columns: parameters } = await this.describe(batch.place, 'procedure')
    const verdicts: Verdict[] = []
    for (const row of batch.rows) {
      try {
        await this.around.connections.changed(callOf(batch, { schema, name, parameters }, row, this.dialect))
        verdicts.push(null)
      } catch (error) {
        if (!isRefusal(error as Error)) throw this.away(error as Error)
        verdicts.push(sqlFault(error as Error, this.around.settings, 'a call'))
      }
    }
    return verdicts
  }

  /** One row spoils a statement of many: halves are tried, until it stands alone. */
  private async oneByOne(batch: RowBatch, error: Error): Promise<Verdict[]> {
    const { rows } = batch
    if (rows.length === 1) return [sqlFault(error, this.around.settings, 'a row')]
    const half = rows.length >> 1
    return [...(await this.put({ ...batch, rows: rows.slice(0, half) })), ...(await this.put({ ...batch, rows: rows.slice(half) }))]
  }

  private nothingThere({ key }: RowBatch): Fault {
    return fault('sql.statement', {
      ...{ what: 'a row', state: '02000', words: 'there was nothing' },
      problem: `no row has this ${key.join(', ')}, so there is none to update`,
    })
  }

  private mayWrite() {
    const { settings, name } = this.around
    if (settings.readOnly) throw fault('sql.read-only', { name }) as unknown as Error
  }

  private async asking<T>(work: () => Promise<T>): Promise<T> {
    try {
      return await work()
    } catch (error) {
      throw error instanceof Error ? this.away(error) : error
    }
  }

  private away(error: Error): Error {
    this.known.clear()
    for (const parts of this.parted.values()) parts.doubt()
    const why = sqlFault(error, this.around.settings)
    if (isBroken(error)) this.around.broken(why)
    return why as unknown as Error
  }
}

/** Asks the database for nothing, to see that it is there. */
export const greeting = async (connections: Connections, { dialect }: SqlSettings): Promise<string> => {
  const rows = await connections.rows(dialect === 'mysql' ? sql`select version() as version` : sql`show server_version`)
  return String(Object.values(rows[0] ?? {})[0] ?? '')
}

import { sql } from 'kysely'
import { fault, type Fault } from '#core/faults/catalogue'
import type { SqlSettings } from '#core/sql/settings'
import type { RowBatch, RowStore, TableFacts, TablePlace, Verdict } from '../receiving'
import { tableIn, tablesIn } from './catalogue'
import type { Connections } from './database'
import { isBroken, isRefusal, sqlFault } from './errors'
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
  private known = new Map<string, { at: number; facts: TableFacts }>()

  constructor(private around: Around) {}

  get dialect() {
    return this.around.settings.dialect
  }

  tables(): Promise<TablePlace[]> {
    return this.asking(() => tablesIn(this.around.connections, this.dialect))
  }

  async describe(place: TablePlace): Promise<TableFacts> {
    const key = JSON.stringify([place.schema, place.table])
    const known = this.known.get(key)
    if (known && Date.now() - known.at < believedMs) return known.facts
    const facts = await this.asking(() => tableIn(this.around.connections, this.dialect, place))
    this.known.set(key, { at: Date.now(), facts })
    return facts
  }

  async run(statements: readonly string[]): Promise<void> {
    this.mayWrite()
    this.known.clear()
    await this.asking(() => this.around.connections.together(statements))
  }

  async put(batch: RowBatch): Promise<Verdict[]> {
    this.mayWrite()
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

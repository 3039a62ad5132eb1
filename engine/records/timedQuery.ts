import { fault } from '#core/faults/catalogue'
import { nothingBut, type RunFacts } from '#core/bridges/run'
import { readStatement, type ReadStatement } from '#core/bridges/statement'
import type { RecordItem, SetShape } from '#core/records/items'
import type { QuerySettings } from '#core/records/settings'
import { counted } from '#core/text/counted'
import { startTriggers, type TriggerAround } from '../bridges/triggering'
import { Columns, labelsOf, valuesOf, type ReadColumns } from './rowsRead'
import { inputsOf } from './inputs'
import { numberedTo, padded } from './numbered'
import { noParameters, thrown, type SetGround, type SetWork } from './work'

/** The rows of a statement, asked for when the clock or a tag says so, with what tags have then. */
export class TimedQuery implements SetWork {
  private columns: Columns
  private statement: ReadStatement & { ok: true }
  private labels: string[] | null = null
  private count = 0

  constructor(private ground: SetGround<QuerySettings>) {
    const { how, nulls } = ground.set
    this.columns = new Columns({ chosen: [], key: how.key, nulls })
    const statement = readStatement(how.statement, { inputs: how.take.map(({ name }) => ({ name, hasParts: false })), lookUps: [] })
    if (!statement.ok) throw new Error(statement.problem)
    this.statement = statement
  }

  begin() {
    const { ground } = this
    const around = ground.timing as TriggerAround
    const heard = { fire: () => ground.wake(), lost: () => {}, taken: () => {}, missed: () => {} }
    return startTriggers({ id: 0, when: ground.set.how.when }, around, heard)
  }

  async read() {
    const { how, name } = this.ground.set
    const store = this.ground.store()
    const run = this.facts()
    const parameters = this.statement.parameters.map((work) => work(run))
    const asked = await store.ask({ parts: this.statement.parts, parameters, most: how.rows === 1 ? 1 : how.rows + 1 })
    if (asked.rows.length > how.rows) throw thrown(fault('records.too-many', { name, most: how.rows }))
    const columns = this.columns.of(asked, store.dialect)
    const rows = asked.rows.map((row) => valuesOf(columns, row))
    this.count = rows.length
    if (how.rows === 1) return this.ground.board.show({ columns: columns.shown, labels: null, rows }, { again: false }, false)
    const isKeyed = how.key !== ''
    this.labels = isKeyed ? labelsOf(columns, asked.rows) : numberedTo(how.rows)
    const all = isKeyed ? rows : padded(rows, how.rows, columns.shown.length)
    this.ground.board.show({ columns: columns.shown, labels: this.labels, rows: all }, { count: rows.length, again: false }, false)
  }

  write(item: RecordItem): Promise<void> {
    return Promise.reject(thrown(fault('records.not-written', { what: item.column })))
  }

  shape(): SetShape | null {
    const columns: ReadColumns | null = this.columns.last
    return columns && { columns: columns.shown, rows: this.labels, parameters: noParameters, key: null }
  }

  sentence() {
    return this.count === 0 ? 'the statement gave no row' : counted(this.count, 'row')
  }

  /** What the tags have that it names; throws a fault where one has nothing that could be used. */
  private facts(): RunFacts {
    const { set } = this.ground
    const inputs = inputsOf(set.how.take, this.ground)
    const now = Date.now()
    return { occasion: nothingBut('clock', 0, now), now, number: 0, row: 1, site: '', bridge: set.name, inputs }
  }
}

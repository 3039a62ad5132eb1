import { fault } from '#core/faults/catalogue'
import type { Carried } from '#core/messages/carried'
import { carriedFor } from '#core/records/columns'
import type { RecordItem, SetShape } from '#core/records/items'
import type { SnapshotSettings } from '#core/records/settings'
import { SetStatements } from '#core/records/statements'
import type { TagValue } from '#core/tags/types'
import { counted } from '#core/text/counted'
import { Columns, labelsOf, valuesOf } from './rowsRead'
import { readAgain } from './readAgain'
import { StampWatch } from './stampWatch'
import { noParameters, thrown, type SetGround, type SetWork } from './work'
import { writeCell } from './writeCell'

/** A whole table: a tag for each of its values. */
export class Snapshot implements SetWork {
  private columns: Columns
  private raw: readonly (readonly Carried[])[] = []
  private labels: string[] | null = null
  private statements: SetStatements | null = null

  constructor(private ground: SetGround<SnapshotSettings>) {
    const { how, nulls } = ground.set
    this.columns = new Columns({ chosen: how.columns, key: how.key, nulls })
  }

  begin() {
    const { ground } = this
    return readAgain(ground, () => new StampWatch(this.asking()))
  }

  async read() {
    const { how, name } = this.ground.set
    const store = this.ground.store()
    const asked = await store.ask(this.asking().rows())
    if (asked.rows.length > how.most) throw thrown(fault('records.too-many', { name, most: how.most }))
    const columns = this.columns.of(asked, store.dialect)
    const labels = columns.keyAt < 0 ? asked.rows.map((_, i) => String(i + 1)) : labelsOf(columns, asked.rows)
    this.raw = asked.rows
    // the same list as before, where it is: nobody has to look through it again
    if (!isSameList(labels, this.labels)) this.labels = labels
    const rows = asked.rows.map((row) => valuesOf(columns, row))
    this.ground.board.show({ columns: columns.shown, labels: this.labels, rows }, { count: rows.length, again: false }, false)
  }

  async write(item: RecordItem, value: TagValue) {
    const { how } = this.ground.set
    const columns = this.columns.last
    const r = this.labels?.indexOf(item.row) ?? -1
    const row = this.raw[r]
    if (!columns || !row) throw thrown(fault('records.no-row', { row: item.row }))
    const column = columns.all.find(({ name }) => name === item.column)
    if (!column || !how.writes.includes(item.column)) throw thrown(fault('records.not-written', { what: item.column }))
    try {
      await writeCell(
        this.ground.store(),
        how,
        { column, label: item.row, key: row[columns.keyAt]!, before: row[columns.all.indexOf(column)]! },
        carriedFor(value, column),
      )
    } finally {
      await this.read()
    }
  }

  shape(): SetShape | null {
    const columns = this.columns.last
    return columns && this.labels ? { columns: columns.shown, rows: this.labels, parameters: noParameters, key: null } : null
  }

  sentence() {
    return `${counted(this.labels?.length ?? 0, 'row')} as tags`
  }

  private asking(): SetStatements {
    return (this.statements ??= new SetStatements(this.ground.set.how, this.ground.store().dialect))
  }
}

const isSameList = (a: readonly string[], b: readonly string[] | null) =>
  b !== null && a.length === b.length && a.every((one, i) => one === b[i])

import { z } from 'zod'
import { fault } from '#core/faults/catalogue'
import type { Carried } from '#core/messages/carried'
import { carriedFor, readerOf, setColumnOf, type SetColumn } from '#core/records/columns'
import type { RecordItem, SetShape } from '#core/records/items'
import type { CursorSettings } from '#core/records/settings'
import { SetStatements } from '#core/records/statements'
import { sameValue, type TagValue } from '#core/tags/types'
import { Columns, labelOf, labelsOf, valuesOf, type ReadColumns } from './rowsRead'
import type { Controls } from './board'
import { readAgain } from './readAgain'
import { StampWatch } from './stampWatch'
import { noParameters, thrown, type SetGround, type SetWork } from './work'
import { writeCell } from './writeCell'

/** The rows that there are, by their keys. */
interface Keys {
  column: SetColumn
  carried: Carried[]
  labels: string[]
}

const keptContract = z.tuple([z.string(), z.string()])

/** By its tag it is kept where the set points. */
const placeItem = { part: 'position', column: '', row: '' } as const

/** One row of a table: a tag for each column, and tags that move it. */
export class Cursor implements SetWork {
  private columns: Columns
  private keyColumns: Columns
  private keys: Keys | null = null
  /** The row pointed at, by its place; -1: none. */
  private at = -1
  /** The place of the row that was pointed at last. */
  private was = 0
  /** How that row is called: it is followed where others come before it. */
  private label: string | null = null
  private row: readonly Carried[] | null = null
  private statements: SetStatements | null = null
  private said = ''
  /** What lies on the disk of where it points. */
  private keptAs: string | null = null

  constructor(private ground: SetGround<CursorSettings>) {
    const { how, nulls } = ground.set
    this.columns = new Columns({ chosen: how.columns, key: how.key, nulls })
    this.label = ground.remembered?.of === this.of ? (ground.remembered.label ?? null) : null
    this.keyColumns = new Columns({ chosen: [how.key], key: how.key, nulls: null })
  }

  begin() {
    const { ground } = this
    return readAgain(ground, () => new StampWatch(this.asking()))
  }

  async read() {
    const isFirst = this.keys === null
    const keys = await this.readKeys()
    this.keys = keys
    const label = isFirst ? this.keptLabel() : this.label
    if (label === null) return this.point(keys, this.startAt(keys), true)
    const at = keys.labels.indexOf(label)
    return at < 0 ? this.missed(label) : this.point(keys, at, isFirst)
  }

  async write(item: RecordItem, value: TagValue) {
    if (item.part === 'value') return this.writeBack(item.column, value)
    const keys = this.keys ?? (this.keys = await this.readKeys())
    const wanted = this.wanted(keys, item, value)
    if (wanted === null) return
    const most = keys.labels.length - 1
    if (wanted < 0 && (item.part === 'number' || item.part === 'key'))
      throw thrown(fault('records.no-row', { row: String(item.part === 'key' ? value : `number ${String(value)}`) }))
    const at = Math.min(Math.max(wanted, 0), most)
    if (at === this.at && at !== wanted) {
      this.said = `at the ${wanted > most ? 'last' : 'first'} row: it stays there`
      return this.ground.board.tell({ ...this.controls(keys), state: this.said })
    }
    this.said = ''
    await this.point(keys, at, true)
  }

  remembers() {
    return { of: this.of, label: this.label }
  }

  /** Rows of another table are others, whatever they are called. */
  private get of() {
    const { linkId, how } = this.ground.set
    return JSON.stringify([linkId, how.kind, how.from, how.key])
  }

  shape(): SetShape | null {
    const columns = this.columns.last
    return columns && this.keys ? { columns: columns.shown, rows: null, parameters: noParameters, key: this.keys.column } : null
  }

  sentence() {
    const count = this.keys?.labels.length ?? 0
    if (count === 0) return 'there is no row'
    if (this.at < 0) return `the row ${this.label ?? ''} is gone`
    return this.said || `row ${this.at + 1} of ${count}`
  }

  /** Where a moving tag leads; null: nowhere, since false moves nothing. */
  private wanted(keys: Keys, { part }: RecordItem, value: TagValue): number | null {
    if (part === 'number') return Number(value) >= 1 && Number(value) <= keys.labels.length ? Number(value) - 1 : -1
    if (part === 'key') return placeOf(keys, value)
    if (value !== true) return null
    const last = keys.labels.length - 1
    if (part === 'first' || part === 'last') return part === 'first' ? 0 : last
    // in the place of a row that is gone stands the one that came after it
    const step = part === 'next' ? (this.at < 0 ? 0 : 1) : -1
    return (this.at < 0 ? this.was : this.at) + step
  }

  private startAt(keys: Keys): number {
    return this.ground.set.how.starts === 'last' ? keys.labels.length - 1 : keys.labels.length > 0 ? 0 : -1
  }

  private keptLabel(): string | null {
    const { set, board, memory } = this.ground
    if (this.label !== null) return this.label
    const tag = set.how.starts === 'kept' ? board.tagOf(placeItem) : undefined
    const kept = tag && memory.get(tag.id)
    return kept ? labelIn(String(kept.value), this.of) : null
  }

  private keep(label: string) {
    const { set, board, memory } = this.ground
    const tag = set.how.starts === 'kept' && label !== this.keptAs ? board.tagOf(placeItem) : undefined
    if (!tag) return
    this.keptAs = label
    // where the disk fails it starts at the first row the next time
    memory.keep(tag.id, { type: 'string', value: JSON.stringify([this.of, label]), at: Date.now(), who: set.name }).catch(() => {})
  }

  private async point(keys: Keys, at: number, isNew: boolean) {
    const { board } = this.ground
    const store = this.ground.store()
    const key = keys.carried[at]
    if (key === undefined) {
      this.at = -1
      this.row = null
      const { shown } = this.columns.last ?? this.columns.of(await store.ask(this.asking().firstRows(0)), store.dialect)
      return board.show({ columns: shown, labels: null, rows: [] }, this.controls(keys), isNew)
    }
    const asked = await store.ask(this.asking().rowOf(key))
    const columns = this.columns.of(asked, store.dialect)
    const label = keys.labels[at]!
    if (asked.rows.length > 1) throw thrown(fault('records.same-key', { column: keys.column.name, key: label }))
    const [row] = asked.rows
    if (!row) return this.lost(label)
    this.at = this.was = at
    this.label = label
    this.row = row
    board.show({ columns: columns.shown, labels: null, rows: [valuesOf(columns, row)] }, this.controls(keys), isNew)
    this.keep(label)
  }

  /** It was there when the keys were read: they are read again. */
  private async lost(label: string) {
    this.label = label
    this.keys = await this.readKeys()
    if (this.keys.labels.includes(label)) throw thrown(fault('records.no-row', { row: label }))
    this.missed(label)
  }

  /** The row that it points at is gone: another one is never taken for it. */
  private missed(label: string) {
    const { board } = this.ground
    this.at = -1
    this.row = null
    this.label = label
    const columns = this.columns.last?.shown ?? []
    board.show({ columns, labels: null, rows: [] }, this.controls(this.keys!), false)
  }

  private controls({ labels, carried, column }: Keys): Controls {
    const key = carried[this.at]
    const keyValue = key === undefined ? undefined : readerOf(column, null)(key)
    const idle = { next: false, previous: false, first: false, last: false, again: false }
    return {
      ...idle,
      count: labels.length,
      position: this.at + 1,
      number: this.at + 1,
      ...(keyValue === undefined ? {} : { key: keyValue }),
    }
  }

  private async readKeys(): Promise<Keys> {
    const { how, name } = this.ground.set
    const store = this.ground.store()
    const asked = await store.ask(this.asking().keys())
    if (asked.rows.length > how.most) throw thrown(fault('records.too-many', { name, most: how.most }))
    const columns: ReadColumns = this.keyColumns.of(asked, store.dialect)
    return {
      column: this.keys?.column.type === columns.shown[0]!.type ? this.keys.column : setColumnOf(asked.columns[0]!, store.dialect),
      carried: asked.rows.map(([key]) => key!),
      labels: labelsOf(columns, asked.rows),
    }
  }

  private async writeBack(name: string, value: TagValue) {
    const { how } = this.ground.set
    const columns = this.columns.last
    const column = columns?.all.find((one) => one.name === name)
    if (!columns || !column || !how.writes.includes(name)) throw thrown(fault('records.not-written', { what: name }))
    const { row, label } = this
    if (!row || label === null) throw thrown(fault('records.no-row', { row: label ?? '' }))
    const cell = { column, label, key: row[columns.keyAt]!, before: row[columns.all.indexOf(column)]! }
    try {
      await writeCell(this.ground.store(), how, cell, carriedFor(value, column))
    } finally {
      await this.point(this.keys!, this.at, false)
    }
  }

  private asking(): SetStatements {
    return (this.statements ??= new SetStatements(this.ground.set.how, this.ground.store().dialect))
  }
}

const placeOf = ({ labels, carried, column }: Keys, value: TagValue): number => {
  const at = labels.indexOf(labelOf(carriedFor(value, column)))
  if (at >= 0) return at
  // 1.50 in the table is 1.5 as a number
  const read = readerOf(column, null)
  return carried.findIndex((key) => sameValue(read(key), value))
}

/** What was kept of other rows says nothing of these. */
const labelIn = (kept: string, of: string): string | null => {
  const read = keptContract.safeParse(jsonOrNull(kept))
  return read.success && read.data[0] === of ? read.data[1] : null
}

const jsonOrNull = (text: string): unknown => {
  try {
    return JSON.parse(text)
  } catch {
    return null
  }
}

import type { SetColumn } from '#core/records/columns'
import { followPlan, isNothing, type FollowPlan } from '#core/records/follow'
import { itemKey, type ItemPart, type RecordItem, type SetShape } from '#core/records/items'
import type { RecordSetDraft } from '#core/records/settings'
import { isGood, quality } from '#core/tags/quality'
import { toRaw } from '#core/tags/scaling'
import type { TagValue } from '#core/tags/types'
import { isFrom } from '#shared/sources/registry'
import type { RegisteredTag } from '../tags/tagRegister'
import type { Handle, TagTable } from '../table/tagTable'

/** What a set has at one moment. */
export interface SetImage {
  columns: readonly SetColumn[]
  /** How the rows are called, one for each; null: it has one row, or none. */
  labels: readonly string[] | null
  /** Values in the order of the columns; undefined: null in the database. */
  rows: readonly (readonly (TagValue | undefined)[])[]
}

/** What is told besides the values of columns. */
export type Controls = Partial<Record<Exclude<ItemPart, 'value' | 'parameter' | 'stamp' | 'change'>, TagValue>>

const ends = ['change', 'stamp'] as const

/**
 * The tags of one set. All that belongs to a set is written at once and told in one flush, of one time; how often it
 * changed and when it was whole are written last, so that whoever sees those sees the whole set.
 */
export class SetBoard {
  private byKey = new Map<string, RegisteredTag>()
  private byHandle = new Map<Handle, { tag: RegisteredTag; item: RecordItem }>()
  private image: SetImage | null = null
  private controls = new Map<string, TagValue>()
  private handlesOfRow = new Map<string, Int32Array>()
  /** Tags of another type than their column has: what comes is made to fit, or is none. */
  private unlike = new Set<Handle>()
  /** Why the values are not good now; null: they are. */
  private doubtCode: number | null = quality.BadWaitingForInitialData
  private planned: SetShape | null = null
  private isNewlyTaken = false
  changes = 0
  wholeAt = 0

  constructor(
    private table: TagTable,
    private set: Pick<RecordSetDraft, 'folder' | 'how'>,
  ) {}

  take(changed: readonly RegisteredTag[], removed: readonly Handle[]) {
    for (const handle of removed) this.forget(handle)
    for (const tag of changed) {
      if (!isFrom('record', tag)) continue
      this.forget(tag.handle)
      this.byHandle.set(tag.handle, { tag, item: tag.source })
      this.byKey.set(itemKey(tag.source), tag)
    }
    this.forgetPlaces()
    this.isNewlyTaken = true
    this.planned = null
    const places = this.image?.labels ? new Map(this.image.labels.map((label, i) => [label, i])) : null
    for (const tag of changed) this.showOne(tag, places)
  }

  /** Whatever is still on its way reaches no tag any more. */
  retire() {
    this.byKey.clear()
    this.byHandle.clear()
    this.forgetPlaces()
  }

  all(): RegisteredTag[] {
    return [...this.byHandle.values()].map(({ tag }) => tag)
  }

  itemOf(handle: Handle) {
    return this.byHandle.get(handle)
  }

  /** The tag of a part, where it has been made. */
  tagOf(item: RecordItem): RegisteredTag | undefined {
    return this.byKey.get(itemKey(item))
  }

  counts() {
    let goodTags = 0
    for (const handle of this.byHandle.keys()) if (isGood(this.table.quality[handle]!)) goodTags++
    return { tags: this.byHandle.size, goodTags }
  }

  get now(): SetImage | null {
    return this.image
  }

  control(part: keyof Controls): TagValue | undefined {
    return this.controls.get(part)
  }

  /**
   * The whole set at once.
   *
   * @param isNew whether it counts as another set even where every value is as it was
   */
  show(image: SetImage, controls: Controls, isNew: boolean) {
    const now = Date.now()
    const before = this.table.changes
    const { image: last } = this
    if (image.columns !== last?.columns) this.forgetPlaces()
    this.image = image
    this.doubtCode = null
    this.setValues(image, now, isNew)
    const isOtherShape = image.labels !== last?.labels || image.columns !== last?.columns || this.isNewlyTaken
    if (isOtherShape || image.rows.length === 0) this.missGone(image, now)
    this.isNewlyTaken = false
    const isOther = isNew || this.table.changes !== before || this.wholeAt === 0
    this.setControls(controls, now)
    if (isOther) this.setEnds(now)
    this.table.flush()
  }

  /** What is told besides the values; nothing of the set changes by it. */
  tell(controls: Controls) {
    this.setControls(controls, Date.now())
    this.table.flush()
  }

  /** What somebody wrote for a parameter. */
  setParameter(name: string, value: TagValue) {
    this.setControl(`parameter ${name}`, value, Date.now())
    this.table.flush()
  }

  /** The values are not what they were, or nobody knows: they stay and say so, all at once. */
  doubt(code: number, controls: Controls = {}) {
    const now = Date.now()
    this.doubtCode = code
    for (const { tag, item } of this.byHandle.values()) if (item.part === 'value') this.table.degrade(tag.handle, code, now)
    this.setControls(controls, now)
    this.table.flush()
  }

  /** All of it, also what it tells of itself: nothing runs. */
  shut(code: number) {
    const now = Date.now()
    for (const handle of this.byHandle.keys()) this.table.degrade(handle, code, now)
    this.table.flush()
  }

  /** What is to be done so that its tags are what it comes to; null: nothing, or nothing new. */
  plan(shape: SetShape): FollowPlan | null {
    if (this.planned && isSameShape(this.planned, shape)) return null
    this.planned = shape
    const known = [...this.byHandle.values()].map(({ tag, item }) => ({ ...item, id: tag.id, type: tag.type, access: tag.access }))
    const plan = followPlan(this.set, shape, known)
    return isNothing(plan) ? null : plan
  }

  /** The next look plans again, whatever came of the last plan. */
  planAgain() {
    this.planned = null
  }

  private forget(handle: Handle) {
    const known = this.byHandle.get(handle)
    if (!known) return
    this.byHandle.delete(handle)
    const key = itemKey(known.item)
    if (this.byKey.get(key)?.handle === handle) this.byKey.delete(key)
  }

  private setValues({ columns, labels, rows }: SetImage, now: number, isNew: boolean) {
    for (let r = 0; r < rows.length; r++) {
      const row = rows[r]!
      const handles = this.rowHandles(labels ? labels[r]! : '', columns)
      for (let c = 0; c < handles.length; c++) {
        const handle = handles[c]!
        if (handle < 0) continue
        this.setValue(handle, row[c], now)
        // what belongs together has one time
        if (isNew) this.table.sourceTime[handle] = now
      }
    }
  }

  /** Where the values of a row go, in the order of the columns; -1: nowhere. */
  private rowHandles(label: string, columns: readonly SetColumn[]): Int32Array {
    const known = this.handlesOfRow.get(label)
    if (known) return known
    const found = Int32Array.from(columns, ({ name, type }) => {
      const tag = this.byKey.get(itemKey({ part: 'value', column: name, row: label }))
      if (tag && tag.type !== type) this.unlike.add(tag.handle)
      return tag?.handle ?? -1
    })
    this.handlesOfRow.set(label, found)
    return found
  }

  private forgetPlaces() {
    this.handlesOfRow.clear()
    this.unlike.clear()
  }

  private setValue(handle: Handle, value: TagValue | undefined, now: number) {
    const { table } = this
    if (value === undefined) {
      table.degrade(handle, quality.BadNoData, now)
      return table.confirm(handle, now)
    }
    if (this.unlike.has(handle)) this.setFitting(handle, value, now)
    else table.set(handle, value, quality.Good, now)
  }

  private setFitting(handle: Handle, value: TagValue, now: number) {
    const fits = toRaw(value, this.byHandle.get(handle)!.tag.type, null)
    if (fits.ok) this.table.set(handle, fits.raw, quality.Good, now)
    else this.table.degrade(handle, quality.BadTypeMismatch, now)
  }

  /** Rows and columns that are there no more. */
  private missGone({ columns, labels, rows }: SetImage, now: number) {
    const called = new Set(labels ?? (rows.length > 0 ? [''] : []))
    const names = new Set(columns.map(({ name }) => name))
    for (const { tag, item } of this.byHandle.values())
      if (item.part === 'value' && !(called.has(item.row) && names.has(item.column))) this.table.degrade(tag.handle, quality.BadNoData, now)
  }

  private setControls(controls: Controls, now: number) {
    for (const [part, value] of Object.entries(controls)) this.setControl(part, value, now)
  }

  private setControl(key: string, value: TagValue, now: number) {
    this.controls.set(key, value)
    const tag = this.byKey.get(key.startsWith('parameter ') ? key : `${key} `)
    if (tag) this.setFitting(tag.handle, value, now)
  }

  private setEnds(now: number) {
    this.changes = (this.changes + 1) >>> 0
    this.wholeAt = now
    for (const part of ends) this.showEnd(part)
  }

  private showEnd(part: (typeof ends)[number]) {
    const tag = this.byKey.get(`${part} `)
    if (tag && this.wholeAt > 0)
      this.table.set(tag.handle, part === 'change' ? this.changes : this.wholeAt, quality.Good, this.wholeAt, this.wholeAt)
  }

  /** A tag that comes when the set has been read already. */
  private showOne(tag: RegisteredTag, places: ReadonlyMap<string, number> | null) {
    if (!isFrom('record', tag)) return
    const now = Date.now()
    const { part, column, row } = tag.source
    if (part === 'change' || part === 'stamp') return this.showEnd(part)
    if (part !== 'value') {
      const value = this.controls.get(part === 'parameter' ? `parameter ${column}` : part)
      if (value !== undefined) this.setFitting(tag.handle, value, now)
      return
    }
    if (!this.image) return
    const { columns, rows } = this.image
    const r = places ? (places.get(row) ?? -1) : rows.length - 1
    const c = columns.findIndex(({ name }) => name === column)
    if (r < 0 || c < 0 || !rows[r]) return this.table.degrade(tag.handle, quality.BadNoData, now)
    const value = rows[r][c]
    if (value === undefined) this.table.degrade(tag.handle, quality.BadNoData, now)
    else this.setFitting(tag.handle, value, this.wholeAt || now)
    if (this.doubtCode !== null) this.table.degrade(tag.handle, this.doubtCode, now)
  }
}

const isSameShape = (a: SetShape, b: SetShape) =>
  a.columns === b.columns && a.parameters === b.parameters && a.key === b.key && isSameList(a.rows, b.rows)

const isSameList = (a: readonly string[] | null, b: readonly string[] | null) =>
  a === b || (a !== null && b !== null && a.length === b.length && a.every((one, i) => one === b[i]))

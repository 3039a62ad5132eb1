import { carryingNotes } from './carrying'
import type { Note } from './kinds'
import { Names } from './names'
import type { Spot } from './spot'
import { Spots } from './spots'
import type { Made } from '../tags/scaling'
import type { DataType } from '../tags/types'

/** What notes need to know of a tag. */
export interface Noted extends Made {
  id: number
  path: string
  type: DataType
  range: { low: number; high: number } | null
}

/** More changes than this at once, and all is looked at anew. */
const mostSingly = 500

/**
 * The notes on all tags of a site, kept current by what changes: a change looks at the tag and at those that meet it,
 * not at the others.
 *
 * @example
 * const book = new NoteBook((tag) => spotOf(tag))
 * book.change(tags, [])
 * book.notesOf(7) // [{ kind: 'overlap', text: 'overlaps berth/1/power by 1 word', key: … }]
 */
export class NoteBook<T extends Noted> {
  private tags = new Map<number, T>()
  private spots = new Spots((id) => this.tags.get(id)!.path)
  private names = new Names()
  private notes = new Map<number, Note[]>()
  private stale = new Set<number>()
  private allStale = false
  private namesVersion = 0

  /** @param spotOf where a tag lies; null: nowhere that could be compared */
  constructor(private spotOf: (tag: T) => Spot | null) {}

  get size() {
    return this.tags.size
  }

  tag(id: number): T | undefined {
    return this.tags.get(id)
  }

  all(): IterableIterator<T> {
    return this.tags.values()
  }

  /** Tags that are new or changed, and those that are no more. */
  change(set: readonly T[], removed: readonly number[]) {
    if (set.length + removed.length > mostSingly) return this.changeMany(set, removed)
    for (const id of removed) this.removeOne(id)
    for (const tag of set) this.setOne(tag)
  }

  /** All notes on a tag, also those that were accepted. */
  notesOf(id: number): Note[] {
    this.refresh()
    return this.notes.get(id) ?? []
  }

  /** What would be to be said of a tag as it is typed; `id` is whose place it takes. */
  preview(tag: T, id: number | null): Note[] {
    const spot = this.spotOf(tag)
    return [...(spot ? this.spots.notesAt(spot, id) : []), ...carryingNotes(tag, spot?.most), ...this.names.notesOn(id, tag.path)]
  }

  /** Every tag with notes, with all of them. */
  *noted(): Generator<[T, Note[]]> {
    this.refresh()
    for (const [id, notes] of this.notes) yield [this.tags.get(id)!, notes]
  }

  /** Looks at what changed since the last time. */
  refresh() {
    if (this.allStale || this.names.version !== this.namesVersion) for (const id of this.tags.keys()) this.stale.add(id)
    this.allStale = false
    this.namesVersion = this.names.version
    for (const id of this.stale) this.look(id)
    this.stale.clear()
  }

  private look(id: number) {
    const tag = this.tags.get(id)
    const notes = tag
      ? [...this.spots.notesOf(id), ...carryingNotes(tag, this.spots.of(id)?.most), ...this.names.notesOn(id, tag.path)]
      : []
    if (notes.length > 0) this.notes.set(id, notes)
    else this.notes.delete(id)
  }

  private removeOne(id: number) {
    const tag = this.tags.get(id)
    if (!tag) return
    this.markAround(id, tag.path)
    this.spots.remove(id)
    this.names.remove(id, tag.path)
    this.tags.delete(id)
  }

  private setOne(tag: T) {
    this.removeOne(tag.id)
    this.tags.set(tag.id, tag)
    const spot = this.spotOf(tag)
    if (spot) this.spots.set(tag.id, spot)
    this.names.add(tag.id, tag.path)
    this.markAround(tag.id, tag.path)
  }

  private markAround(id: number, path: string) {
    this.stale.add(id)
    for (const other of this.spots.neighbours(id)) this.stale.add(other)
    for (const other of this.names.alike(id, path)) this.stale.add(other)
  }

  private changeMany(set: readonly T[], removed: readonly number[]) {
    const gone = new Set(removed)
    for (const { id } of set) if (this.tags.has(id)) gone.add(id)
    this.spots.removeAll(gone)
    for (const id of gone) {
      const tag = this.tags.get(id)
      if (!tag) continue
      this.names.remove(id, tag.path)
      this.tags.delete(id)
    }
    for (const id of removed) this.notes.delete(id)
    for (const tag of set) {
      this.tags.set(tag.id, tag)
      this.names.add(tag.id, tag.path)
    }
    this.spots.addAll(
      set.flatMap((tag) => {
        const spot = this.spotOf(tag)
        return spot ? [{ id: tag.id, spot }] : []
      }),
    )
    this.allStale = true
  }
}

import { isGood } from '#core/tags/quality'
import { RegisterMap } from '#core/modbus/map/registerMap'
import type { MapWays } from '#core/modbus/map/ways'
import type { MapEntry } from '#core/modbus/map/entry'
import type { Handle, TagTable } from '../../table/tagTable'
import type { OutletTag } from '../driver'

const mostTroublesShown = 100

/** The tags of the site on the registers of a map: what changes in the table changes there at once. */
export class MappedTags {
  private map!: RegisterMap
  private tags = new Map<string, OutletTag>()
  private paths = new Map<Handle, string>()
  /** Where the entries of a path stand in the map. */
  private byPath = new Map<string, number[]>()
  private byHandle = new Map<Handle, readonly number[]>()
  private troubles = new Map<number, string>()
  private good!: Uint8Array
  private goodCount = 0
  /** Changes that reached a register. */
  told = 0

  constructor(
    private table: Pick<TagTable, 'values' | 'quality'>,
    entries: readonly MapEntry[],
    ways: MapWays,
  ) {
    this.take(entries, ways)
  }

  get registers(): RegisterMap {
    return this.map
  }

  take(entries: readonly MapEntry[], ways: MapWays) {
    this.map = new RegisterMap(entries, ways)
    this.good = new Uint8Array(entries.length)
    this.goodCount = 0
    this.troubles.clear()
    this.byPath.clear()
    this.byHandle.clear()
    entries.forEach(({ path }, index) => {
      const known = this.byPath.get(path)
      if (known) known.push(index)
      else this.byPath.set(path, [index])
    })
    for (const [path, indices] of this.byPath) this.bind(path, indices)
  }

  setTags(changed: readonly OutletTag[], removed: readonly Handle[]) {
    for (const handle of removed) this.forget(handle)
    for (const tag of changed) {
      this.forget(tag.handle)
      this.tags.set(tag.path, tag)
      this.paths.set(tag.handle, tag.path)
      const indices = this.byPath.get(tag.path)
      if (indices) this.bind(tag.path, indices)
    }
  }

  /** These have something else now. */
  changed(handles: readonly Handle[]) {
    for (const handle of handles) {
      const indices = this.byHandle.get(handle)
      if (!indices) continue
      this.tell(handle, indices)
      this.told += indices.length
    }
  }

  tagAt(index: number): OutletTag | null {
    return this.tags.get(this.map.entries[index]!.path) ?? null
  }

  has(path: string) {
    return this.byPath.has(path)
  }

  status() {
    const troubled = [...this.troubles].slice(0, mostTroublesShown).map(([index, problem]) => {
      const { path, at } = this.map.entries[index]!
      return { path, at, problem }
    })
    const entries = this.map.entries.length
    return { entries, notGood: entries - this.goodCount, troubled, troubledCount: this.troubles.size }
  }

  private bind(path: string, indices: readonly number[]) {
    const tag = this.tags.get(path)
    if (tag) {
      this.byHandle.set(tag.handle, indices)
      return this.tell(tag.handle, indices)
    }
    for (const index of indices) this.put(index, undefined, false, 'there is no such tag')
  }

  private tell(handle: Handle, indices: readonly number[]) {
    const [value, good] = [this.table.values[handle], isGood(this.table.quality[handle]!)]
    for (const index of indices) this.put(index, value, good, null)
  }

  private put(index: number, value: Parameters<RegisterMap['tell']>[1], good: boolean, why: string | null) {
    const problem = this.map.tell(index, value, good) ?? why
    if (problem !== null) this.troubles.set(index, problem)
    else this.troubles.delete(index)
    const isTold = Number(good && problem === null)
    this.goodCount += isTold - this.good[index]!
    this.good[index] = isTold
  }

  private forget(handle: Handle) {
    const path = this.paths.get(handle)
    if (path === undefined) return
    this.paths.delete(handle)
    this.byHandle.delete(handle)
    // another tag may have this path by now
    if (this.tags.get(path)?.handle !== handle) return
    this.tags.delete(path)
    const indices = this.byPath.get(path)
    if (indices) this.bind(path, indices)
  }
}

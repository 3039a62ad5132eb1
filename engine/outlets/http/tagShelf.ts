import { isGood } from '#core/tags/quality'
import { sampleJson } from '#core/outlets/published'
import { carriedOf } from '#core/bridges/tagValue'
import type { Carried } from '#core/messages/carried'
import type { Handle, TagTable } from '../../table/tagTable'
import type { OutletTag } from '../driver'

/** The tags of the site by their paths, as programs ask for them. */
export class TagShelf {
  private byPath = new Map<string, OutletTag>()
  private byHandle = new Map<Handle, OutletTag>()
  /** In the order of their paths; null: it has to be made again. */
  private sorted: OutletTag[] | null = null
  /** The beginning of what is said of a tag, which only a change of the tag changes. */
  private heads = new Map<Handle, string>()
  /** What was said of a tag since it changed last; it is asked for again and again. */
  private texts = new Map<Handle, string>()
  /** Another one: there are other tags. */
  version = 0

  constructor(private table: TagTable) {}

  setTags(changed: readonly OutletTag[], removed: readonly Handle[]) {
    for (const handle of removed) this.forget(handle)
    for (const tag of changed) {
      this.forget(tag.handle)
      this.byPath.set(tag.path, tag)
      this.byHandle.set(tag.handle, tag)
      this.heads.set(tag.handle, `{"path":${JSON.stringify(tag.path)},"type":"${tag.type}",`)
    }
    this.sorted = null
    this.version++
  }

  get(path: string): OutletTag | undefined {
    return this.byPath.get(path)
  }

  of(handle: Handle): OutletTag | undefined {
    return this.byHandle.get(handle)
  }

  get size() {
    return this.byPath.size
  }

  /** Of a folder with all below it; the empty one is the whole site. By path. */
  *in(folder: string): Iterable<OutletTag> {
    this.sorted ??= [...this.byPath.values()].sort((a, b) => (a.path < b.path ? -1 : 1))
    const prefix = folder === '' ? '' : `${folder}/`
    for (let at = prefix === '' ? 0 : this.firstFrom(prefix); at < this.sorted.length; at++) {
      const tag = this.sorted[at]!
      if (!tag.path.startsWith(prefix)) return
      yield tag
    }
  }

  /**
   * What a tag has now: {"path":…,"type":…,"value":…,"time":…,"quality":…,"unit":…}. Without a unit there is none of it.
   */
  text(tag: OutletTag): string {
    const known = this.texts.get(tag.handle)
    if (known !== undefined) return known
    const text = this.textNow(tag)
    this.texts.set(tag.handle, text)
    return text
  }

  /** These have something else now. */
  changed(handles: readonly Handle[]) {
    for (const handle of handles) this.texts.delete(handle)
  }

  private textNow({ handle, type, unit, names }: OutletTag): string {
    const { table } = this
    const sample = {
      value: table.values[handle],
      quality: table.quality[handle]!,
      sourceTime: table.sourceTime[handle]!,
      type,
      unit,
      names,
    }
    return this.heads.get(handle)! + sampleJson(sample).slice(1)
  }

  /** A value that can be used without its quality: null unless it is good. */
  goodValue({ handle, type }: OutletTag): Carried {
    const { table } = this
    const value = table.values[handle]
    return isGood(table.quality[handle]!) && value !== undefined ? carriedOf(value, type) : null
  }

  private firstFrom(path: string): number {
    const sorted = this.sorted!
    let [low, high] = [0, sorted.length]
    while (low < high) {
      const middle = (low + high) >> 1
      if (sorted[middle]!.path < path) low = middle + 1
      else high = middle
    }
    return low
  }

  private forget(handle: Handle) {
    const tag = this.byHandle.get(handle)
    if (!tag) return
    this.byHandle.delete(handle)
    this.heads.delete(handle)
    this.texts.delete(handle)
    // another tag may have this path by now
    if (this.byPath.get(tag.path)?.handle === handle) this.byPath.delete(tag.path)
  }
}

import { pathMatcher } from '#core/tags/pattern'
import type { Handle, TagTable } from '../table/tagTable'
import type { Sample, SampleRing } from '../table/sampleRing'
import type { RegisteredTag, TagRegister } from '../tags/tagRegister'

/** So many samples of a tag wait until bridges have looked at them. */
const mostWaiting = 1000

/** Somebody who looks at every sample of some tags. */
export interface Watcher {
  pattern: string
  take(tag: RegisteredTag, sample: Sample): void
  /** Samples that nobody looked at, because more came than could be. */
  lost(count: number): void
  /** The tag goes, or has another source: what was seen of it says nothing any more. */
  forget(tag: RegisteredTag): void
}

interface Followed {
  tag: RegisteredTag
  ring: SampleRing
  lost: number
  end(): void
  watchers: Set<Watcher>
}

/** Hands every sample of the tags that bridges look at to those bridges, right after the flush that brought it. */
export class TagWatch {
  private watchers = new Map<Watcher, (path: string) => boolean>()
  private followed = new Map<Handle, Followed>()
  private dirty = new Set<Followed>()
  private stopListening: () => void

  constructor(
    table: TagTable,
    private tags: TagRegister,
  ) {
    this.table = table
    this.stopListening = table.listen((handles) => this.heard(handles))
  }

  private table: TagTable

  add(watcher: Watcher) {
    const matches = pathMatcher(watcher.pattern)
    this.watchers.set(watcher, matches)
    const one = this.tags.byPath(watcher.pattern)
    if (one) this.follow(one, watcher)
    else if (watcher.pattern.includes('*')) for (const tag of this.tags.all()) if (matches(tag.path)) this.follow(tag, watcher)
  }

  remove(watcher: Watcher) {
    this.watchers.delete(watcher)
    for (const followed of this.followed.values()) if (followed.watchers.delete(watcher)) this.endUnwatched(followed)
  }

  /** Tags came, changed or went. */
  tagsChanged(set: readonly RegisteredTag[], removed: readonly RegisteredTag[]) {
    for (const tag of removed) this.leave(tag)
    if (this.watchers.size === 0) return
    for (const tag of set) this.place(tag)
  }

  close() {
    this.stopListening()
    for (const followed of this.followed.values()) followed.end()
    this.followed.clear()
  }

  private place(tag: RegisteredTag) {
    const known = this.followed.get(tag.handle)
    if (known) {
      for (const watcher of known.watchers)
        if (!this.watchers.get(watcher)?.(tag.path)) {
          known.watchers.delete(watcher)
          watcher.forget(known.tag)
        }
      known.tag = tag
      this.endUnwatched(known)
    }
    for (const [watcher, matches] of this.watchers) if (matches(tag.path)) this.follow(tag, watcher)
  }

  private follow(tag: RegisteredTag, watcher: Watcher) {
    const followed = this.followed.get(tag.handle) ?? this.begin(tag)
    if (followed.watchers.has(watcher)) return
    followed.watchers.add(watcher)
    const { values, quality, sourceTime, seenAt } = this.table
    const { handle } = tag
    watcher.take(tag, { value: values[handle], quality: quality[handle]!, sourceTime: sourceTime[handle]!, seenAt: seenAt[handle]! })
  }

  private begin(tag: RegisteredTag): Followed {
    const { ring, end } = this.table.follow(tag.handle, mostWaiting)
    ring.drain()
    const followed = { tag, ring, end, lost: 0, watchers: new Set<Watcher>() }
    this.followed.set(tag.handle, followed)
    return followed
  }

  private leave(tag: RegisteredTag) {
    const known = this.followed.get(tag.handle)
    if (!known) return
    for (const watcher of known.watchers) watcher.forget(known.tag)
    known.watchers.clear()
    this.endUnwatched(known)
  }

  private endUnwatched(followed: Followed) {
    if (followed.watchers.size > 0) return
    followed.end()
    this.dirty.delete(followed)
    if (this.followed.get(followed.tag.handle) === followed) this.followed.delete(followed.tag.handle)
  }

  /** Within a flush: only noted. */
  private heard(handles: readonly Handle[]) {
    if (this.followed.size === 0) return
    const before = this.dirty.size
    for (const handle of handles) {
      const followed = this.followed.get(handle)
      if (followed) this.dirty.add(followed)
    }
    if (before === 0 && this.dirty.size > 0) queueMicrotask(() => this.look())
  }

  private look() {
    const dirty = [...this.dirty]
    this.dirty.clear()
    for (const followed of dirty) {
      const { ring, tag, watchers } = followed
      const samples = ring.drain()
      for (const watcher of watchers) for (const sample of samples) watcher.take(tag, sample)
      if (ring.lost === followed.lost) continue
      for (const watcher of watchers) watcher.lost(ring.lost - followed.lost)
      followed.lost = ring.lost
    }
  }
}

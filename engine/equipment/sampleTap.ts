import type { Handle, TagTable } from '../table/tagTable'
import type { Sample, SampleRing } from '../table/sampleRing'
import type { TagRegister } from '../tags/tagRegister'
import { Readers } from './readers'

/** Somebody who looks at every sample of one tag. */
export interface SampleReader {
  take(sample: Sample): void
  /** One of a time that is past took the place of another; absent: nothing follows from that. */
  correct?(sample: Sample): void
  /** There is no such tag, or not any more. */
  gone(): void
  /** So many samples gave way to later ones before they could be looked at. */
  lost(count: number): void
}

interface Followed {
  ring: SampleRing
  lost: number
  end(): void
}

/** So many samples of a tag wait until they have been looked at. */
const mostWaiting = 2000

/** Hands every sample of tags to those who read them by their paths, right after the flush that brought it. */
export class SampleTap {
  private readers: Readers<SampleReader>
  private followed = new Map<Handle, Followed>()
  private dirty = new Set<Handle>()
  private stopListening: () => void

  constructor(
    private table: TagTable,
    private tags: TagRegister,
  ) {
    this.readers = new Readers(tags)
    this.stopListening = table.listen((handles) => this.heard(handles))
  }

  add(reader: SampleReader, path: string) {
    this.readers.add(reader, [path])
    this.begin(reader, path)
  }

  remove(reader: SampleReader) {
    this.readers.remove(reader)
    for (const handle of this.followed.keys()) if (!this.readers.of(handle)) this.letGo(handle)
  }

  /** A sample that was told otherwise before. */
  correct(handle: Handle, sample: Sample) {
    for (const reader of this.readers.of(handle) ?? []) reader.correct?.(sample)
  }

  /** Tags came, changed or went. */
  tagsChanged(paths: ReadonlySet<string>) {
    for (const reader of this.readers.moved(paths)) this.begin(reader, this.readers.pathsOf(reader)[0]!)
    for (const handle of this.followed.keys()) if (!this.readers.of(handle)) this.letGo(handle)
  }

  close() {
    this.stopListening()
    for (const handle of [...this.followed.keys()]) this.letGo(handle)
  }

  private begin(reader: SampleReader, path: string) {
    const handle = this.tags.byPath(path)?.handle
    if (handle === undefined) return reader.gone()
    const { values, quality, sourceTime, seenAt } = this.table
    if (!this.followed.has(handle)) {
      const { ring, end } = this.table.follow(handle, mostWaiting)
      ring.drain()
      this.followed.set(handle, { ring, end, lost: 0 })
    }
    reader.take({ value: values[handle], quality: quality[handle]!, sourceTime: sourceTime[handle]!, seenAt: seenAt[handle]! })
  }

  private letGo(handle: Handle) {
    this.followed.get(handle)?.end()
    this.followed.delete(handle)
    this.dirty.delete(handle)
  }

  /** Within a flush: only noted. */
  private heard(handles: readonly Handle[]) {
    if (this.followed.size === 0) return
    const before = this.dirty.size
    for (const handle of handles) if (this.followed.has(handle)) this.dirty.add(handle)
    if (before === 0 && this.dirty.size > 0) queueMicrotask(() => this.look())
  }

  private look() {
    const handles = [...this.dirty]
    this.dirty.clear()
    for (const handle of handles) {
      const followed = this.followed.get(handle)
      const readers = this.readers.of(handle)
      if (!followed || !readers) continue
      const samples = followed.ring.drain()
      for (const reader of readers) for (const sample of samples) reader.take(sample)
      const lost = followed.ring.lost - followed.lost
      followed.lost = followed.ring.lost
      if (lost > 0) for (const reader of readers) reader.lost(lost)
    }
    this.table.flush()
  }
}

import type { Handle } from '../table/tagTable'
import type { TagRegister } from '../tags/tagRegister'

/** Who reads which tag, by its path, whether it is there or not; and by its handle, as long as it is. */
export class Readers<T> {
  private byPath = new Map<string, Set<T>>()
  private byHandle = new Map<Handle, Set<T>>()
  private paths = new Map<T, readonly string[]>()

  private handles = new Map<T, Set<Handle>>()

  constructor(private tags: TagRegister) {}

  add(reader: T, paths: readonly string[]) {
    this.remove(reader)
    this.paths.set(reader, paths)
    for (const path of paths) {
      put(this.byPath, path, reader)
      const handle = this.tags.byPath(path)?.handle
      if (handle === undefined) continue
      put(this.byHandle, handle, reader)
      put(this.handles, reader, handle)
    }
  }

  remove(reader: T) {
    for (const path of this.pathsOf(reader)) take(this.byPath, path, reader)
    this.paths.delete(reader)
    for (const handle of this.handles.get(reader) ?? []) take(this.byHandle, handle, reader)
    this.handles.delete(reader)
  }

  /** These paths mean other tags from now on. @returns whose they are */
  moved(paths: Iterable<string>): Set<T> {
    const touched = new Set<T>()
    for (const path of paths) for (const reader of this.byPath.get(path) ?? []) touched.add(reader)
    for (const reader of touched) this.add(reader, this.pathsOf(reader))
    return touched
  }

  pathsOf(reader: T): readonly string[] {
    return this.paths.get(reader) ?? []
  }

  of(handle: Handle): ReadonlySet<T> | undefined {
    return this.byHandle.get(handle)
  }
}

const put = <K, T>(map: Map<K, Set<T>>, key: K, value: T) => {
  const set = map.get(key)
  if (set) set.add(value)
  else map.set(key, new Set([value]))
}
const take = <K, T>(map: Map<K, Set<T>>, key: K, value: T) => {
  const set = map.get(key)
  set?.delete(value)
  if (set?.size === 0) map.delete(key)
}

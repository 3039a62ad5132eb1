import { folderOf } from '../tags/path'
import { note, type Note } from './kinds'

/** Paths that differ in capitals only, as a whole or in one of their folders. */
export class Names {
  private tags = new Map<string, Map<number, string>>()
  /** Folders by what they are without capitals, each with how it is written and by how many tags. */
  private folders = new Map<string, Map<string, number>>()
  /** Folders that are written in more than one way. */
  private ambiguous = new Set<string>()
  /** Grows whenever notes on folders may have changed. */
  version = 0

  add(id: number, path: string) {
    const key = path.toLowerCase()
    const same = this.tags.get(key)
    if (same) same.set(id, path)
    else this.tags.set(key, new Map([[id, path]]))
    this.count(path, 1)
  }

  remove(id: number, path: string) {
    const key = path.toLowerCase()
    const same = this.tags.get(key)
    same?.delete(id)
    if (same?.size === 0) this.tags.delete(key)
    this.count(path, -1)
  }

  /** Whose whole path is the same but for capitals. */
  alike(id: number | null, path: string): number[] {
    return [...(this.tags.get(path.toLowerCase())?.keys() ?? [])].filter((other) => other !== id)
  }

  notesOn(id: number | null, path: string): Note[] {
    const same = this.tags.get(path.toLowerCase())
    if (same && same.size > (same.has(id ?? -1) ? 1 : 0)) {
      const other = [...same].find(([otherId, otherPath]) => otherId !== id && otherPath !== path)
      if (other) return [note('case', `is written ${other[1]} elsewhere`, path.toLowerCase())]
    }
    return this.ambiguous.size === 0 ? [] : this.folderNote(path)
  }

  /** Only those are told who write a folder as fewer do; the outermost says it. */
  private folderNote(path: string): Note[] {
    for (let end = path.indexOf('/'); end > 0; end = path.indexOf('/', end + 1)) {
      const folder = path.slice(0, end)
      const key = folder.toLowerCase()
      if (!this.ambiguous.has(key)) continue
      const [usual, count] = [...this.folders.get(key)!].sort((a, b) => b[1] - a[1] || (a[0] < b[0] ? -1 : 1))[0]!
      if (usual !== folder) return [note('case', `lies in ${folder}, which ${count.toLocaleString('en-GB')} others write ${usual}`, key)]
    }
    return []
  }

  private count(path: string, step: 1 | -1) {
    for (let folder = folderOf(path); folder !== ''; folder = folderOf(folder)) {
      const key = folder.toLowerCase()
      const written = this.folders.get(key) ?? new Map<string, number>()
      this.folders.set(key, written)
      const count = (written.get(folder) ?? 0) + step
      if (count > 0) written.set(folder, count)
      else written.delete(folder)
      if (written.size === 0) this.folders.delete(key)
      this.judge(key, written.size > 1)
    }
  }

  private judge(key: string, isAmbiguous: boolean) {
    if (!isAmbiguous && !this.ambiguous.has(key)) return
    this.version++
    if (isAmbiguous) this.ambiguous.add(key)
    else this.ambiguous.delete(key)
  }
}

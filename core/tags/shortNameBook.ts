import { foldersAbove, NameGiver, type Named, type ShortName } from './shortNames'

interface Tag {
  id: number
  path: string
}

/**
 * The short names of a site that changes. Nearly every change touches the names of its own tags only, and is
 * followed at once. Where a name is contested, or chosen by a person, everybody's claims count: then all are given
 * anew, a few at a time, and the names of before hold until that is done.
 */
export class ShortNameBook {
  private tags = new Map<number, string>()
  private taken = new Set<string>()
  /** How many tags there are below each folder. */
  private folders = new Map<string, number>()
  private youngest = 0
  private names: NameGiver
  /** Names are contested: all have to be given anew. */
  needsAll = false
  private changes = 0

  /** @param own names that were chosen for tags and folders, by path. */
  constructor(
    private own: ReadonlyMap<string, string>,
    private most: number,
  ) {
    this.names = new NameGiver(most)
  }

  /** The name of a tag or folder; undefined while it has none yet. */
  of(path: string): ShortName | undefined {
    return this.names.byPath.get(path)
  }

  /** Takes note of tags that are new, moved or gone. Returns whether all names have to be given anew. */
  change(set: readonly Tag[], removed: readonly number[]): boolean {
    const fresh = set.filter(({ id, path }) => this.tags.get(id) !== path).sort((a, b) => a.id - b.id)
    this.changes += fresh.length + removed.length
    for (const id of [...removed, ...fresh.map(({ id }) => id)]) this.remove(id)
    for (const tag of fresh) this.add(tag)
    return this.needsAll
  }

  /** Gives all names anew, with pauses; at the end they take the place of those before. */
  *giveAll(): Generator<void> {
    for (;;) {
      const seen = this.changes
      const anew = new NameGiver(this.most)
      yield* anew.giveAll(yield* this.everything())
      if (seen !== this.changes) continue
      this.names = anew
      this.needsAll = false
      return
    }
  }

  private *everything(): Generator<void, Named[]> {
    const all: Named[] = []
    const ages = new Map<string, number>()
    for (const [id, path] of this.tags) {
      all.push({ path, age: id, own: this.own.get(path) ?? null })
      for (const folder of foldersAbove(path)) ages.set(folder, Math.min(ages.get(folder) ?? Infinity, id))
      if (all.length % tagsInOneGo === 0) yield
    }
    for (const [path, age] of ages) if (!this.taken.has(path)) all.push({ path, age, own: this.own.get(path) ?? null })
    return all
  }

  private add({ id, path }: Tag) {
    const isYoungest = id > this.youngest
    this.youngest = Math.max(this.youngest, id)
    this.tags.set(id, path)
    if (this.taken.has(path) || this.folders.has(path)) this.needsAll = true
    this.taken.add(path)
    for (const folder of [...foldersAbove(path)].reverse()) {
      const below = this.folders.get(folder) ?? 0
      this.folders.set(folder, below + 1)
      if (below === 0) this.name(folder, isYoungest)
      else if (!isYoungest) this.needsAll ||= this.ageMatters(folder)
    }
    this.name(path, isYoungest)
  }

  /** The youngest takes what is left; whoever comes between others may have a better right than they. */
  private name(path: string, isYoungest: boolean) {
    this.needsAll ||= this.own.has(path) || this.names.byPath.has(path) || (!isYoungest && this.names.isContested(path))
    if (!this.needsAll) this.names.giveMade(path)
  }

  private remove(id: number) {
    const path = this.tags.get(id)
    if (path === undefined) return
    this.tags.delete(id)
    this.taken.delete(path)
    this.unname(path)
    for (const folder of foldersAbove(path)) {
      const below = this.folders.get(folder)! - 1
      if (below > 0) {
        this.folders.set(folder, below)
        this.needsAll ||= this.ageMatters(folder)
        continue
      }
      this.folders.delete(folder)
      this.unname(folder)
    }
  }

  /** A folder is as old as its oldest tag, and the older one has the better right. */
  private ageMatters(folder: string): boolean {
    return this.own.has(folder) || this.names.isContested(folder)
  }

  private unname(path: string) {
    const isFree =
      !this.own.has(path) && !this.names.isContested(path) && !this.names.isTangled && !this.folders.has(path) && !this.taken.has(path)
    this.needsAll ||= !isFree
    if (!this.needsAll) this.names.takeBack(path)
  }
}

const tagsInOneGo = 500

import { folderOf } from '../tags/path'

/** What may be done with the tags of a folder. `write`: reading, and writing where a tag itself may be written. */
export const rights = ['nothing', 'read', 'write'] as const
export type Right = (typeof rights)[number]

export const rightText: Record<Right, string> = {
  nothing: 'nothing',
  read: 'read',
  write: 'read, write where mapped',
}

/** One folder with all below it; the empty one is the whole site. */
export interface FolderRule {
  folder: string
  may: Right
}

/** Decides by the closest folder that a rule speaks of; where none does: nothing. */
export class FolderRules {
  private byFolder: ReadonlyMap<string, Right>
  /** What holds everywhere, where one rule for the whole site is all there is; else null. */
  readonly everywhere: Right | null

  constructor(rules: readonly FolderRule[]) {
    this.byFolder = new Map(rules.map(({ folder, may }) => [folder, may]))
    this.everywhere = [...this.byFolder.keys()].every((folder) => folder === '') ? (this.byFolder.get('') ?? 'nothing') : null
  }

  /** @param path of a tag, or of a folder. */
  at(path: string): Right {
    if (this.everywhere) return this.everywhere
    for (let at = path; at !== ''; at = folderOf(at)) {
      const found = this.byFolder.get(at)
      if (found) return found
    }
    return this.byFolder.get('') ?? 'nothing'
  }

  /** Whether anything in this folder or below may be read: else nobody needs to see it. */
  opens(folder: string): boolean {
    if (this.at(folder) !== 'nothing') return true
    const prefix = `${folder}/`
    return [...this.byFolder].some(([other, may]) => may !== 'nothing' && (folder === '' || other.startsWith(prefix)))
  }
}

export const lesser = (a: Right, b: Right): Right => (rights.indexOf(a) <= rights.indexOf(b) ? a : b)

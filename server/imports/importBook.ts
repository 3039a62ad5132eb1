import { fault } from '#core/faults/catalogue'
import type { ImportSettings } from '#shared/imports'
import { Refusal } from '../answers/refusal'
import { StagedImport } from './stagedImport'

const most = 8
const mostBytes = 384 * 1024 * 1024
/** After so long without anybody looking at it, a table is put away. */
const keptMs = 2 * 3_600_000

/** The tables that were sent and not put away; where there are too many, those that nobody looked at for longest make room. */
class ImportBook {
  private staged = new Map<number, StagedImport>()
  private lastId = 0

  add(name: string, who: string, bytes: Uint8Array, settings: ImportSettings): StagedImport {
    this.makeRoom(bytes.length)
    const made = new StagedImport(++this.lastId, name, who, bytes, settings)
    this.staged.set(made.id, made)
    return made
  }

  get(id: number): StagedImport {
    this.putOldAway()
    const found = this.staged.get(id)
    if (!found) throw new Refusal(fault('import.gone', { id }))
    found.usedAt = Date.now()
    return found
  }

  all(): StagedImport[] {
    this.putOldAway()
    return [...this.staged.values()]
  }

  putAway(id: number): Promise<number | null> {
    const found = this.get(id)
    this.staged.delete(id)
    return found.putAway()
  }

  private makeRoom(bytes: number) {
    this.putOldAway()
    while (this.staged.size >= most || this.bytes + bytes > mostBytes) {
      const [oldest] = [...this.staged.values()].filter(({ isBusy }) => !isBusy).sort((a, b) => a.usedAt - b.usedAt)
      if (!oldest) throw new Refusal(fault('import.many', { most: this.staged.size }))
      this.staged.delete(oldest.id)
    }
  }

  private get bytes() {
    return [...this.staged.values()].reduce((sum, { size }) => sum + size, 0)
  }

  private putOldAway() {
    for (const { id, usedAt, isBusy } of this.staged.values()) if (!isBusy && Date.now() - usedAt > keptMs) this.staged.delete(id)
  }
}

export const importBook = new ImportBook()

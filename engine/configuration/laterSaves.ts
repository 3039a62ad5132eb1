import { Backoff } from '#pacing/backoff'
import type { JournalWriter } from '../journal/journal'

interface Later {
  /** Of which thing it is told in the journal. */
  source: string
  /** In words what was done; null where nothing was left to be done. */
  save(): Promise<string | null>
}

/**
 * What the engine found out and wants in the configuration for good: tags that are to be made, changed and removed. One thing after
 * the other; while the database of the site is away it waits.
 */
export class LaterSaves {
  private waiting = new Map<number, Later>()
  private backoff = new Backoff(500, 30_000)
  private timer: NodeJS.Timeout | null = null
  private saving: Promise<void> | null = null
  private closed = false

  constructor(private journal: JournalWriter) {}

  /** A later one of the same thing takes the place of one that still waits. */
  add(id: number, later: Later) {
    this.waiting.set(id, later)
    if (!this.timer) this.saving ??= this.save().finally(() => (this.saving = null))
  }

  async close() {
    this.closed = true
    if (this.timer) clearTimeout(this.timer)
    await this.saving
  }

  private async save() {
    this.timer = null
    while (this.waiting.size > 0 && !this.closed) {
      const [id, later] = [...this.waiting][0]!
      try {
        const done = await later.save()
        if (done) this.journal.note(later.source, done)
        if (this.waiting.get(id) === later) this.waiting.delete(id)
        this.backoff.reset()
      } catch (error) {
        if (this.closed) return
        this.journal.caution(later.source, `Its tags could not be made yet: ${(error as Error).message}`)
        return this.later()
      }
    }
  }

  private later() {
    this.timer ??= setTimeout(() => {
      this.timer = null
      this.saving ??= this.save().finally(() => (this.saving = null))
    }, this.backoff.next())
  }
}

import type { Entry, KeptEntry } from '#core/journal/entry'
import { Folding } from '#core/journal/folding'
import type { JournalKeeping } from '#core/journal/settings'
import { earliestNow } from '#pacing/clock'
import { shownText } from './shown'

const dayMs = 86_400_000

/** Events in memory only: folded, the newest of them; they end with the engine. */
export class EventMemory {
  private folding = new Folding<KeptEntry>()
  private entries: KeptEntry[] = []
  private lastId = 0

  constructor(private keeping: () => JournalKeeping) {}

  add(entry: Entry) {
    const kept = { ...entry, source: shownText(entry.source), text: shownText(entry.text), id: ++this.lastId }
    if (this.folding.again(kept)) return
    this.entries.push(kept)
    const { most } = this.keeping()
    // in larger steps: taking one out of the front moves all others
    if (this.entries.length > most + (most >> 4)) this.tidy()
  }

  /** All of them, the oldest first. */
  all(): readonly KeptEntry[] {
    return this.entries
  }

  /** Keeps as many as may be kept, now. */
  tidy() {
    const { most, days } = this.keeping()
    const oldest = days === null ? 0 : earliestNow() - days * dayMs
    const young = this.entries.findIndex(({ lastAt }) => lastAt >= oldest)
    const tooMany = Math.max(this.entries.length - most, young === -1 ? this.entries.length : young)
    for (const entry of this.entries.splice(0, tooMany)) this.folding.forget(entry)
  }
}

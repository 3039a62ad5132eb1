import type { JournalSeverity, EntryFilter, KeptEntry } from '#core/journal/entry'
import type { EntriesAsked } from '#core/journal/paged'
import type { CountedMoment } from '#core/journal/picture'
import type { Forwarding } from '#core/journal/settings'
import type { Page } from '#core/lists/paged'
import type { ForwardingStatus } from './journal'
import type { Answer } from './rpc'

/** What the web side asks of the journal in the engine. */
export interface JournalApi {
  /** What is in memory only; null: events are in the database. */
  journalMemory(): { entries: number; oldest: number | null; newest: number | null } | null
  /** Of what is in memory; empty where events are in the database. */
  journalPage(asked: EntriesAsked): Page<KeptEntry>
  journalBars(filter: EntryFilter, width: number): CountedMoment[]
  forwarding(): ForwardingStatus | null
  /** Sends one message to a syslog server. */
  tryForwarding(settings: Forwarding): Promise<Answer<null>>
  /** What happened on the web side. */
  noteEvent(severity: JournalSeverity, source: string, text: string): void
}

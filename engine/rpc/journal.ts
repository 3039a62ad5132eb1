import { isFault } from '#core/faults/catalogue'
import type { EntryFilter, JournalSeverity, KeptEntry } from '#core/journal/entry'
import { countedIn, entriesPage, type EntriesAsked } from '#core/journal/paged'
import { forwardingContract } from '#core/journal/settings'
import type { Page } from '#core/lists/paged'
import { mostCounted } from '#shared/api/lists'
import type { JournalApi } from '#shared/journalApi'
import type { Answer } from '#shared/rpc'
import { sendOnce } from '../journal/forwarder'
import type { Journal } from '../journal/journal'
import { MeasuringFunctions } from './measuring'
import type { ThingParts } from './things'

/** What one web side may ask of the journal. */
export class JournalFunctions extends MeasuringFunctions implements JournalApi {
  constructor(
    things: ThingParts,
    private journal: Journal,
  ) {
    super(things)
  }

  journalMemory = () => {
    const all = this.journal.inMemory()?.all()
    return all ? { entries: all.length, oldest: all[0]?.at ?? null, newest: all.at(-1)?.lastAt ?? null } : null
  }

  journalPage = (asked: EntriesAsked): Page<KeptEntry> => entriesPage(this.inMemory, asked, mostCounted)

  journalBars = (filter: EntryFilter, width: number) => countedIn(this.inMemory, filter, width)

  forwarding = () => this.journal.forwarding()

  tryForwarding = async (settings: unknown): Promise<Answer<null>> => {
    const at = Date.now()
    const entry = {
      at,
      lastAt: at,
      times: 1,
      severity: 'note',
      source: 'Journal',
      text: 'Tried whether events arrive here.',
      fault: null,
    } as const
    try {
      await sendOnce(forwardingContract.parse(settings), entry)
      return { ok: true, value: null }
    } catch (error) {
      if (isFault(error)) return { ok: false, fault: error }
      throw error
    }
  }

  noteEvent = (severity: JournalSeverity, source: string, text: string) => this.journal[severity](source, text)

  private get inMemory() {
    return this.journal.inMemory()?.all() ?? []
  }
}

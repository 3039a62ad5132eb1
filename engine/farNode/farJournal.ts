import type { Logger } from 'pino'
import type { Fault } from '#core/faults/catalogue'
import type { Entry, JournalSeverity } from '#core/journal/entry'
import { Folding } from '#core/journal/folding'
import type { NodeEntries } from '#shared/nodeRpc'
import type { BegunWrite, EndOfWrite, JournalWriter, WriteRecord } from '../journal/journal'
import { TableLog } from '../journal/tableLog'
import { WriteLog } from '../journal/writeLog'

/** Where what happened goes: rejects while the site is away. */
export interface FarDesk {
  journal(entries: NodeEntries): Promise<void>
  writes(records: readonly WriteRecord[]): Promise<void>
}

const mostText = 4000
const mostSource = 300
/** So many entries wait for the site; what was written waits on the disk as well. */
const mostWaiting = 20_000

/** What happened on a node: to its log at once, and into the journal of its site as soon as that is there. */
export class FarJournal implements JournalWriter {
  private folding = new Folding<Entry>()
  private entries: TableLog<Entry>
  private written: WriteLog

  constructor(
    private log: Logger,
    desk: FarDesk,
    unsavedPath: string,
  ) {
    this.entries = new TableLog({
      most: mostWaiting,
      insert: (entries) => {
        for (const entry of entries) this.folding.forget(entry)
        return desk.journal(entries.map(told))
      },
      trim: () => Promise.resolve(),
      lost: (count, why) => this.caution('Engine', `${count} entries of the journal of this node are lost: ${why}.`),
    })
    this.written = new WriteLog({
      path: unsavedPath,
      insert: (records) => desk.writes(records),
      trim: () => Promise.resolve(),
      caution: (text) => this.caution('Engine', text),
    })
  }

  note(source: string, text: string) {
    this.add('note', source, text, null)
  }

  caution(source: string, text: string, fault: Fault | null = null) {
    this.add('caution', source, text, fault)
  }

  trouble(source: string, text: string, fault: Fault | null = null) {
    this.add('trouble', source, text, fault)
  }

  writing(write: Omit<BegunWrite, 'key' | 'at'>): EndOfWrite {
    return this.written.begin(write)
  }

  async close() {
    await this.entries.close()
    await this.written.close()
  }

  private add(severity: JournalSeverity, source: string, text: string, fault: Fault | null) {
    this.log[severity === 'note' ? 'info' : severity === 'caution' ? 'warn' : 'error']({ source, code: fault?.code }, text)
    const at = Date.now()
    const entry: Entry = { at, lastAt: at, times: 1, severity, source, text, fault }
    if (!this.folding.again(entry)) this.entries.add(entry)
  }
}

const told = ({ source, text, ...entry }: Entry) => ({ ...entry, source: source.slice(0, mostSource), text: text.slice(0, mostText) })

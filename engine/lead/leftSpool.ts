import { counted } from '#core/text/counted'
import { pauseUnless } from '#pacing/pause'
import type { LeftParcel } from '#shared/nodeRpc'
import { OrderedStore } from '../disk/orderedStore'
import type { JournalWriter } from '../journal/journal'

interface Around {
  folder: string
  journal: JournalWriter
  /** Brings it to the machine that leads. @returns whether it was taken; rejects while nobody leads */
  bring(parcel: LeftParcel): Promise<boolean>
}

const againMs = 2000

/** What bridges of this machine kept while it led, and did not deliver: brought to the machine that leads now, the oldest first. */
export class LeftSpool {
  private closed = false
  private done: Promise<void>

  constructor(private around: Around) {
    this.done = this.run()
  }

  async close() {
    this.closed = true
    await this.done
  }

  private async run() {
    const { folder, journal } = this.around
    const store = new OrderedStore(folder)
    let brought = 0
    try {
      await store.open()
      for (;;) {
        const next = await firstOf(store)
        if (!next || this.closed) break
        if (await this.taken(next)) {
          await store.settled([{ type: 'del', key: next.key }])
          brought += recordsIn(next.key)
        } else await pauseUnless(againMs, () => this.closed)
      }
    } catch (error) {
      journal.caution('Bridges', `What this machine kept while it led cannot be read from its disk: ${(error as Error).message}`)
    } finally {
      await store.close()
    }
    if (brought > 0)
      journal.note('Bridges', `${counted(brought, 'record')} that this machine kept while it led are with the machine that leads.`)
  }

  private async taken(parcel: LeftParcel): Promise<boolean> {
    return this.around.bring(parcel).catch(() => false)
  }
}

/** Parcels lie by bridge and destination, each in its order. */
const firstOf = async (store: OrderedStore): Promise<LeftParcel | null> => {
  for await (const [key, parcel] of store.entries('p/', 1)) {
    const [, bridge, destination] = key.split('/').map(Number)
    return { bridge: bridge!, destination: destination!, key, parcel }
  }
  return null
}

const recordsIn = (key: string) => Number(key.split('/')[4] ?? 0)

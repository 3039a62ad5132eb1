import { z } from 'zod'
import { severities } from '#core/alarms/limits'
import { OrderedStore, type Operation } from '../disk/orderedStore'

const kept = z.object({
  tagId: z.int(),
  path: z.string(),
  limit: z.string(),
  severity: z.enum(severities),
  text: z.string(),
  active: z.boolean(),
  since: z.number(),
  over: z.number().nullable(),
  value: z.string(),
  count: z.int(),
  seen: z.object({ by: z.string(), at: z.number() }).nullable(),
  comment: z.object({ text: z.string(), by: z.string(), at: z.number() }).nullable(),
})
/** What is known of an alarm that is not over and done with. */
export type KeptAlarm = z.output<typeof kept>

const begin = 'a/'

/** Alarms on the engine’s own disk, so that a restart neither raises nor forgets one. */
export class AlarmStore {
  private store: OrderedStore
  private waiting = new Map<string, Operation>()
  private isDue = false

  /** @param folder null: there is no place for it */
  constructor(
    private folder: string | null,
    private failed: (problem: string) => void,
    /** Awaited before anything is read. */
    private opened: (store: OrderedStore) => Promise<void> = () => Promise.resolve(),
  ) {
    this.store = new OrderedStore(folder)
  }

  get kept() {
    return this.store
  }

  /** What was kept; what cannot be read of it is left out. */
  async open(): Promise<Map<string, KeptAlarm>> {
    const all = new Map<string, KeptAlarm>()
    if (this.folder === null) return all
    await this.store.open()
    await this.opened(this.store)
    for await (const [key, text] of this.store.entries(begin)) {
      const read = parsed(text)
      if (read) all.set(key.slice(begin.length), read)
    }
    return all
  }

  put(key: string, alarm: KeptAlarm) {
    this.note({ type: 'put', key: begin + key, value: JSON.stringify(alarm) })
  }

  remove(key: string) {
    this.note({ type: 'del', key: begin + key })
  }

  async close() {
    await this.flush()
    await this.store.close()
  }

  /** What becomes of one alarm in one turn goes to the disk once. */
  private note(operation: Operation) {
    if (this.folder === null) return
    this.waiting.delete(operation.key)
    this.waiting.set(operation.key, operation)
    if (this.isDue) return
    this.isDue = true
    setImmediate(() => void this.flush())
  }

  private async flush() {
    this.isDue = false
    const operations = [...this.waiting.values()]
    this.waiting.clear()
    await this.store.settled(operations).catch((error: Error) => this.failed(error.message))
  }
}

const parsed = (text: string): KeptAlarm | null => {
  try {
    return kept.parse(JSON.parse(text))
  } catch {
    return null
  }
}

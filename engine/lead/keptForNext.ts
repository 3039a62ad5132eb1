import type { Kysely } from 'kysely'
import type { Database } from '#db/tables'
import type { JournalWriter } from '../journal/journal'
import type { Operation, OrderedStore } from '../disk/orderedStore'

const flushEveryMs = 300
const rowsAtOnce = 2000

/**
 * What the leading machine keeps on its own disk, told to the database for the machine that leads after it: small things by their
 * keys, a moment late. The disk stays the first place; of what is told, the newest of each key goes, so that it never piles up.
 */
export class KeptForNext {
  private waiting = new Map<string, { room: string; key: string; value: string | null }>()
  private timer: NodeJS.Timeout
  private busy: Promise<void> | null = null
  private isTold = false

  constructor(
    private db: Kysely<Database>,
    private journal: JournalWriter,
  ) {
    this.timer = setInterval(() => void this.flush(), flushEveryMs)
  }

  tell(room: string, operations: readonly Operation[]) {
    for (const one of operations)
      this.waiting.set(`${room}\0${one.key}`, { room, key: one.key, value: one.type === 'put' ? one.value : null })
  }

  /** What the machine that led before told of a room. */
  async of(room: string): Promise<{ key: string; value: string }[]> {
    return this.db.selectFrom('site_kept').select(['key', 'value']).where('room', '=', room).orderBy('key').execute()
  }

  /**
   * Brings what begins so in a store to what the machine before told, where that was another one; and tells all of it, and from then
   * on every change.
   */
  async follow(room: string, store: OrderedStore, begins: readonly string[], isTakenOver: boolean) {
    const isMeant = (key: string) => begins.some((begin) => key.startsWith(begin))
    if (isTakenOver) {
      for (const begin of begins) await store.clear(begin)
      const told = await this.of(room)
      await store.settled(told.filter(({ key }) => isMeant(key)).map((one) => ({ type: 'put', ...one })))
    }
    const tell = (operations: readonly Operation[]) =>
      this.tell(
        room,
        operations.filter(({ key }) => isMeant(key)),
      )
    store.listen(tell)
    await this.begin(room, async function* () {
      for (const begin of begins) yield* store.entries(begin)
    })
  }

  /** All of a room anew, or as it was; what changes meanwhile is told afterwards. */
  async begin(room: string, entries: () => AsyncIterable<[string, string]> | Iterable<[string, string]>) {
    await this.busy
    this.busy = this.replace(room, entries()).finally(() => (this.busy = null))
    await this.busy
  }

  private async replace(room: string, entries: AsyncIterable<[string, string]> | Iterable<[string, string]>) {
    const rows: { room: string; key: string; value: string }[] = []
    for await (const [key, value] of entries) rows.push({ room, key, value })
    await this.db.transaction().execute(async (db) => {
      await db.deleteFrom('site_kept').where('room', '=', room).execute()
      for (let at = 0; at < rows.length; at += rowsAtOnce)
        await db
          .insertInto('site_kept')
          .values(rows.slice(at, at + rowsAtOnce))
          .execute()
    })
  }

  async close() {
    clearInterval(this.timer)
    await this.flush()
  }

  private flush(): Promise<void> {
    return (this.busy ??= this.write().finally(() => (this.busy = null)))
  }

  private async write() {
    while (this.waiting.size > 0) {
      const some = [...this.waiting.entries()].slice(0, rowsAtOnce)
      try {
        await this.store(some.map(([, row]) => row))
      } catch (error) {
        if (!this.isTold) this.journal.caution('Engine', `Another machine could not go on from here now: ${(error as Error).message}`)
        this.isTold = true
        return
      }
      this.isTold = false
      // what came meanwhile is newer, and stays
      for (const [key, row] of some) if (this.waiting.get(key) === row) this.waiting.delete(key)
    }
  }

  private async store(rows: readonly { room: string; key: string; value: string | null }[]) {
    await this.db.transaction().execute(async (db) => {
      const put = rows.flatMap(({ room, key, value }) => (value === null ? [] : [{ room, key, value }]))
      if (put.length > 0)
        await db
          .insertInto('site_kept')
          .values(put)
          .onConflict((on) => on.columns(['room', 'key']).doUpdateSet((row) => ({ value: row.ref('excluded.value') })))
          .execute()
      const rooms = new Set(rows.map(({ room }) => room))
      for (const room of rooms) {
        const gone = rows.flatMap((row) => (row.room === room && row.value === null ? [row.key] : []))
        if (gone.length > 0) await db.deleteFrom('site_kept').where('room', '=', room).where('key', 'in', gone).execute()
      }
    })
  }
}

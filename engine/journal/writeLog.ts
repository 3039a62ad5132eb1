import { randomUUID } from 'node:crypto'
import { counted } from '#core/text/counted'
import type { BegunWrite, EndOfWrite, WriteRecord } from './journal'
import { TableLog } from './tableLog'
import { UnsavedWrites } from './unsavedWrites'

interface Around {
  /** Where writes are kept until they are where they belong; absent: in memory only. */
  path: string | undefined
  insert(records: readonly WriteRecord[]): Promise<unknown>
  /** Takes the oldest out of where they belong. */
  trim(): Promise<unknown>
  caution(text: string): void
}

/** Who wrote what to the plant, on its way to where that is kept: noted on the disk before the value leaves, told once however often it is handed in. */
export class WriteLog {
  private log: TableLog<WriteRecord>
  private underWay = new Map<string, BegunWrite>()
  private unsaved: UnsavedWrites | null
  private unsavedTold = false

  constructor(private around: Around) {
    this.unsaved = around.path === undefined ? null : new UnsavedWrites(around.path)
    this.log = new TableLog({
      insert: (records) => around.insert(records),
      trim: () => around.trim(),
      lost: (count, why) => around.caution(`${counted(count, 'record')} of writes lost: ${why}.`),
      allStored: () => this.onDisk((unsaved) => unsaved.keepOnly(this.underWay.values(), [])),
    })
    this.onDisk((unsaved) => unsaved.leftBehind().forEach((record) => this.log.add(record)))
  }

  begin(write: Omit<BegunWrite, 'key' | 'at'>): EndOfWrite {
    const begun = { ...write, key: randomUUID(), at: new Date() }
    this.underWay.set(begun.key, begun)
    this.onDisk((unsaved) => unsaved.begin(begun))
    return (why) => {
      const ms = Date.now() - begun.at.getTime()
      this.underWay.delete(begun.key)
      this.onDisk((unsaved) => unsaved.end(begun.key, why, ms))
      this.log.add({ ...begun, fault: why, ms })
    }
  }

  flush() {
    return this.log.flush()
  }

  async close() {
    await this.log.close()
    this.unsaved?.close()
  }

  /** A disk that is full or away costs what is in the memory only if the engine ends before they are where they belong. */
  private onDisk(work: (unsaved: UnsavedWrites) => void) {
    const { unsaved } = this
    if (!unsaved) return
    try {
      work(unsaved)
      if (unsaved.isLong) unsaved.keepOnly(this.underWay.values(), this.log.notStored)
    } catch (error) {
      if (!this.unsavedTold)
        this.around.caution(`Writes cannot be kept on disk until they are in the database: ${(error as Error).message}`)
      this.unsavedTold = true
    }
  }
}

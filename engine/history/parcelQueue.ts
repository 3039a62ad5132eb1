import { ClassicLevel } from 'classic-level'
import { within } from '#pacing/within'
import { parcelBytes, readParcel, type Parcel } from './parcel'

/** On the engine’s disk at most so much waits for the database; in memory as well, so that it is not read again, less. */
const mostBytes = 4 * 1024 ** 3
const mostBytesInMemory = 48 * 1024 * 1024
const closeWithinMs = 5000
const aliveKey = 'alive'
const before = 'p/'
const after = 'p/~'

interface Kept {
  key: string
  bytes: number
  at: number
  samples: number
  parcel: Parcel | null
}

const keyOf = (sequence: number, bytes: number, at: number, samples: number) =>
  `${before}${String(sequence).padStart(16, '0')}/${bytes}/${at}/${samples}`

/**
 * What was recorded and is not yet known to be in the database, the oldest first: on the engine’s own disk, so that neither a
 * database that is away nor an engine that is killed loses it. Without a disk it waits in memory, as long as there is room.
 */
export class ParcelQueue {
  private level: ClassicLevel<string, Uint8Array> | null
  private kept: Kept[] = []
  private next = 1
  private inMemory = 0
  bytes = 0
  samples = 0

  /** @param folder null: there is no place on disk */
  constructor(folder: string | null) {
    this.level = folder === null ? null : new ClassicLevel<string, Uint8Array>(folder, { keyEncoding: 'utf8', valueEncoding: 'view' })
  }

  /** Looks up what was left. @returns until when the one before is known to have been alive; null: nothing is known */
  async open(): Promise<number | null> {
    if (!this.level) return null
    await this.level.open().catch((error: Error) => {
      this.level = null
      throw error
    })
    for await (const key of this.level.keys({ gt: before, lt: after })) {
      const [, sequence, bytes, at, samples] = key.split('/').map(Number)
      this.note({ key, bytes: bytes!, at: at!, samples: samples!, parcel: null })
      this.next = sequence! + 1
    }
    const alive = await this.level.get(aliveKey)
    const at = alive ? Number(new TextDecoder().decode(alive)) : NaN
    return Number.isFinite(at) ? at : null
  }

  get count() {
    return this.kept.length
  }

  get oldestAt(): number | null {
    return this.kept[0]?.at ?? null
  }

  get hasRoom() {
    return this.level ? this.bytes < mostBytes : this.inMemory < mostBytesInMemory
  }

  /** Resolves once it is on the disk; rejects where the disk does not take it, and then it waits in memory only. */
  async add(parcel: Parcel): Promise<void> {
    const value = parcelBytes(parcel)
    const { at, samples } = parcel.head
    const key = keyOf(this.next++, value.length, at, samples)
    const remembers = !this.level || this.inMemory + value.length <= mostBytesInMemory
    this.note({ key, bytes: value.length, at, samples, parcel: remembers ? parcel : null })
    if (remembers) this.inMemory += value.length
    if (!this.level) return
    const alive = aliveValue(Date.now())
    await this.level.batch(
      [
        { type: 'put', key, value },
        { type: 'put', key: aliveKey, value: alive },
      ],
      { sync: true } as object,
    )
  }

  /** Notes that until now nothing was missed. */
  async isAlive(now: number): Promise<void> {
    await this.level?.put(aliveKey, aliveValue(now))
  }

  /** The oldest; null: the disk lost or garbled it. Undefined: there is none. */
  async oldest(): Promise<Parcel | null | undefined> {
    const first = this.kept[0]
    if (!first) return undefined
    if (first.parcel) return first.parcel
    const value = await this.level?.get(first.key)
    return value === undefined ? null : readParcel(value)
  }

  /** The oldest is where it belongs. */
  async done(): Promise<void> {
    const [first] = this.kept
    if (!first) return
    // what the disk does not let go of is still the oldest, and known to be there already
    await this.level?.del(first.key)
    this.kept.shift()
    this.bytes -= first.bytes
    this.samples -= first.samples
    if (first.parcel) this.inMemory -= first.bytes
  }

  async close() {
    if (this.level) await within(closeWithinMs, this.level.close()).catch(() => {})
  }

  private note(kept: Kept) {
    this.kept.push(kept)
    this.bytes += kept.bytes
    this.samples += kept.samples
  }
}

const aliveValue = (now: number) => new TextEncoder().encode(String(now))

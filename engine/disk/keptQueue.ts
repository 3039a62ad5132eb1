import { ClassicLevel } from 'classic-level'
import { within } from '#pacing/within'

const closeWithinMs = 5000
const aliveKey = 'alive'
const before = 'p/'
const after = 'p/~'

/** How what waits is laid down on the disk and read again. */
export interface Packing<T> {
  bytes(thing: T): Uint8Array
  /** Null: what was kept is none, or was cut off. */
  read(bytes: Uint8Array): T | null
  /** When it was handed over, Unix milliseconds, and how many samples it holds. */
  facts(thing: T): { at: number; samples: number }
}

/** How much may wait, bytes: on the disk, and in memory so that it is not read again. */
export interface Room {
  disk: number
  memory: number
}

interface Kept<T> {
  key: string
  bytes: number
  at: number
  samples: number
  thing: T | null
}

const keyOf = (sequence: number, bytes: number, at: number, samples: number) =>
  `${before}${String(sequence).padStart(16, '0')}/${bytes}/${at}/${samples}`

/**
 * What is not yet known to be where it belongs, the oldest first: on the engine’s own disk, so that neither a far side that is away
 * nor an engine that is killed loses it. Without a disk it waits in memory, as long as there is room.
 */
export class KeptQueue<T> {
  private level: ClassicLevel<string, Uint8Array> | null
  private kept: Kept<T>[] = []
  private next = 1
  private inMemory = 0
  bytes = 0
  samples = 0

  /** @param folder null: there is no place on disk */
  constructor(
    folder: string | null,
    private packing: Packing<T>,
    readonly room: Room,
  ) {
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
      this.note({ key, bytes: bytes!, at: at!, samples: samples!, thing: null })
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
    return this.level ? this.bytes < this.room.disk : this.inMemory < this.room.memory
  }

  /** Resolves once it is on the disk; rejects where the disk does not take it, and then it waits in memory only. */
  async add(thing: T): Promise<void> {
    const value = this.packing.bytes(thing)
    const { at, samples } = this.packing.facts(thing)
    const key = keyOf(this.next++, value.length, at, samples)
    const remembers = !this.level || this.inMemory + value.length <= this.room.memory
    this.note({ key, bytes: value.length, at, samples, thing: remembers ? thing : null })
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
  async oldest(): Promise<T | null | undefined> {
    return this.at(0)
  }

  /** The one that so many others go before. */
  async at(index: number): Promise<T | null | undefined> {
    const kept = this.kept[index]
    if (!kept) return undefined
    if (kept.thing) return kept.thing
    const value = await this.level?.get(kept.key)
    return value === undefined ? null : this.packing.read(value)
  }

  /** The oldest is where it belongs. */
  async done(): Promise<void> {
    const [first] = this.kept
    if (!first) return
    // what the disk does not let go of is still the oldest, and known to be there already
    await this.level?.del(first.key)
    this.kept.shift()
    this.forget(first)
  }

  /** One gives way, of which nobody will hear. @returns how many samples it held */
  async drop(index: number): Promise<number> {
    const [dropped] = this.kept.splice(index, 1)
    if (!dropped) return 0
    this.forget(dropped)
    await this.level?.del(dropped.key)
    return dropped.samples
  }

  async close() {
    if (this.level) await within(closeWithinMs, this.level.close()).catch(() => {})
  }

  private note(kept: Kept<T>) {
    this.kept.push(kept)
    this.bytes += kept.bytes
    this.samples += kept.samples
  }

  private forget({ bytes, samples, thing }: Kept<T>) {
    this.bytes -= bytes
    this.samples -= samples
    if (thing) this.inMemory -= bytes
  }
}

const aliveValue = (now: number) => new TextEncoder().encode(String(now))

import type { Source } from '#core/bridges/run'
import { OrderedStore, type Operation } from '../disk/orderedStore'
import { parcelText, readParcel, type Parcel } from '#core/bridges/parcel'

const digits = (value: number, count: number) => String(value).padStart(count, '0')

/** What is to be delivered and what was refused, in order, on the engine's own disk. */
export class Spool extends OrderedStore {
  queue(bridge: number, destination: number): SpoolQueue {
    return new SpoolQueue(this, `${digits(bridge, 10)}/${digits(destination, 4)}`)
  }

  /** Up to which number runs of a bridge were given out, or may have been. */
  async reservedRuns(bridge: number): Promise<number> {
    return Number((await this.get(`n/${digits(bridge, 10)}`)) ?? 0)
  }

  reserveRuns(bridge: number, upTo: number): Promise<void> {
    return this.settled([{ type: 'put', key: `n/${digits(bridge, 10)}`, value: String(upTo) }])
  }

  /** Under what begins so it is kept how far something was taken by a bridge. */
  sourcesOf(bridge: number, of: string): string {
    return `f/${digits(bridge, 10)}/${of}/`
  }

  /** Everything that is kept for a bridge that is no more. */
  async forget(bridge: number, destination?: number) {
    const of = `${digits(bridge, 10)}/${destination === undefined ? '' : `${digits(destination, 4)}/`}`
    for (const room of rooms) await this.clear(`${room}/${of}`)
  }
}

/** Parcels to be delivered, records that were refused, what a receiver notes for itself, what is kept of sources, how far those were taken, and which parcels of other machines were. */
const rooms = ['p', 'r', 'm', 's', 'f', 'h'] as const

/** Up to where something that is read on and on was taken, and which row of what stood there. */
export interface SourceMark {
  at: number
  row: number
}

/** Another machine that kept a parcel while it led, and the key of that there; they are brought one after the other. */
export interface LeftBy {
  machine: number
  key: string
}

interface Kept {
  sequence: number
  key: string
  records: number
  bytes: number
  at: number
}

export interface KeptParcel {
  sequence: number
  /** How many records went into it. */
  count: number
  /** Null: the disk lost or garbled it. */
  parcel: Parcel | null
}

/** Parcels in memory as well, so that what goes out at once is not read again: so many, of so many bytes together. */
const mostInMemory = 10_000
const mostBytesInMemory = 8 * 1024 * 1024

/** What is kept for one destination of one bridge, the oldest first. */
export class SpoolQueue {
  private kept: Kept[] = []
  /** Where the oldest stands in `kept`. */
  private first = 0
  private next = 1
  private sources = new Map<string, SourceMark>()
  private memory = new Map<number, Parcel>()
  private bytesInMemory = 0
  /** Whether it is known what was left. Before that nothing can be added: it would come before it. */
  isLoaded = false
  records = 0
  bytes = 0
  /** How many were refused for good. */
  asideCount = 0

  constructor(
    private spool: Spool,
    private of: string,
  ) {}

  /** Looks up what was left. */
  async load() {
    if (this.isLoaded) return
    await this.spool.open()
    this.kept = []
    this.records = this.bytes = 0
    for await (const key of this.spool.keys(`p/${this.of}/`)) {
      const [, , , sequence, records, bytes, at] = key.split('/').map(Number)
      this.note({ key, sequence: sequence!, records: records!, bytes: bytes!, at: at! })
    }
    this.asideCount = 0
    for await (const _ of this.spool.keys(`r/${this.of}/`)) this.asideCount++
    this.sources.clear()
    for await (const [key, value] of this.spool.entries(`s/${this.of}/`)) {
      const [at, row] = value.split(' ').map(Number)
      this.sources.set(key.slice(`s/${this.of}/`.length), { at: at!, row: row! })
    }
    this.next = (this.kept.at(-1)?.sequence ?? 0) + 1
    this.isLoaded = true
  }

  /** The number of the oldest; null: nothing is kept. */
  get oldestSequence(): number | null {
    return this.kept[this.first]?.sequence ?? null
  }

  get oldestAt(): number | null {
    return this.kept[this.first]?.at ?? null
  }

  /**
   * Gives it its number at once; `stored` resolves when it is on the disk, and only then it can be taken out.
   * @param insteadOf the key of what lay aside, and goes with it at once.
   * @param sources up to where something is kept with this; it is noted in the same step.
   * @param left whose it is, where another machine left it; noted in the same step.
   */
  add(
    parcel: Parcel,
    { insteadOf, sources, left }: { insteadOf?: string; sources?: ReadonlyMap<string, SourceMark>; left?: LeftBy } = {},
  ): { sequence: number; stored: Promise<void> } {
    const value = parcelText(parcel)
    const sequence = this.next++
    const [records, bytes, at] = [parcel.records.length, value.length, parcel.records[0]?.at ?? 0]
    const key = `p/${this.of}/${digits(sequence, 16)}/${records}/${bytes}/${at}`
    this.remember(sequence, parcel, bytes)
    const operations: Operation[] = [{ type: 'put', key, value }]
    if (insteadOf) operations.push({ type: 'del', key: insteadOf })
    for (const [source, { at, row }] of sources ?? [])
      operations.push({ type: 'put', key: `s/${this.of}/${source}`, value: `${at} ${row}` })
    if (left) operations.push({ type: 'put', key: this.leftKey(left.machine), value: left.key })
    const stored = this.spool.settled(operations).then(
      () => {
        if (insteadOf) this.asideCount--
        this.note({ key, sequence, records, bytes, at })
      },
      (error: Error) => {
        this.forgetParcel(sequence, bytes)
        throw error
      },
    )
    return { sequence, stored }
  }

  /** Whether it was the last that was taken of what another machine left. */
  async isTakenFrom({ machine, key }: LeftBy): Promise<boolean> {
    return (await this.spool.get(this.leftKey(machine))) === key
  }

  /** Whether a record from there was taken already, in this life or one before. */
  isTaken({ key, at, row }: Source & { row: number }): boolean {
    const mark = this.sources.get(key)
    return mark !== undefined && (mark.at > at || (mark.at === at && mark.row >= row))
  }

  /** It was taken; on the disk that is noted with the record itself. */
  noteSource({ key, at, row }: Source & { row: number }) {
    this.sources.set(key, { at, row })
  }

  /** Who reads it has taken note itself by now. */
  forgetSource({ key, at }: Source) {
    const mark = this.sources.get(key)
    if (mark === undefined || mark.at > at) return
    this.sources.delete(key)
    this.spool.settled([{ type: 'del', key: `s/${this.of}/${key}` }]).catch(() => {})
  }

  /** The oldest that are kept, up to so many records but at least one parcel; nothing where there is nothing. */
  async oldest(most: number): Promise<KeptParcel[]> {
    const taken: Kept[] = []
    let records = 0
    for (let at = this.first; at < this.kept.length; at++) {
      const kept = this.kept[at]!
      if (taken.length > 0 && records + kept.records > most) break
      records += kept.records
      taken.push(kept)
    }
    // looked up before the disk is waited for: what is given up meanwhile is forgotten
    const known = taken.map(({ sequence }) => this.memory.get(sequence))
    const read = await this.read(taken.filter((_, i) => !known[i]))
    return taken.map((kept, i) => ({ sequence: kept.sequence, count: kept.records, parcel: known[i] ?? read.get(kept.key) ?? null }))
  }

  /**
   * All up to this number were delivered, refused or given up; some of them may be gone already. `refused` stays, aside,
   * with its reason. Returns the numbers of those that were still there.
   */
  async done(upTo: number, refused: readonly string[] = []): Promise<number[]> {
    let end = this.first
    while (end < this.kept.length && this.kept[end]!.sequence <= upTo) end++
    const gone = this.kept.slice(this.first, end)
    for (const { records, bytes, sequence } of gone) {
      this.records -= records
      this.bytes -= bytes
      this.forgetParcel(sequence, bytes)
    }
    this.first += gone.length
    if (this.first > 1000 && this.first * 2 > this.kept.length) {
      this.kept = this.kept.slice(this.first)
      this.first = 0
    }
    const aside = refused.map((value, i) => ({ type: 'put' as const, key: this.asideKey(gone[0]?.sequence ?? 0, i), value }))
    const mark = { type: 'del' as const, key: this.markKey }
    await this.spool.settled([...gone.map(({ key }) => ({ type: 'del' as const, key })), mark, ...aside])
    this.asideCount += aside.length
    return gone.map(({ sequence }) => sequence)
  }

  /** Lies aside what was refused without having been kept before. */
  async aside(refused: readonly string[]): Promise<void> {
    await this.spool.settled(refused.map((value, i) => ({ type: 'put', key: this.asideKey(this.next, i), value })))
    this.asideCount += refused.length
  }

  /** What lies aside, by its key. */
  async refused(most: number): Promise<{ key: string; value: string }[]> {
    const found: { key: string; value: string }[] = []
    for await (const [key, value] of this.spool.entries(`r/${this.of}/`, most)) found.push({ key, value })
    return found
  }

  /** @param keys of what lies aside here */
  async dropRefused(keys: readonly string[]): Promise<void> {
    await this.spool.settled(keys.map((key) => ({ type: 'del', key })))
    this.asideCount -= keys.length
  }

  /** What a receiver noted for itself. */
  mark(): Promise<string | undefined> {
    return this.spool.get(this.markKey)
  }

  /** It goes with what it was noted about. */
  async setMark(value: string): Promise<void> {
    await this.spool.settled([{ type: 'put', key: this.markKey, value }])
  }

  private leftKey(machine: number) {
    return `h/${this.of}/${machine}`
  }

  private get markKey() {
    return `m/${this.of}/mark`
  }

  private asideKey(sequence: number, index: number) {
    return `r/${this.of}/${digits(Date.now(), 16)}/${digits(sequence, 16)}/${digits(index, 6)}`
  }

  /** By their keys; those that the disk lost or garbled are missing. */
  private async read(all: readonly Kept[]): Promise<Map<string, Parcel>> {
    const keys = all.map(({ key }) => key)
    const values = await this.spool.many(keys)
    const parcels = values.map((value) => (value === undefined ? null : readParcel(value)))
    return new Map(keys.flatMap((key, i): [string, Parcel][] => (parcels[i] ? [[key, parcels[i]]] : [])))
  }

  private remember(sequence: number, parcel: Parcel, bytes: number) {
    if (this.memory.size >= mostInMemory || this.bytesInMemory + bytes > mostBytesInMemory) return
    this.memory.set(sequence, parcel)
    this.bytesInMemory += bytes
  }

  private forgetParcel(sequence: number, bytes: number) {
    if (this.memory.delete(sequence)) this.bytesInMemory -= bytes
  }

  private note(kept: Kept) {
    this.kept.push(kept)
    this.records += kept.records
    this.bytes += kept.bytes
  }
}

import { createHash } from 'node:crypto'
import { z } from 'zod'
import type { FoundFile } from '../../links/receiving'
import type { Spool } from '../spool'

/** How far a file was taken. */
const placeContract = z.object({
  /** Of the file itself, whatever it is called. */
  identity: z.string(),
  /** How many files of this name there were before. */
  turn: z.number(),
  /** Up to here, bytes; of a file taken as a whole its size. */
  at: z.number(),
  /** Of its beginning, so that another file in the same place is known as another. */
  head: z.string(),
  changedAt: z.number(),
  seenAt: z.number(),
})
export type Place = z.output<typeof placeContract>

const mostPlaces = 20_000
/** So many bytes of the beginning tell files apart. */
export const headBytes = 256

export const headOf = (bytes: Uint8Array): string => createHash('sha256').update(bytes).digest('base64')

/** How far the files of one trigger were taken, on the disk of the engine: each line is taken once, over restarts. */
export class Places {
  private known = new Map<string, Place>()
  private isLoaded = false
  /** Whether nobody looked by this pattern before: what is there already is then old. */
  isNew = true

  /** @param of tells the trigger from others: what it looks at, not its place among them */
  constructor(
    private spool: Spool,
    private of: string,
    private pattern: string,
  ) {}

  /** Rejects where the disk does not say. */
  async load() {
    if (this.isLoaded) return
    await this.spool.open()
    this.known.clear()
    for await (const [key, value] of this.spool.entries(this.of)) {
      const place = placeIn(value)
      if (place) this.known.set(key.slice(this.of.length), place)
    }
    this.isNew = (await this.spool.get(this.begunKey)) === undefined
    this.isLoaded = true
  }

  /** From now on what comes is new. */
  async begin() {
    await this.spool.settled([{ type: 'put', key: this.begunKey, value: '{}' }])
    this.isNew = false
  }

  get(name: string): Place | undefined {
    return this.known.get(name)
  }

  /** The place of a file that had another name when it was looked at last, and that name. */
  renamed({ identity, name }: FoundFile): { from: string; place: Place } | null {
    for (const [from, place] of this.known) if (from !== name && place.identity === identity) return { from, place }
    return null
  }

  async set(name: string, place: Omit<Place, 'seenAt'>) {
    const whole = { ...place, seenAt: Date.now() }
    this.known.set(name, whole)
    await this.spool.settled([{ type: 'put', key: `${this.of}${name}`, value: JSON.stringify(whole) }, ...this.tooMany()])
  }

  /** No file is called so: it has a “/” in front. */
  private get begunKey() {
    return `${this.of}/begun ${this.pattern}`
  }

  /** The longest unchanged give way. */
  private tooMany() {
    if (this.known.size <= mostPlaces) return []
    const [oldest] = [...this.known].reduce((a, b) => (b[1].seenAt < a[1].seenAt ? b : a))
    this.known.delete(oldest)
    return [{ type: 'del' as const, key: `${this.of}${oldest}` }]
  }
}

/** Null: it is something else, or the disk garbled it; such a file is taken as one that nobody knows. */
const placeIn = (value: string): Place | null => {
  try {
    return placeContract.safeParse(JSON.parse(value)).data ?? null
  } catch {
    return null
  }
}

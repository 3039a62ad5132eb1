import type { Shaped } from '#core/bridges/parcel'
import type { RefusedRecord, RefusedValue, SettledRecords } from '#shared/bridges/preview'
import { mended, readRefused, refusedRecordOf, type Refused } from './refused'
import type { SpoolQueue } from './spool'

/** So many lie aside for one destination; the oldest give way. */
export const mostAside = 10_000

interface Ways {
  /** What the destination takes now; what was made for other fields can only be dropped. */
  fields(): readonly string[]
  /** Takes the record out of what lies aside, and sends it. Rejects where neither came about. */
  send(records: readonly Shaped[], key: string): Promise<void>
}

/** What one receiver refused for good. One thing is done at a time: two people who press at once send nothing twice. */
export class Aside {
  private line: Promise<unknown> = Promise.resolve()

  constructor(
    private queue: SpoolQueue,
    private ways: Ways,
  ) {}

  get count() {
    return this.queue.asideCount
  }

  /** The oldest first; what the disk garbled is not among them. */
  async list(): Promise<Refused[]> {
    const all = await this.queue.refused(mostAside)
    return all.flatMap(({ key, value }) => readRefused(key, value) ?? [])
  }

  drop(keys: readonly string[]): Promise<SettledRecords> {
    return this.inTurn(async () => {
      const found = await this.among(keys)
      await this.queue.dropRefused(found.map(({ key }) => key))
      return { settled: found.length, unfit: 0 }
    })
  }

  send(keys: readonly string[]): Promise<SettledRecords> {
    return this.inTurn(async () => {
      const found = await this.among(keys)
      const fitting = found.filter((one) => this.fits(one))
      for (const { parcel, key } of fitting) await this.ways.send(parcel.records, key)
      return { settled: fitting.length, unfit: found.length - fitting.length }
    })
  }

  /** Sends one with some of its values set right; false: it is not here, or has other fields. */
  mend(key: string, values: readonly RefusedValue[]): Promise<boolean> {
    return this.inTurn(async () => {
      const [found] = await this.among([key])
      if (!found || !this.fits(found)) return false
      await this.ways.send(mended(found.parcel, values).records, key)
      return true
    })
  }

  /** The oldest beyond what may lie here give way; returns how many did. */
  stayWithin(): Promise<number> {
    return this.inTurn(async () => {
      const over = this.queue.asideCount - mostAside
      if (over <= 0) return 0
      const oldest = await this.queue.refused(over)
      await this.queue.dropRefused(oldest.map(({ key }) => key))
      return oldest.length
    })
  }

  private async among(keys: readonly string[]): Promise<Refused[]> {
    const wanted = new Set(keys)
    return (await this.list()).filter(({ key }) => wanted.has(key))
  }

  private fits({ parcel }: Refused) {
    const fields = this.ways.fields()
    return parcel.fields.length === fields.length && parcel.fields.every((name, i) => name === fields[i])
  }

  private inTurn<T>(work: () => Promise<T>): Promise<T> {
    const mine = this.line.then(work)
    this.line = mine.catch(() => {})
    return mine
  }
}

/** What lies aside for the destinations of one bridge, by their numbers. */
export type Asides = ReadonlyMap<number, Aside>

export const listAside = async (asides: Asides): Promise<RefusedRecord[]> => {
  const all = await Promise.all([...asides].map(async ([number, aside]) => (await aside.list()).map((one) => refusedRecordOf(number, one))))
  return all.flat().sort((a, b) => a.at - b.at)
}

export const settleAside = async (asides: Asides, keys: readonly string[], then: 'send' | 'drop'): Promise<SettledRecords> => {
  const all = await Promise.all([...asides.values()].map((aside) => aside[then](keys)))
  return all.reduce((total, one) => ({ settled: total.settled + one.settled, unfit: total.unfit + one.unfit }), {
    settled: 0,
    unfit: 0,
  })
}

/** False: it is nowhere here, or has other fields. */
export const mendAside = async (asides: Asides, key: string, values: readonly RefusedValue[]): Promise<boolean> => {
  for (const aside of asides.values()) if (await aside.mend(key, values)) return true
  return false
}

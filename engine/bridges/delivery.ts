import { fault, type Fault, isFault } from '#core/faults/catalogue'
import type { Parcel, Shaped } from '#core/bridges/parcel'
import type { Source } from '#core/bridges/run'
import type { Away, DestinationKind } from '#core/bridges/settings'
import type { Meters } from '#core/statistics/meters'
import { counted } from '#core/text/counted'
import { Backoff } from '#pacing/backoff'
import { Signal } from '#pacing/signal'
import type { DeliveryStatus } from '#shared/bridges/status'
import { earliestNow } from '#pacing/clock'
import type { JournalWriter } from '../journal/journal'
import type { Verdict } from '../links/receiving'
import type { LeftBy, SourceMark, SpoolQueue } from './spool'
import { Aside, mostAside } from './aside'
import { asideText } from './refused'
import type { Handed, Marks, Target } from './targets/target'

/** So many records go out together. */
const mostAtOnce = 5000
/** What waits in memory where nothing is kept on disk. */
const mostWaiting = 10_000
/** Of records on their way to the disk. */
const mostGathered = 100_000
/** So many lie there as one, and are given up together where the limit is reached. */
const mostInParcel = { records: 250, bytes: 64 * 1024 }

/** A record with whoever wants to know what becomes of it. */
export interface Offered extends Shaped {
  told?(verdict: Verdict | 'kept' | 'dropped'): void
  /** Where it was read, so that it is taken once. */
  source?: Source & { row: number }
  /** It is on the disk, or is not to be. */
  stored?(): void
}

interface Options {
  number: number
  kind: DestinationKind
  away: Away
  fields: readonly string[]
  target: Target
  queue: SpoolQueue
  journal: JournalWriter
  name: string
  /** Notes how long the receiver took for each batch, and what failed. */
  meters: Meters
}

interface Batch extends Handed {
  /** Those who want to know, by the place of their record. */
  told: (Offered['told'] | undefined)[]
  isKept: boolean
  done(refused: readonly string[]): Promise<unknown>
}

/**
 * The way to one destination of a bridge: in order, one batch after the other. While the receiver is away, records are kept
 * on disk, only the latest of them is, or none; what the receiver refuses for good goes aside, and the rest goes on.
 */
export class Delivery {
  /** Records that are not on the disk. */
  private waiting: Offered[] = []
  /** Records on their way to the disk. */
  private gathered: Offered[] = []
  private storing: Promise<void> | null = null
  /** Of those that left `gathered`. */
  private beingStored = 0
  /** Who wants to know of records on the disk, by the number of their parcel. */
  private told = new Map<number, (Offered['told'] | undefined)[]>()
  private fault: Fault | null = null
  private spoolFault: Fault | null = null
  private backoff = new Backoff(250, 15_000)
  private news = new Signal()
  private hurry = new Signal()
  private closed = false
  private counts = { delivered: 0, refused: 0, dropped: 0 }
  private running: Promise<void>
  /** What the receiver refused for good. */
  readonly aside: Aside

  constructor(private options: Options) {
    this.aside = new Aside(options.queue, {
      fields: () => this.options.fields,
      send: (records, key) => this.sendAgain(records, key),
    })
    this.running = this.run()
  }

  /** Takes records; never throws, and never waits. */
  offer(offered: readonly Offered[]) {
    const records = offered.some(({ source }) => source) ? this.notTaken(offered) : offered
    if (!this.closed && this.options.away.keep === 'all') return this.gather(records)
    if (!this.closed) this.hold(records)
    noteStored(records)
  }

  /** Without what was taken before, and waits already or has arrived. */
  private notTaken(offered: readonly Offered[]): Offered[] {
    const { queue } = this.options
    const fresh: Offered[] = []
    for (const record of offered) {
      const { source } = record
      if (source && queue.isTaken(source)) record.stored?.()
      else fresh.push(record)
    }
    for (const { source } of fresh) if (source) queue.noteSource(source)
    return fresh
  }

  /** Who reads from there has taken note itself. */
  forgetSource(source: Source) {
    this.options.queue.forgetSource(source)
  }

  /** What comes while the disk is at work goes there together, as one parcel. */
  private gather(records: readonly Offered[]) {
    this.gathered.push(...records)
    const over = this.gathered.length - mostGathered
    if (over > 0) {
      const gone = this.gathered.splice(0, over)
      this.tellDropped(gone, 'more came than the disk of the engine takes')
      noteStored(gone)
    }
    this.storing ??= this.storeGathered().finally(() => (this.storing = null))
  }

  private async storeGathered() {
    // all that the same turn brings goes together
    await Promise.resolve()
    while (this.gathered.length > 0) {
      const part = this.gathered.splice(0, fittingIn(this.gathered, mostInParcel))
      await this.keep(part)
      noteStored(part)
    }
  }

  status(): DeliveryStatus {
    const { number, kind, queue } = this.options
    const kept = queue.records + this.waiting.length + this.gathered.length + this.beingStored
    return {
      ...{ number, kind, kept, keptBytes: queue.bytes, oldestAt: queue.oldestAt ?? this.waiting[0]?.at ?? null },
      ...this.counts,
      aside: this.aside.count,
      flow: this.fault ? 'broken' : this.spoolFault ? 'late' : 'flowing',
      fault: this.fault ?? this.spoolFault,
    }
  }

  /** Another receiver, or another way to it: what is kept goes there from now on. */
  update(parts: Omit<Options, 'queue' | 'journal' | 'meters'>) {
    Object.assign(this.options, parts)
    this.hurry.raise()
  }

  /** Sends again at once what waits for the receiver to come back. */
  tryNow() {
    this.hurry.raise()
  }

  async close() {
    this.closed = true
    this.news.raise()
    this.hurry.raise()
    await this.storing
    await this.running
  }

  /**
   * What another machine kept for this while it led: taken once, however often it is brought. Values of tags would come after newer
   * ones, and are given up. @returns false where it cannot be kept now
   */
  async takeLeft(parcel: Parcel, left: LeftBy): Promise<boolean> {
    const { queue, away, kind } = this.options
    if (!queue.isLoaded || this.closed) return false
    if (await queue.isTakenFrom(left)) return true
    if (kind === 'tags' || away.keep !== 'all')
      this.drop(parcel.records.length, 'another machine kept them, and newer ones went before them')
    else await queue.add(parcel, { left }).stored
    this.news.raise()
    return true
  }

  /** Where records are kept it changes its place on the disk in one step: it is never in neither. */
  private async sendAgain(records: readonly Shaped[], key: string) {
    const { away, queue } = this.options
    if (away.keep === 'all') return this.keep(records, key)
    await queue.dropRefused([key])
    this.offer(records)
  }

  /** @param insteadOf the key of what lies aside, and stays there where the disk does not take this */
  private async keep(records: readonly Offered[], insteadOf?: string) {
    const { queue, fields } = this.options
    if (!queue.isLoaded) return this.hold(records)
    const { sequence, stored } = queue.add({ fields, records }, { ...(insteadOf ? { insteadOf } : {}), sources: sourcesOf(records) })
    if (this.fault) for (const { told } of records) told?.('kept')
    else if (records.some(({ told }) => told))
      this.told.set(
        sequence,
        records.map(({ told }) => told),
      )
    this.beingStored += records.length
    try {
      await stored.finally(() => (this.beingStored -= records.length))
      this.spoolFault = null
      await this.stayWithin()
      this.news.raise()
    } catch (error) {
      this.told.delete(sequence)
      this.noteSpool(error as Error)
      if (insteadOf) throw error
      this.hold(records)
    }
  }

  /** The oldest give way once too much or what is too old is kept. */
  private async stayWithin() {
    const { queue, away } = this.options
    const limit = away.most * 1_000_000
    const before = away.days === null ? -Infinity : earliestNow() - away.days * 86_400_000
    while (queue.bytes > limit || (queue.oldestAt ?? Infinity) < before) {
      const isTooMuch = queue.bytes > limit
      const records = queue.records
      const gone = queue.done(queue.oldestSequence!)
      this.drop(
        records - queue.records,
        isTooMuch ? `more than ${away.most} MB were kept` : `they were older than ${counted(away.days ?? 0, 'day')}`,
      )
      for (const sequence of await gone) this.tell(sequence, () => 'dropped')
    }
  }

  private hold(records: readonly Offered[]) {
    const { keep } = this.options.away
    if (this.fault && keep === 'none') return this.tellDropped(records, 'the receiver was away')
    if (keep === 'latest' && this.fault) this.holdLatest(records)
    else this.waiting.push(...records)
    const over = this.waiting.length - mostWaiting
    if (over > 0) this.tellDropped(this.waiting.splice(0, over), 'more came than could leave')
    this.news.raise()
  }

  /** One for each place that records go to. */
  private holdLatest(records: readonly Offered[]) {
    const latest = new Map<string, Offered>()
    for (const record of [...this.waiting, ...records]) {
      const place = record.to.join('\n')
      const before = latest.get(place)
      if (before) {
        before.told?.('dropped')
        this.counts.dropped++
      }
      latest.delete(place)
      latest.set(place, record)
    }
    this.waiting = [...latest.values()]
  }

  private tellDropped(records: readonly Offered[], why: string) {
    for (const { told } of records) told?.('dropped')
    this.drop(records.length, why)
  }

  private async dropOldestAside() {
    const gone = await this.aside.stayWithin().catch((error: Error) => this.noteSpool(error))
    if (gone) this.drop(gone, `more than ${counted(mostAside, 'record')} lay aside`)
  }

  private drop(count: number, limit: string) {
    if (this.counts.dropped === 0)
      this.options.journal.trouble(this.options.name, `Records are being dropped: ${limit}.`, fault('bridge.full', { count, limit }))
    this.counts.dropped += count
  }

  private async run() {
    while (!this.closed) {
      const batch = await this.next().catch((error: Error) => this.noteSpool(error))
      if (batch) await this.deliver(batch)
      else await this.news.wait(this.spoolFault ? this.backoff.next() : undefined)
    }
  }

  private async next(): Promise<Batch | null> {
    const { queue } = this.options
    if (!queue.isLoaded) await queue.load().catch((error: Error) => this.noteSpool(error))
    const kept = queue.isLoaded && queue.oldestSequence !== null ? await this.fromDisk() : null
    return kept ?? this.fromMemory()
  }

  private fromMemory(): Batch | null {
    if (this.waiting.length === 0) return null
    const records = this.waiting.splice(0, mostAtOnce)
    const { fields, queue } = this.options
    return {
      ...{ fields, records, key: '', told: records.map(({ told }) => told), isKept: false },
      done: (refused) => (refused.length > 0 ? queue.aside(refused) : Promise.resolve()),
    }
  }

  private async fromDisk(): Promise<Batch | null> {
    const { queue } = this.options
    const oldest = await queue.oldest(mostAtOnce)
    const [first] = oldest
    if (!first) return null
    if (!first.parcel) {
      // it may have been given up just now, which is told already
      const gone = await queue.done(first.sequence)
      if (gone.length > 0) this.drop(first.count, 'the disk of the engine lost them')
      return this.fromDisk()
    }
    const { fields } = first.parcel
    // only what was shaped for the same fields goes together
    const other = oldest.findIndex(({ parcel }) => !parcel || !isSame(parcel.fields, fields))
    const parcels = other < 0 ? oldest : oldest.slice(0, other)
    return {
      ...{ fields, records: parcels.flatMap(({ parcel }) => parcel!.records), key: String(first.sequence), isKept: true },
      told: parcels.flatMap(({ sequence, count }) => this.told.get(sequence) ?? Array.from<undefined>({ length: count })),
      done: (refused) => {
        for (const { sequence } of parcels) this.told.delete(sequence)
        return queue.done(parcels.at(-1)!.sequence, refused)
      },
    }
  }

  private async deliver(batch: Batch) {
    const { target, queue } = this.options
    const marks: Marks = { get: () => queue.mark(), set: (value) => queue.setMark(value) }
    const began = performance.now()
    try {
      const verdicts = await target.deliver(batch, batch.isKept ? marks : noMarks)
      this.measure(verdicts, performance.now() - began)
      this.isBack()
      const refused = batch.records.flatMap((record, i) => {
        const verdict = verdicts[i] ?? null
        batch.told[i]?.(verdict)
        return verdict === null ? [] : [asideText(batch.fields, record, verdict)]
      })
      this.counts.delivered += batch.records.length - refused.length
      // it has arrived: a disk that does not take note of that is no reason to send it again
      await batch.done(refused).catch((error: Error) => this.noteSpool(error))
      // counted once they can be looked at
      this.counts.refused += refused.length
      if (this.aside.count > mostAside) await this.dropOldestAside()
    } catch (error) {
      const why = isFault(error) ? error : fault('ours.unexpected', { problem: (error as Error).message })
      this.options.meters.failed(this.part, why.code, null, performance.now() - began)
      await this.missed(batch, why)
    }
  }

  private measure(verdicts: readonly Verdict[], ms: number) {
    const refusal = verdicts.find((verdict) => verdict !== null)
    const { meters } = this.options
    if (refusal) meters.failed(this.part, refusal.code, ms)
    else meters.answered(this.part, ms)
  }

  /** By which the receiver goes among those of its bridge. */
  private get part() {
    return `${this.options.number} · ${this.options.kind}`
  }

  private isBack() {
    if (this.fault) this.options.journal.note(this.options.name, 'What it sends arrives again.')
    this.fault = null
    this.backoff.reset()
  }

  private async missed(batch: Batch, why: Fault) {
    const { journal, name } = this.options
    if (this.fault?.code !== why.code) journal.caution(name, why.what, why)
    this.fault = why
    if (batch.isKept) this.tellKept()
    else this.putBack(batch)
    await this.hurry.wait(this.backoff.next())
  }

  /** Whoever wanted to know has heard enough; it may take days. */
  private tellKept() {
    for (const sequence of [...this.told.keys()]) this.tell(sequence, () => 'kept')
  }

  private tell(sequence: number, what: () => 'kept' | 'dropped') {
    for (const told of this.told.get(sequence) ?? []) told?.(what())
    this.told.delete(sequence)
  }

  private putBack({ records }: Batch) {
    const newer = this.waiting
    this.waiting = []
    this.hold([...(records as Offered[]), ...newer])
  }

  private noteSpool(error: Error): null {
    const why = fault('bridge.spool', { problem: error.message }, error.message)
    if (!this.spoolFault) this.options.journal.trouble(this.options.name, why.what, why)
    this.spoolFault = why
    return null
  }
}

/** How many of the first go together; one at least. */
const fittingIn = (records: readonly Shaped[], most: { records: number; bytes: number }): number => {
  let [count, bytes] = [0, 0]
  while (count < Math.min(records.length, most.records) && (count === 0 || bytes < most.bytes)) bytes += roughBytes(records[count++]!)
  return count
}

/** What is long in a record is text. */
const roughBytes = ({ to, values }: Shaped): number =>
  [...to, ...values].reduce<number>((total, part) => total + (typeof part === 'string' ? part.length : 20), 40)

const sourcesOf = (records: readonly Offered[]): Map<string, SourceMark> =>
  new Map(records.flatMap(({ source }) => (source ? [[source.key, { at: source.at, row: source.row }] as const] : [])))

const noteStored = (records: readonly Offered[]) => {
  for (const { stored } of records) stored?.()
}

/** Where nothing is kept there is nothing to come back to. */
const noMarks: Marks = { get: () => Promise.resolve(undefined), set: () => Promise.resolve() }

const isSame = (a: readonly string[], b: readonly string[]) => a.length === b.length && a.every((name, i) => name === b[i])

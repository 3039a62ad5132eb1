import pg from 'pg'
import type { HistoryKeeping } from '#core/history/settings'
import { bucketStart, tierMs } from '#core/history/bucket'
import { dayText } from '#core/text/moment'
import { Backoff } from '#pacing/backoff'
import { Signal } from '#pacing/signal'
import { within } from '#pacing/within'
import { earliestNow, steadyNow } from '#pacing/clock'
import type { JournalWriter } from '../journal/journal'
import type { ParcelCarrier } from './history'
import { keepWithin, makeRoom } from './keeping'
import { makeHour, mendMinutes } from './mending'
import type { KeptQueue } from '../disk/keptQueue'
import { foundLate, inTransaction, KnownParts, stateOf, storeParcel, type NodeState } from './storing'
import type { Parcel } from './parcel'

interface Around {
  databaseUrl: string
  node: string
  queue: KeptQueue<Parcel>
  journal: JournalWriter
  keeping(): HistoryKeeping
  /** Somebody else brought in what a rollup is made of. */
  madeLate(tagId: number, stretch: { from: number; to: number }): void
}

const connectMs = 3000
/** A statement that takes longer is given up with its connection. */
const mostMs = 60_000
const lookEveryMs = 1000
const keepEveryMs = 600_000
const roomEveryMs = 15_000
/** Others bring the past in as well: so often it is looked whether there is something to mend. */
const mendEveryMs = 3000
const dayMs = 86_400_000

/**
 * Brings what was recorded into the database, parcel by parcel; mends what came late, makes hours and drops what is too old,
 * one thing at a time over one connection of its own. While the database is away, parcels wait.
 */
export class HistoryWriter implements ParcelCarrier {
  private client: pg.Client | null = null
  private parts = new KnownParts()
  private backoff = new Backoff(250, 10_000)
  private signal = new Signal()
  private state: NodeState | null = null
  private keptAt = 0
  private lacking: (() => Promise<number>) | null = null
  private roomAt = -Infinity
  private isMended = false
  private mendedAt = 0
  private closed = false
  private ended: Promise<void>
  /** Why the last attempt failed; null: it did not. */
  problem: string | null = null
  written = 0
  /** Parcels that are where they belong, or cannot be. */
  parcels = 0
  /** Parcels that the database cannot hold. */
  unstorable = 0

  constructor(private around: Around) {
    this.ended = this.run()
  }

  /** A parcel waits. */
  wake() {
    this.signal.raise()
  }

  /** The keeping changed. */
  keepAgain() {
    this.keptAt = 0
    this.wake()
  }

  /** The disk is short: the oldest gives way until so many bytes are free; null: there is room. */
  giveWay(lacking: (() => Promise<number>) | null) {
    this.lacking = lacking
    this.wake()
  }

  /** Gives the last parcels a moment. */
  async close() {
    this.closed = true
    this.wake()
    await within(mostMs, this.ended).catch(() => {})
    await this.client?.end().catch(() => {})
  }

  private async run() {
    while (!this.closed || (this.around.queue.count > 0 && this.problem === null)) {
      try {
        const worked = await this.step()
        this.problem = null
        this.backoff.reset()
        if (!worked && !this.closed) await this.signal.wait(lookEveryMs)
      } catch (error) {
        this.failed(error as Error)
        if (!this.closed) await new Promise((resolve) => setTimeout(resolve, this.backoff.next()))
      }
    }
  }

  private failed(error: Error) {
    if (this.problem === null) this.around.journal.caution('History', `What is recorded waits on disk: ${error.message}`)
    this.problem = error.message
    this.isMended = false
    this.parts.forget()
    const client = this.client
    this.client = null
    client?.end().catch(() => {})
  }

  /** One thing; parcels go before everything else. @returns whether there was something to do */
  private async step(): Promise<boolean> {
    if (await this.storeOldest()) return true
    if (this.closed) return false
    const db = await this.connected()
    this.state ??= await this.limited(inTransaction(db, () => stateOf(db, this.around.node)))
    if (!this.isMended || steadyNow() - this.mendedAt > mendEveryMs) {
      this.mendedAt = steadyNow()
      for (const { id, from, to } of await this.limited(foundLate(db))) this.around.madeLate(id, { from, to })
      const worked = await this.limited(mendMinutes(db, this.state, this.oldest(earliestNow()), this.parts))
      this.isMended = worked === 0
      if (worked > 0) return true
    }
    const hoursTo = await this.limited(makeHour(db, this.around.node, this.state, this.parts))
    if (hoursTo !== null) this.state = { ...this.state, hoursTo }
    return hoursTo !== null || (await this.keep(db)) || this.makeRoom(db)
  }

  private async storeOldest(): Promise<boolean> {
    const { queue, journal } = this.around
    const parcel = await queue.oldest()
    if (parcel === undefined) return false
    if (parcel === null) journal.trouble('History', 'A part of what was recorded could not be read from disk, and is lost.')
    else await this.store(parcel)
    await queue.done()
    this.parcels++
    return true
  }

  private async store(parcel: Parcel) {
    const db = await this.connected()
    try {
      this.state = await this.limited(this.storeWhole(db, parcel))
      this.written += parcel.head.samples
      if (parcel.rows.late.length > 0 || parcel.head.begins) this.isMended = false
    } catch (error) {
      if (!isDataProblem(error)) throw error
      this.unstorable++
      const text = `${parcel.head.samples} samples cannot be stored: ${(error as Error).message}`
      this.around.journal.trouble('History', text)
    }
  }

  private async storeWhole(db: pg.Client, parcel: Parcel): Promise<NodeState> {
    const owner = { state: this.around.node, node: '', isLate: false }
    try {
      return await storeParcel(db, owner, parcel, this.parts)
    } catch (error) {
      if (codeOf(error) !== uniqueViolation) throw error
      this.isMended = false
      return storeParcel(db, owner, parcel, this.parts, true)
    }
  }

  private async keep(db: pg.Client): Promise<boolean> {
    const now = steadyNow()
    if (now - this.keptAt < keepEveryMs) return false
    const gone = await this.limited(keepWithin(db, this.around.keeping(), earliestNow()))
    this.keptAt = now
    if (gone.length > 0) this.parts.forget()
    for (const { shelf, from } of gone) this.around.journal.note('History', `Dropped ${words[shelf]} from ${dayText(from)}, as was chosen.`)
    return gone.length > 0
  }

  private async makeRoom(db: pg.Client): Promise<boolean> {
    if (!this.lacking || steadyNow() - this.roomAt < roomEveryMs) return false
    this.roomAt = steadyNow()
    const gone = await this.limited(makeRoom(db, await this.lacking(), earliestNow()))
    if (gone.length > 0) this.parts.forget()
    for (const { shelf, from } of gone)
      this.around.journal.caution('History', `Dropped ${words[shelf]} from ${dayText(from)}: the disk is short.`)
    return gone.length > 0
  }

  private oldest(now: number) {
    return bucketStart(now - this.around.keeping().sample * dayMs, tierMs.minute)
  }

  private async connected(): Promise<pg.Client> {
    if (this.client) return this.client
    const client = new pg.Client({
      ...{ connectionString: this.around.databaseUrl, connectionTimeoutMillis: connectMs, keepAlive: true },
      ...{ statement_timeout: mostMs, application_name: 'conduit history' },
    })
    const lost = () => {
      if (this.client === client) this.client = null
    }
    client.on('error', lost)
    client.on('end', lost)
    await client.connect()
    // the database may be another one by now
    this.parts.forget()
    this.state = null
    if (this.problem !== null) this.around.journal.note('History', 'The database takes what is recorded again.')
    return (this.client = client)
  }

  private limited<T>(work: Promise<T>): Promise<T> {
    return within(mostMs, work)
  }
}

const words = { sample: 'single samples', second: 'seconds', minute: 'minutes', hour: 'hours' }
const uniqueViolation = '23505'
const codeOf = (error: unknown) => String((error as { code?: unknown } | null)?.code ?? '')
/** SQLSTATE 22 and 23: the data is at fault, and waiting would not help. */
const isDataProblem = (error: unknown) => /^2[23]/.test(codeOf(error))

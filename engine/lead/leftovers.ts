import pg from 'pg'
import { randomUUID } from 'node:crypto'
import { counted } from '#core/text/counted'
import { Backoff } from '#pacing/backoff'
import { pauseUnless } from '#pacing/pause'
import { KeptQueue } from '../disk/keptQueue'
import { KnownParts, storeParcel, type ParcelOwner } from '../history/storing'
import { OpenParcel, parcelPacking, type Parcel } from '../history/parcel'
import type { JournalWriter } from '../journal/journal'

interface Around {
  databaseUrl: string
  folder: string
  /** Under which name this machine recorded when it led. */
  state: string
  journal: JournalWriter
}

const room = { disk: Infinity, memory: 16 * 1024 * 1024 }
const uniqueViolation = '23505'

/** What a machine recorded while it led, and did not bring into the database before it stopped: brought there while it stands by. */
export class Leftovers {
  private closed = false
  private done: Promise<void>

  constructor(private around: Around) {
    this.done = this.run()
  }

  async close() {
    this.closed = true
    await this.done
  }

  private async run() {
    const backoff = new Backoff(500, 10_000)
    while (!this.closed) {
      try {
        return await this.bring()
      } catch (error) {
        this.around.journal.caution('History', `What this machine recorded while it led waits here: ${(error as Error).message}`)
        await pauseUnless(backoff.next(), () => this.closed)
      }
    }
  }

  private async bring() {
    const { folder, databaseUrl, journal } = this.around
    const queue = new KeptQueue<Parcel>(folder, parcelPacking, room)
    const client = new pg.Client({ connectionString: databaseUrl, connectionTimeoutMillis: 3000, statement_timeout: 60_000 })
    client.on('error', () => {})
    try {
      const aliveUntil = await queue.open()
      if (queue.count === 0) return
      await client.connect()
      const { samples } = queue
      await this.empty(queue, client)
      if (this.closed) return
      // nobody heard these tags here from then on
      if (aliveUntil !== null) await this.store(client, endingAt(aliveUntil))
      journal.note('History', `${counted(samples, 'sample')} that this machine recorded while it led are where they belong.`)
    } finally {
      await queue.close().catch(() => {})
      await client.end().catch(() => {})
    }
  }

  private async empty(queue: KeptQueue<Parcel>, client: pg.Client) {
    for (;;) {
      const parcel = this.closed ? undefined : await queue.oldest()
      if (parcel === undefined) return
      if (parcel) await this.store(client, parcel)
      await queue.done()
    }
  }

  private parts = new KnownParts()

  private async store(client: pg.Client, parcel: Parcel) {
    const owner: ParcelOwner = { state: this.around.state, node: '', isLate: true }
    try {
      await storeParcel(client, owner, parcel, this.parts)
    } catch (error) {
      if ((error as { code?: string }).code !== uniqueViolation) throw error
      await storeParcel(client, owner, parcel, this.parts, true)
    }
  }
}

const endingAt = (from: number): Parcel => {
  const open = new OpenParcel()
  open.begin(from, from)
  return open.take(randomUUID())
}

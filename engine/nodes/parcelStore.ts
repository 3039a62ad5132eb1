import pg from 'pg'
import { placesIn } from '#db/history/copyRows'
import { Backoff } from '#pacing/backoff'
import { within } from '#pacing/within'
import { KnownParts, storeParcel } from '../history/storing'
import { readParcel, type Parcel } from '../history/parcel'

interface Around {
  databaseUrl: string
  /** Whether a tag is one of this node’s. */
  isIts(node: number, tag: number): boolean
  problem(node: number, text: string): void
}

interface Waiting {
  node: number
  number: number
  parcel: Uint8Array
  done(number: number): void
}

const connectMs = 3000
const mostMs = 60_000
/** So much waits here at most; a node sends more once something of it is where it belongs. */
export const mostParcelsOnTheWay = 8
const dayMs = 86_400_000

/** What nodes recorded, on its way into the database; one parcel after the other, each once. While the database is away they wait. */
export class ParcelStore {
  private client: pg.Client | null = null
  private parts = new KnownParts()
  private backoff = new Backoff(250, 10_000)
  private waiting: Waiting[] = []
  private working: Promise<void> | null = null
  private closed = false

  constructor(private around: Around) {}

  add(node: number, number: number, parcel: Uint8Array, done: (number: number) => void) {
    // a node that keeps to its word sends no more than that
    if (this.waiting.filter((one) => one.node === node).length > 2 * mostParcelsOnTheWay)
      throw new Error('more parcels than were asked for')
    this.waiting.push({ node, number, parcel, done })
    this.working ??= this.work().finally(() => (this.working = null))
  }

  /** Its line is gone: what of it is not stored yet, it sends again. */
  forget(node: number) {
    this.waiting = this.waiting.filter((one) => one.node !== node)
  }

  async close() {
    this.closed = true
    this.waiting = []
    await within(5000, this.working ?? Promise.resolve()).catch(() => {})
    await this.client?.end().catch(() => {})
  }

  private async work() {
    while (this.waiting.length > 0 && !this.closed) {
      const [next] = this.waiting
      try {
        await this.store(next!)
        this.backoff.reset()
        if (this.waiting[0] === next) this.waiting.shift()
        next!.done(next!.number)
      } catch {
        this.drop()
        await new Promise((resolve) => setTimeout(resolve, this.backoff.next()))
      }
    }
  }

  /** What cannot be stored ever is told, and counts as done. Rejects where trying again may help. */
  private async store({ node, parcel: bytes }: Waiting) {
    const parcel = readParcel(bytes)
    if (!parcel) return this.lost(node, 'it is none, or was cut off')
    const db = await this.connected()
    const problem = await within(mostMs, this.problemWith(db, node, parcel))
    if (problem) return this.lost(node, problem)
    try {
      await within(mostMs, this.storeWhole(db, node, parcel))
    } catch (error) {
      if (!isDataProblem(error)) throw error
      this.around.problem(node, `${parcel.head.samples} samples of its record cannot be stored: ${(error as Error).message}`)
    }
  }

  private async storeWhole(db: pg.Client, node: number, parcel: Parcel) {
    const owner = { state: nodeKey(node), node: nodeKey(node), isLate: true }
    try {
      await storeParcel(db, owner, parcel, this.parts)
    } catch (error) {
      if (codeOf(error) !== uniqueViolation) throw error
      await storeParcel(db, owner, parcel, this.parts, true)
    }
  }

  /** A node tells of the tags that it runs, or ran, and of no other; and of no time that is still to come. */
  private async problemWith(db: pg.Client, node: number, { head, rows }: Parcel): Promise<string | null> {
    const told = new Set(head.series.map(({ id }) => id))
    const last = Date.now() + dayMs
    try {
      for (const part of [rows.sample, rows.second, rows.minute, rows.late])
        for (const [series, at] of placesIn(part)) {
          if (at > last) return 'its times are still to come'
          told.add(series)
        }
    } catch {
      return 'its rows are none'
    }
    const foreign = [...told].filter((id) => !this.around.isIts(node, id))
    if (foreign.length === 0) return null
    const known = await db.query<{ series: number }>('select series from history_origin where node = $1 and series = any($2)', [
      nodeKey(node),
      foreign,
    ])
    return known.rows.length === foreign.length ? null : 'it is of tags that never were its own'
  }

  private lost(node: number, why: string) {
    this.around.problem(node, `A part of what it recorded is lost: ${why}.`)
  }

  private async connected(): Promise<pg.Client> {
    if (this.client) return this.client
    const client = new pg.Client({
      ...{ connectionString: this.around.databaseUrl, connectionTimeoutMillis: connectMs, keepAlive: true },
      ...{ statement_timeout: mostMs, application_name: 'conduit nodes' },
    })
    const lost = () => {
      if (this.client === client) this.client = null
    }
    client.on('error', lost)
    client.on('end', lost)
    await client.connect()
    this.parts.forget()
    return (this.client = client)
  }

  private drop() {
    const { client } = this
    this.client = null
    client?.end().catch(() => {})
  }
}

/** Under which name the record knows a node. */
export const nodeKey = (id: number) => `node ${id}`
const uniqueViolation = '23505'
const codeOf = (error: unknown) => String((error as { code?: unknown } | null)?.code ?? '')
/** SQLSTATE 22 and 23: the data is at fault, and waiting would not help. */
const isDataProblem = (error: unknown) => /^2[23]/.test(codeOf(error))

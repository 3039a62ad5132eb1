import type { Kysely } from 'kysely'
import pg from 'pg'
import { configurationChannel } from '#db/configuration'
import { apartFrom, settle } from '#db/settle'
import { changedSince, isCase } from '#db/since'
import { isContinuation, standOf, type Mark, type Stand } from '#db/stand'
import { subjectsInOrder } from '#db/subjects'
import type { Database } from '#db/tables'
import { fault, type Fault } from '#core/faults/catalogue'
import type { HeldDatabase } from '#shared/status'
import type { JournalWriter } from '../journal/journal'
import { Backoff } from '#pacing/backoff'
import { inTurns } from '#pacing/turns'
import { KeptCopy } from './keptCopy'
import { addStored, newsIn, nothingDifferent, type Configuration, type Difference } from './site'
import type { Choice } from '#shared/heldDatabase'

interface FeedOptions {
  databaseUrl: string
  db: Kysely<Database>
  stateFolder: string
  journal: JournalWriter
  /** As it is meant to be now; `apply` brings it up to each difference. */
  known: Readonly<Configuration>
  /** Called with each difference, one at a time; what cannot be brought into force is its own to note. */
  apply(difference: Difference): Promise<void>
}

/** More things than this, and reading everything is cheaper than following what happened to each. */
const mostFollowed = 50_000
const keepAliveMs = 5000

/**
 * Brings the configuration from PostgreSQL and follows its changes. While the database is away
 * the engine runs on what it knows; at the start, on the copy that the last run kept on disk.
 */
export class ConfigurationFeed {
  connected = false
  from: 'database' | 'last known' = 'last known'
  private kept: KeptCopy
  private listener: pg.Client | null = null
  private backoff = new Backoff(250, 10_000)
  private readBackoff = new Backoff(500, 10_000)
  private retryTimer: NodeJS.Timeout | null = null
  private keepAlive: NodeJS.Timeout
  private pass: Promise<void> | null = null
  private again = false
  private readsAll = true
  private closed = false
  /** Which revision is in force, or was when this machine kept it; null: not known. */
  private mark: Mark | null = null
  /** The database is no continuation of what is in force: nothing of it is applied until somebody decides. */
  held: HeldDatabase | null = null

  constructor(private options: FeedOptions) {
    this.kept = new KeptCopy(options.stateFolder)
    this.keepAlive = setInterval(() => void this.probe(), keepAliveMs)
  }

  private get known() {
    return this.options.known
  }

  /** Resolves once a configuration, fresh or last known, is applied; goes on following by itself. */
  async start() {
    this.mark = await this.kept.mark()
    if ((await this.listen()) && this.from === 'database') return
    await this.applyLastKnown()
    if (!this.listener) this.retryLater()
  }

  async close() {
    this.closed = true
    clearInterval(this.keepAlive)
    if (this.retryTimer) clearTimeout(this.retryTimer)
    await this.listener?.end().catch(() => {})
    await this.kept.close()
  }

  /** Reads everything anew: what could not be read may have been mended since. */
  async readAgain() {
    if (!this.connected) return
    this.readsAll = true
    await this.catchUp()
  }

  /** Somebody decided what becomes of a database that is no continuation of what is in force. */
  async settle(choice: Choice, who: string): Promise<{ revision: number } | null> {
    if (!this.held) return null
    const settled = await settle(this.options.db, who, this.known, choice)
    this.mark = null
    this.held = null
    await this.readAgain()
    return settled
  }

  private async listen(): Promise<boolean> {
    const client = new pg.Client({ connectionString: this.options.databaseUrl, connectionTimeoutMillis: 3000, query_timeout: 20_000 })
    client.on('error', () => this.lost(client))
    client.on('end', () => this.lost(client))
    client.on('notification', () => void this.catchUp())
    try {
      await client.connect()
      await client.query(`listen ${configurationChannel}`)
      this.listener = client
      this.markConnected()
      await this.catchUp()
      return true
    } catch {
      await client.end().catch(() => {})
      return false
    }
  }

  private markConnected() {
    if (!this.connected && this.known.revision > 0) this.options.journal.note('Engine', 'The database is back.')
    this.connected = true
    this.backoff.reset()
  }

  private lost(client: pg.Client) {
    if (client !== this.listener || this.closed) return
    this.listener = null
    this.connected = false
    this.options.journal.caution('Engine', 'The database is away. Links and outlets go on with the last configuration.')
    this.retryLater()
  }

  private retryLater() {
    if (this.closed || this.retryTimer) return
    this.retryTimer = setTimeout(() => {
      this.retryTimer = null
      void this.listen().then((listening) => listening || this.retryLater())
    }, this.backoff.next())
  }

  /** A listening connection is silent when nothing changes; this notices one that died without a word. */
  private async probe() {
    const client = this.listener
    if (!client) return
    try {
      await client.query({ text: 'select 1' })
    } catch {
      client.end().catch(() => {})
      this.lost(client)
    }
  }

  /** One at a time; what is asked meanwhile leads to one more pass, and whoever asked waits for that. Never rejects. */
  private catchUp(): Promise<void> {
    if (this.closed) return Promise.resolve()
    if (this.pass) this.again = true
    return (this.pass ??= this.passes().finally(() => (this.pass = null)))
  }

  private async passes() {
    try {
      do {
        this.again = false
        await this.bringUpToDate()
      } while (this.again)
      this.readBackoff.reset()
    } catch (error) {
      this.options.journal.caution('Engine', `The configuration could not be read: ${(error as Error).message}`)
      setTimeout(() => void this.catchUp(), this.readBackoff.next()).unref()
    }
  }

  private async bringUpToDate() {
    if (await this.isHeld()) return
    const all = this.readsAll || this.from !== 'database'
    const difference = all ? newsIn(await this.readAll(), this.known) : await this.follow()
    this.readsAll = false
    this.from = 'database'
    if (isEmpty(difference) && this.known.revision === difference.revision && !all) return
    await this.options.apply(difference)
    await this.note(difference.revision)
    await this.keepOnDisk(difference)
  }

  private async note(revision: number) {
    const { knownAt } = await standOf(this.options.db, revision)
    this.mark = { revision, at: knownAt }
  }

  private async isHeld(): Promise<boolean> {
    const stand = await standOf(this.options.db, this.mark?.revision ?? 0)
    if (isContinuation(stand, this.mark)) {
      if (this.held) this.options.journal.note('Engine', 'The database is the one again that is in force.')
      this.held = null
      return false
    }
    if (this.held?.revision !== stand.newest.revision || this.held.at !== stand.newest.at) await this.hold(stand)
    return true
  }

  private async hold(stand: Stand) {
    const why = heldFault(stand, this.mark!)
    this.held = { ...stand.newest, since: this.held?.since ?? Date.now(), site: stand.name, inForce: this.mark!, fault: why, apart: [] }
    this.options.journal.trouble('Engine', why.what, why)
    await this.compareHeld()
  }

  /** What is in force may come from the disk only now. */
  private async compareHeld() {
    const { held, known } = this
    if (held && known.revision > 0) held.apart = await apartFrom(this.options.db, known)
  }

  private async readAll(): Promise<Difference> {
    const { revision, site, rows } = await this.options.db
      .transaction()
      .setIsolationLevel('repeatable read')
      .execute(async (db) => {
        const { revision, ...site } = await db
          .selectFrom('site')
          .select(['revision', 'name', 'fileRoots', 'history', 'journal', 'zone', 'nodeDoor', isCase])
          .executeTakeFirstOrThrow()
        const tables = []
        for (const subject of subjectsInOrder()) tables.push(await db.selectFrom(subject).selectAll().orderBy('id').execute())
        return { revision, site, rows: tables }
      })
    const all = nothingDifferent(revision, site)
    for (const [i, subject] of subjectsInOrder().entries()) await inTurns(rows[i]!, (row) => addStored(all, subject, row))
    return all
  }

  /** What is different since our revision. */
  private async follow(): Promise<Difference> {
    const since = await changedSince(this.options.db, this.known.revision, mostFollowed)
    if (since === null) return newsIn(await this.readAll(), this.known)
    const difference = nothingDifferent(since.revision, since.site)
    for (const { subject, rows, removed } of since.things) {
      difference.parts[subject].removed.push(...removed)
      await inTurns(rows, (row) => addStored(difference, subject, row))
    }
    return difference
  }

  private async keepOnDisk(difference: Difference) {
    try {
      await this.kept.add(difference, this.known, this.mark)
    } catch (error) {
      await this.kept.close()
      this.options.journal.caution('Engine', `The last configuration could not be kept on disk: ${(error as Error).message}`)
    }
  }

  private async applyLastKnown() {
    const kept = await this.kept.read()
    if (!kept)
      return this.options.journal.caution(
        'Engine',
        'Started without the database and without a kept configuration; waiting for the database.',
      )
    if (this.from === 'database') return
    const { difference } = kept
    await this.options.apply(difference)
    await this.compareHeld().catch(() => {})
    if (!this.held)
      this.options.journal.caution('Engine', `Started without the database, on the configuration of revision ${difference.revision}.`)
  }
}

const heldFault = ({ newest, name }: Stand, { revision, at }: Mark): Fault =>
  fault('site.other-database', { revision: newest.revision, changedAt: newest.at, inForce: revision, inForceAt: at, name })

const isEmpty = ({ parts, unread }: Difference) =>
  unread.length === 0 && Object.values(parts).every(({ set, removed }) => set.length + removed.length === 0)

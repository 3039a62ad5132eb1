import { readFile, rename, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import type { Kysely } from 'kysely'
import pg from 'pg'
import { configurationChannel } from '#db/configuration'
import { asCertificate, asLink, asOutlet, asTag } from '#db/rows'
import type { Change, Database } from '#db/tables'
import type { JournalWriter } from '../journal/journal'
import { Backoff } from '../links/backoff'
import { configurationOf, thingsOf, type Configuration, type Things } from './site'

interface FeedOptions {
  databaseUrl: string
  db: Kysely<Database>
  stateFolder: string
  journal: JournalWriter
  /** Called with each configuration, one at a time. */
  apply(configuration: Configuration): Promise<void>
}

/** More missed revisions than this, and reading everything is cheaper than following them. */
const mostFollowed = 50
const keepAliveMs = 5000
/** Grows with every change in the form of what is configured: a copy of another form is not read. */
const keptForm = 5

/**
 * Brings the configuration from PostgreSQL and follows its changes. While the database is away
 * the engine runs on what it knows; at the start, on the copy that the last run kept on disk.
 */
export class ConfigurationFeed {
  connected = false
  from: 'database' | 'last known' = 'last known'
  private current: Configuration | null = null
  private listener: pg.Client | null = null
  private backoff = new Backoff(250, 10_000)
  private retryTimer: NodeJS.Timeout | null = null
  private keepAlive: NodeJS.Timeout
  private catchingUp = false
  private again = false
  private closed = false

  constructor(private options: FeedOptions) {
    this.keepAlive = setInterval(() => void this.probe(), keepAliveMs)
  }

  get revision() {
    return this.current?.revision ?? 0
  }

  /** Resolves once a configuration, fresh or last known, is applied; goes on following by itself. */
  async start() {
    if (await this.listen()) return
    await this.applyLastKnown()
    this.retryLater()
  }

  async close() {
    this.closed = true
    clearInterval(this.keepAlive)
    if (this.retryTimer) clearTimeout(this.retryTimer)
    await this.listener?.end().catch(() => {})
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
    if (!this.connected && this.current) this.options.journal.note('Engine', 'The database is back.')
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

  /** One at a time; notifications that come meanwhile lead to one more pass. */
  private async catchUp() {
    if (this.closed) return
    if (this.catchingUp) {
      this.again = true
      return
    }
    this.catchingUp = true
    try {
      do {
        this.again = false
        await this.bringUpToDate()
      } while (this.again)
    } catch (error) {
      this.options.journal.caution('Engine', `The configuration could not be read: ${(error as Error).message}`)
      setTimeout(() => void this.catchUp(), 1000).unref()
    } finally {
      this.catchingUp = false
    }
  }

  private async bringUpToDate() {
    const next = this.current && this.from === 'database' ? await this.follow(this.current) : await this.readAll()
    if (this.from === 'database' && this.current?.revision === next.revision) return
    await this.options.apply(next)
    this.current = next
    this.from = 'database'
    await this.keepOnDisk(next)
  }

  private async readAll(): Promise<Configuration> {
    return this.options.db
      .transaction()
      .setIsolationLevel('repeatable read')
      .execute(async (db) => {
        const { revision } = await db.selectFrom('site').select('revision').executeTakeFirstOrThrow()
        const links = await db.selectFrom('link').selectAll().execute()
        const tags = await db.selectFrom('tag').selectAll().orderBy('id').execute()
        const outlets = await db.selectFrom('outlet').selectAll().execute()
        const certificates = await db.selectFrom('certificate').selectAll().execute()
        return configurationOf(revision, {
          links: links.map(asLink),
          tags: tags.map(asTag),
          outlets: outlets.map(asOutlet),
          certificates: certificates.map(asCertificate),
        })
      })
  }

  /** Applies the revisions since ours. */
  private async follow(current: Configuration): Promise<Configuration> {
    const revisions = await this.options.db
      .selectFrom('revision')
      .select(['number', 'changes'])
      .where('number', '>', current.revision)
      .orderBy('number')
      .limit(mostFollowed + 1)
      .execute()
    if (revisions.length > mostFollowed) return this.readAll()
    const next: Configuration = {
      revision: current.revision,
      links: new Map(current.links),
      tags: new Map(current.tags),
      outlets: new Map(current.outlets),
      certificates: new Map(current.certificates),
    }
    for (const { number, changes } of revisions) {
      next.revision = number
      for (const change of changes) applyChange(next, change)
    }
    return next
  }

  private get file() {
    return join(this.options.stateFolder, 'last-configuration.json')
  }

  /** Written aside and renamed, so that a crash never leaves half a file. */
  private async keepOnDisk(configuration: Configuration) {
    const text = JSON.stringify({ form: keptForm, revision: configuration.revision, ...thingsOf(configuration) })
    try {
      await writeFile(`${this.file}.new`, text, { mode: 0o600 })
      await rename(`${this.file}.new`, this.file)
    } catch (error) {
      this.options.journal.caution('Engine', `The last configuration could not be kept on disk: ${(error as Error).message}`)
    }
  }

  private async applyLastKnown() {
    try {
      const kept = JSON.parse(await readFile(this.file, 'utf8')) as { form?: number; revision: number } & Partial<Things>
      if (kept.form !== keptForm) throw new Error('kept by another version')
      const configuration = configurationOf(kept.revision, kept)
      await this.options.apply(configuration)
      this.current = configuration
      this.options.journal.caution('Engine', `Started without the database, on the configuration of revision ${kept.revision}.`)
    } catch {
      this.options.journal.caution('Engine', 'Started without the database and without a kept configuration; waiting for the database.')
    }
  }
}

const applyChange = (to: Configuration, { subject, id, after }: Change) => {
  const row = after as never
  if (after === null) return void { link: to.links, tag: to.tags, outlet: to.outlets, certificate: to.certificates }[subject].delete(id)
  if (subject === 'link') to.links.set(id, asLink(row))
  else if (subject === 'tag') to.tags.set(id, asTag(row))
  else if (subject === 'outlet') to.outlets.set(id, asOutlet(row))
  else to.certificates.set(id, asCertificate(row))
}

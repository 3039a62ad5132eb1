import { randomUUID } from 'node:crypto'
import { mkdirSync } from 'node:fs'
import { join } from 'node:path'
import type { Kysely } from 'kysely'
import type { Logger } from 'pino'
import pg from 'pg'
import { fault } from '#core/faults/catalogue'
import { migrate } from '#db/migrate'
import type { Database } from '#db/tables'
import { within } from '#pacing/within'
import type { Seal } from '#security/seal'
import type { LeadStatus } from '#shared/nodes'
import { NodeIdentity } from '../farNode/identity'
import { leadHistory } from '../history/storing'
import type { Journal } from '../journal/journal'
import type { Several } from '../nodes/nodes'
import { serveWeb, type Rpc } from '../rpc/server'
import { siteEngine, type SiteEngine } from '../siteEngine'
import { cutEdge, guardEdge } from './edge'
import { KeptForNext } from './keptForNext'
import { Lead, type Led } from './lead'
import { makeOwnNode } from './ownNode'
import { packOf } from './pack'
import { leadsAlready, whyNotLead } from './mayLead'
import { standBy, type Standing } from './standBy'

export interface MachineGiven {
  stateFolder: string
  databaseUrl: string
  /** Whether the database is this machine’s own: nobody else reaches it. */
  isOwnDatabase: boolean
  /** The secret from which the key for sealing is made. */
  secret: string
  seal: Seal
  db: Kysely<Database>
  journal: Journal
  log: Logger
  rpc: Rpc
  hostname: string
  version: string
  /** The run of this machine before, where the launcher saw it end. */
  endedRun: string | null
  /** Tells the launcher that this run leads, so that it can vouch for its end. */
  tellRun(run: string): void
  /** This process ends, and another one takes its place. */
  leave(why: string): void
}

const letGoMs = 4000
const flushMs = 1000
const becomeMs = 8000

/**
 * One machine of a site. Where it is the only one it leads, whatever the database does. Where there are several, one leads and the
 * others stand by: they run the links that are placed on them, and lend their web sides.
 */
export class SiteMachine {
  private identity: NodeIdentity | null
  private lead: Lead | null = null
  private site: SiteEngine | null = null
  private standing: Standing | null = null
  private kept: KeptForNext | null = null
  private run = randomUUID()
  private isStopping = false
  /** Whether it leads by the lease: what leaves it leaves by that. */
  private mustHold = false
  private becoming: Promise<void> | null = null
  private hindrance: string | null = null
  private onLed: () => void = () => {}
  private turning: Promise<void> = Promise.resolve()

  constructor(private given: MachineGiven) {
    this.identity = NodeIdentity.load(given.stateFolder, given.seal)
  }

  /** Resolves once it leads or stands by. */
  async start() {
    if (!this.identity) return this.beginAlone()
    await this.beginToStand(this.identity)
    this.contend(this.identity)
  }

  async stop() {
    this.isStopping = true
    await this.turning
    await this.end()
  }

  private async end() {
    await this.standing?.close()
    await this.site?.close()
    await this.kept?.close()
    await this.lead?.release()
    // all of the site has ended here; what is left to say is for the journal
    this.mustHold = false
  }

  private several: Several = {
    own: () => this.identity?.node ?? null,
    lead: () => this.leadStatus(),
    become: () => (this.becoming ??= this.becomeOneOfSeveral().finally(() => (this.becoming = null))),
    pack: () => packOf(this.given.stateFolder, this.given.databaseUrl, this.given.secret),
    handOver: async (wish) => void (await this.given.db.updateTable('site_lead').set({ wish }).execute()),
    knows: (name, site, places) => this.identity?.called(name, site, places),
    serve: (socket) => this.site && serveWeb(socket, this.site),
  }

  private leadStatus(): LeadStatus | null {
    const { lead, identity, site } = this
    if (!lead || !identity || lead.fence === null) return null
    const canHandOver = site?.nodes.standing() ?? []
    return { node: identity.node, name: identity.name, since: lead.since!, fence: lead.fence, holdsBy: lead.holdsBy, canHandOver }
  }

  private contend(identity: NodeIdentity) {
    const { databaseUrl, endedRun } = this.given
    const lead = new Lead({
      ...{ databaseUrl, node: identity.node, name: identity.name, run: this.run, ended: endedRun },
      mayLead: () => this.mayLead(),
      promised: (ms) => this.site?.nodes.promised(ms) ?? Promise.resolve(false),
      led: (led) => void (this.turning = this.led(led).catch((error: Error) => this.leave(error.message))),
      lost: (why) => this.lost(why),
      asked: (node) => void this.handOver(node),
    })
    this.lead = lead
    guardEdge(() => !this.mustHold || lead.isHeld)
    lead.start()
  }

  private async mayLead(): Promise<boolean> {
    const why = await whyNotLead(this.given.db, this.identity!)
    if (why && this.hindrance !== why) this.given.journal.caution('Engine', `This machine cannot lead the site: ${why}`)
    this.hindrance = why
    return why === null
  }

  /** The only machine leads without asking; but not where another one leads by the same database. */
  private async beginAlone() {
    const { isOwnDatabase, db, journal } = this.given
    const other = isOwnDatabase ? null : await leadsAlready(db)
    if (other === null) return this.beginToLead(null)
    journal.trouble(
      'Engine',
      `“${other}” leads the site of this database: this machine is none of it, and does nothing. Make it one by a code.`,
    )
    this.leave(`“${other}” leads the site of this database, and this machine is none of it`)
  }

  private async beginToStand(identity: NodeIdentity) {
    const { stateFolder, databaseUrl, seal, version, log, rpc, journal } = this.given
    const folder = join(stateFolder, 'standby')
    mkdirSync(folder, { recursive: true, mode: 0o700 })
    this.standing = await standBy({
      ...{ identity, folder, certificateFolder: stateFolder, seal, version, log, rpc, run: this.run },
      journal,
      spool: join(stateFolder, 'spool'),
      leftovers: { databaseUrl, folder: join(stateFolder, 'history'), state: stateName(identity) },
      promise: (ms) => this.lead?.promise(ms) ?? false,
    })
  }

  /** It leads: what it did while it stood by ends, and the whole site begins. */
  private async led(led: Led) {
    const { journal, databaseUrl, db } = this.given
    this.given.tellRun(this.run)
    this.mustHold = true
    this.onLed()
    if (this.site) return
    const name = this.identity!.name
    const before = led.before ? `, after “${led.before}”` : ''
    await within(letGoMs, this.standing?.close() ?? Promise.resolve()).catch(() => {})
    this.standing = null
    if (this.isStopping) return
    await migrate(db)
    await withClient(databaseUrl, (client) => leadHistory(client, stateName(this.identity!)))
    journal.note(name, `This machine leads the site now${before} (${led.fence}).`)
    await this.beginToLead(led)
  }

  private async beginToLead(led: Led | null) {
    const { stateFolder, databaseUrl, db, journal, seal, hostname, rpc, isOwnDatabase } = this.given
    const { identity } = this
    if (identity) this.kept = new KeptForNext(db, journal)
    const site = await siteEngine({
      ...{ stateFolder, databaseUrl, db, journal, seal, isOwnDatabase, several: this.several, node: identity?.name ?? hostname },
      historyState: identity ? stateName(identity) : hostname,
      leaderAliveAt: led?.leaderAliveAt ?? null,
      kept: this.kept && { told: this.kept, isTakenOver: led?.isOther ?? false },
    })
    this.site = site
    rpc.serveBy((socket) => serveWeb(socket, site))
    await site.start()
  }

  private async becomeOneOfSeveral() {
    if (this.lead?.isHeld) return
    if (this.identity) throw new Error('this machine does not lead the site now')
    const { isOwnDatabase, db, stateFolder, seal, journal, hostname } = this.given
    if (isOwnDatabase) throw fault('node.alone', {}) as unknown as Error
    const { authority } = this.site!
    const identity = await makeOwnNode({ db, stateFolder, seal, authority, hostname })
    this.identity = identity
    const led = new Promise<void>((resolve) => (this.onLed = resolve))
    this.contend(identity)
    await within(becomeMs, led)
    this.kept = new KeptForNext(db, journal)
    await this.site!.tellNext(this.kept)
    journal.note('Nodes', `This machine is the node “${identity.name}” now, and leads the site. Others may stand by.`)
  }

  private async handOver(node: number) {
    if (this.isStopping) return
    this.isStopping = true
    const name = this.site?.nodes.get(node)?.name ?? 'another machine'
    this.given.journal.note(this.identity!.name, `The lead is handed over to “${name}”.`)
    await within(letGoMs * 2, this.end()).catch(() => {})
    await within(flushMs, this.given.journal.close()).catch(() => {})
    this.leave(`the lead was handed over to “${name}”`)
  }

  /** From now on nothing leaves this process; another one stands by in its place. */
  private lost(why: string) {
    cutEdge()
    this.leave(`it leads the site no more: ${why}`)
  }

  private leave(why: string) {
    this.given.log.warn({ why }, 'this run ends')
    this.given.leave(why)
  }
}

/** Under which name the record knows a machine that may lead. */
const stateName = ({ node }: NodeIdentity) => `machine ${node}`

const withClient = async (databaseUrl: string, work: (client: pg.Client) => Promise<unknown>) => {
  const client = new pg.Client({ connectionString: databaseUrl, connectionTimeoutMillis: 3000, statement_timeout: 10_000 })
  client.on('error', () => {})
  try {
    await client.connect()
    await work(client)
  } finally {
    await client.end().catch(() => {})
  }
}

import pg from 'pg'
import { within } from '#pacing/within'
import { LeadRow, type Held, type Seen } from './leadRow'

export interface LeadTiming {
  /** So long after its last renewal began, a machine leads no more. */
  holdMs: number
  renewEveryMs: number
  /** So much longer the others wait. */
  marginMs: number
  lookEveryMs: number
  /** A question to the database that takes longer is asked anew. */
  askMs: number
  /** So long a machine that does not reach the database may lead one that does. */
  patienceMs: number
}

export const usualTiming: LeadTiming = { holdMs: 4000, renewEveryMs: 800, marginMs: 500, lookEveryMs: 250, askMs: 1500, patienceMs: 15_000 }

export interface Led {
  fence: number
  /** Whether another machine led before. */
  isOther: boolean
  /** How that one is called; empty: none did. */
  before: string
  /** When it was known to lead, by this clock; null: this machine led before, or none. */
  leaderAliveAt: number | null
}

interface Around {
  databaseUrl: string
  node: number
  name: string
  /** Of this run of this machine. */
  run: string
  /** The run of this machine before, where it is known to have ended. */
  ended: string | null
  timing?: LeadTiming
  /** Whether this machine could lead, asked right before it would. */
  mayLead(): Promise<boolean>
  /** Asks all others that may lead not to for so long; whether all gave their word. */
  promised(ms: number): Promise<boolean>
  led(led: Led): void
  /** It leads no more: nothing may leave this process any more. */
  lost(why: string): void
  /** Somebody wants another node to lead. */
  asked(node: number): void
}

/** After a release for somebody else, others wait so long. */
const yieldMs = 5000

/**
 * Whether this machine leads its site: the one row of `site_lead`, held by renewing it. No clock is compared with another one: whoever
 * wants to lead sees for so long, by its own clock, that nobody renews; whoever leads stops by its own clock before that, counted
 * from when its last renewal began. A fence grows with each new leader.
 */
export class Lead {
  private held: Held | null = null
  /** By the clock of this process (ms), until when it leads. */
  private until = 0
  private by: 'database' | 'promise' = 'database'
  private seen: { row: Seen; at: number } | null = null
  private promisedUntil = 0
  /** Whether it is about to lead: too late for a promise. */
  private isTaking = false
  private timer: NodeJS.Timeout | null = null
  private watch: NodeJS.Timeout | null = null
  private row: LeadRow
  private timing: LeadTiming
  private isOver = false
  private current: Promise<void> = Promise.resolve()
  /** Who leads, as it was seen last; null: nobody, or it is not known. */
  leader: { node: number; name: string } | null = null
  /** Why the database could not be asked last; null: it answers. */
  problem: string | null = null

  constructor(private around: Around) {
    this.timing = around.timing ?? usualTiming
    const { databaseUrl } = around
    const { askMs } = this.timing
    this.row = new LeadRow(
      () =>
        new pg.Client({
          ...{ connectionString: databaseUrl, connectionTimeoutMillis: askMs, query_timeout: askMs, keepAlive: true },
          application_name: 'conduit lead',
        }),
    )
  }

  start() {
    this.later(0)
  }

  /** Whether it leads now: asked before anything leaves this process. */
  get isHeld(): boolean {
    return this.held !== null && now() < this.until
  }

  get fence(): number | null {
    return this.held?.fence ?? null
  }

  get since(): number | null {
    return this.held?.since ?? null
  }

  get holdsBy() {
    return this.by
  }

  /**
   * Gives its word that this machine does not begin to lead for so long. Whether it can: not where it sees for long that the database
   * works, and that only whoever leads does not reach it.
   */
  promise(ms: number): boolean {
    if (this.held || this.isTaking) return false
    const { patienceMs } = this.timing
    if (this.problem === null && this.seen && now() - this.seen.at > patienceMs) return false
    this.promisedUntil = Math.max(this.promisedUntil, now() + ms)
    return true
  }

  /** Lets another machine lead; all of this one has ended before. */
  async release(): Promise<void> {
    const { held } = this
    await this.stop()
    // as long as it is held, it may say so
    if (held) await this.row.release(held).catch(() => {})
    this.held = null
    await this.row.close()
  }

  /** Ends without a word to the database. */
  async close() {
    await this.stop()
    await this.row.close()
  }

  private async stop() {
    this.isOver = true
    if (this.timer) clearTimeout(this.timer)
    if (this.watch) clearTimeout(this.watch)
    await within(2 * this.timing.askMs, this.current).catch(() => {})
  }

  private later(ms: number) {
    if (!this.isOver) this.timer = setTimeout(() => void (this.current = this.turn()), ms)
  }

  private async turn() {
    const { renewEveryMs, lookEveryMs } = this.timing
    try {
      await (this.held ? this.renew(this.held) : this.look())
      this.problem = null
    } catch (error) {
      this.problem = (error as Error).message
      if (!this.held) this.seen = null
    }
    this.later(this.held && this.problem === null ? renewEveryMs : lookEveryMs)
  }

  /** Sees who leads, and leads where nobody does. */
  private async look() {
    const row = await this.row.see()
    this.leader = row.node === null || row.run === null ? null : { node: row.node, name: row.name }
    if (!this.seen || !isSame(this.seen.row, row)) this.seen = { row, at: now() }
    if (!this.isFree(row, now() - this.seen.at) || now() < this.promisedUntil || !(await this.around.mayLead())) return
    // it may have given its word meanwhile
    if (now() < this.promisedUntil) return
    const begun = now()
    const { node, name, run } = this.around
    this.isTaking = true
    const held = await this.row.take(row, { node, name, run }).finally(() => (this.isTaking = false))
    if (!held || this.isOver) return
    this.hold(held, begun)
    const isOther = row.node !== null && row.node !== node
    const leaderAliveAt = isOther ? Date.now() - row.ageMs : null
    this.around.led({ fence: held.fence, isOther, before: isOther ? row.name : '', leaderAliveAt })
  }

  private isFree(row: Seen, unchangedMs: number): boolean {
    const { ended, node } = this.around
    const { holdMs, marginMs } = this.timing
    if (row.run === null) return row.wish === null || row.wish === node || unchangedMs > yieldMs
    return row.run === ended || unchangedMs > holdMs + marginMs
  }

  private hold(held: Held, begun: number) {
    this.held = held
    this.by = 'database'
    this.leader = { node: this.around.node, name: this.around.name }
    this.extend(begun)
  }

  private extend(begun: number) {
    this.until = Math.max(this.until, begun + this.timing.holdMs)
    if (this.watch) clearTimeout(this.watch)
    this.watch = setTimeout(() => this.lookForEnd(), Math.max(0, this.until - now()))
  }

  private lookForEnd() {
    if (this.isOver || !this.held) return
    if (now() >= this.until) return this.lose('its lease ran out: the database did not take a renewal in time')
    this.extend(this.until - this.timing.holdMs)
  }

  private async renew(held: Held) {
    const begun = now()
    // while the database does not answer, the word of all others is worth as much
    if (this.problem !== null) void this.askOthers()
    const renewed = await this.row.renew(held)
    if (this.held !== held) return
    if (!renewed) return this.renewElse(held, begun)
    this.by = 'database'
    this.extend(begun)
    if (renewed.wish !== null && renewed.wish !== this.around.node) this.around.asked(renewed.wish)
  }

  /** The row is not ours: somebody else leads, or the database was put back to an older state, in which nobody can. */
  private async renewElse(held: Held, begun: number) {
    const row = await this.row.see()
    if (row.fence >= held.fence) return this.lose(row.name ? `“${row.name}” leads now` : 'another machine leads now')
    const again = await this.row.take(row, held, held.fence + 1)
    if (again) this.hold({ ...again, since: held.since }, begun)
    else this.lose('the database was put back to an older state, and another machine leads by it')
  }

  private async askOthers() {
    const begun = now()
    const { held } = this
    const all = await this.around.promised(this.timing.holdMs).catch(() => false)
    if (!all || this.held !== held || this.isOver) return
    this.by = 'promise'
    this.extend(begun)
  }

  private lose(why: string) {
    this.held = null
    this.isOver = true
    if (this.timer) clearTimeout(this.timer)
    if (this.watch) clearTimeout(this.watch)
    this.around.lost(why)
  }
}

const now = () => performance.now()
const isSame = (a: Seen, b: Seen) => a.run === b.run && a.fence === b.fence && a.beat === b.beat

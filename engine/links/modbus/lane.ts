import { steadyNow } from '#pacing/clock'
import type { Wire } from '../../wire/wire'
import { type Fault, isFault } from '#core/faults/catalogue'
import { fault } from '#core/faults/catalogue'
import type { Request } from '#core/modbus/pdu'
import { answerMsOf, isBroadcast, pauseMsOf, type ModbusSettings } from '#core/modbus/settings'
import { Backoff } from '#pacing/backoff'
import { ModbusConnection, type Outcome, type StrayCounts } from './connection'

export interface LaneEvents {
  /** `afterOutage`: the far side was away before; a silent unit alone is no outage. */
  opened(lane: Lane, afterOutage: boolean): void
  closed(lane: Lane, fault: Fault): void
  /** The device has the habit of closing the connection after each reply. */
  closesAfterReply(lane: Lane): void
}

interface Job {
  unit: number
  request: Request
  /** Unix milliseconds after which it must not be sent any more. */
  until: number
  /** How often it was sent; a read may be sent again, a write never. */
  tries: number
  isWrite: boolean
  settle(outcome: Outcome): void
}

/** A read that the device closed the connection on is sent so often in all. */
const mostTries = 3
/** After so many in a row, closing after a reply is a habit of the device, and no accident. */
const habitAfter = 3
/** A connection that carried more than this, or ended later than this after the last reply, was not closed for it. */
const mostAnswers = 4
const closedForReplyMs = 100

/** A connection younger than this that dies did not really work; the pauses go on growing. */
const provenAfterMs = 5000

/**
 * A connection kept open, and the queue in front of it. Writes go before reads; units that share
 * the lane take turns, so that one with many requests does not starve the others.
 */
export class Lane {
  readonly units = new Set<number>()
  readonly strays: StrayCounts = { late: 0, foreign: 0 }
  fault: Fault | null = null
  /** Connections in a row that could not be opened, or ended without a single answer. */
  fruitless = 0
  /** Connections in a row that the device closed after it had answered over them. */
  closedAfterReply = 0
  /** What opening the last one again took, ms. */
  reopeningMs = 0
  private reopening = false
  private wasDown = false
  private connection: ModbusConnection | null = null
  private openedAt = 0
  private writes: Job[] = []
  private reads = new Map<number, Job[]>()
  private turn: number[] = []
  private underWay = 0
  private pausing = false
  private retryTimer: NodeJS.Timeout | null = null
  private backoff: Backoff
  private stopped = false

  constructor(
    private settings: ModbusSettings,
    private events: LaneEvents,
    private wire: Wire,
  ) {
    this.backoff = new Backoff(settings.patience.retryFirst, settings.patience.retryMost)
    void this.connect()
  }

  get isOpen() {
    return this.connection !== null || this.reopening
  }

  /** The device closes the connection after each reply: every value costs a connection. */
  get isClosedAfterReply() {
    return this.closedAfterReply >= habitAfter
  }

  /** New limits and patience; the connection stays. */
  adjust(settings: ModbusSettings) {
    this.settings = settings
    this.backoff = new Backoff(settings.patience.retryFirst, settings.patience.retryMost)
    if (this.retryTimer) this.retrySoon(0)
  }

  /** When it connects again by itself; null: it does not wait for that. */
  get nextTry(): number | null {
    return this.retryTimer ? this.backoff.nextTry : null
  }

  tryNow() {
    if (this.retryTimer) this.retrySoon(0)
  }

  read(unit: number, request: Request): Promise<Outcome> {
    return this.enqueue((settle) => {
      const queue = this.reads.get(unit)
      const job = { unit, request, until: Infinity, tries: 0, isWrite: false, settle }
      if (queue) return void queue.push(job)
      this.reads.set(unit, [job])
      this.turn.push(unit)
    })
  }

  /** @param until Unix milliseconds: what has not left by then does not leave. */
  write(unit: number, request: Request, until: number): Promise<Outcome> {
    return this.enqueue((settle) => void this.writes.push({ unit, request, until, tries: 0, isWrite: true, settle }))
  }

  /** Takes back what a unit has waiting; requests under way run to their end. */
  dropReads(unit: number) {
    const jobs = this.reads.get(unit) ?? []
    this.reads.delete(unit)
    this.turn = this.turn.filter((other) => other !== unit)
    for (const job of jobs) job.settle({ kind: 'closed', sent: false })
  }

  private enqueue(place: (settle: Job['settle']) => void): Promise<Outcome> {
    return new Promise((settle) => {
      if (!this.isOpen) return settle({ kind: 'closed', sent: false })
      place(settle)
      this.pump()
    })
  }

  close() {
    this.stopped = true
    this.reopening = false
    if (this.retryTimer) clearTimeout(this.retryTimer)
    this.connection?.close()
    this.connection = null
    this.failAll()
  }

  private async connect() {
    const { host, port, localAddress, patience, way } = this.settings
    try {
      const options = { host, port, localAddress, connectMs: patience.connect, way }
      const connection = await ModbusConnection.open(this.wire, options, this.strays, (why) => this.lost(why))
      if (this.stopped) return connection.close()
      this.connection = connection
      this.openedAt = steadyNow()
      this.fault = null
      if (this.reopening) return this.reopened()
      const afterOutage = this.wasDown
      this.wasDown = false
      this.events.opened(this, afterOutage)
    } catch (why) {
      if (!this.stopped) this.down(asFault(why))
    }
  }

  private reopened() {
    this.reopening = false
    this.reopeningMs = steadyNow() - this.lostAt
    this.pump()
  }
  private lostAt = 0

  /**
   * A device that closes after each reply has answered: what it said counts, and the next request opens
   * again. Before that is known to be its habit, a connection that ends is a loss like any other.
   */
  private reopenAfterReply(connection: ModbusConnection, why: Fault): boolean {
    const wasForReply =
      why.code === 'tcp.closed' &&
      connection.answers > 0 &&
      connection.answers <= mostAnswers &&
      performance.now() - connection.lastAnswerAt < closedForReplyMs
    this.closedAfterReply = wasForReply ? this.closedAfterReply + 1 : 0
    if (this.stopped || !this.isClosedAfterReply) return false
    if (this.closedAfterReply === habitAfter) this.events.closesAfterReply(this)
    this.reopening = true
    this.lostAt = steadyNow()
    void this.connect()
    return true
  }

  private lost(why: Fault) {
    const connection = this.connection
    this.connection = null
    if (connection && this.reopenAfterReply(connection, why)) return
    if (steadyNow() - this.openedAt > provenAfterMs) this.backoff.reset()
    this.down(why)
  }

  private down(why: Fault) {
    this.reopening = false
    this.fault = why
    this.fruitless++
    if (why.code !== 'modbus.dead-connection') this.wasDown = true
    this.failAll()
    this.retrySoon(this.backoff.next())
    this.events.closed(this, why)
  }

  private retrySoon(ms: number) {
    if (this.retryTimer) clearTimeout(this.retryTimer)
    if (this.stopped) return
    this.retryTimer = setTimeout(() => {
      this.retryTimer = null
      void this.connect()
    }, ms)
  }

  private failAll() {
    const jobs = [...this.writes, ...[...this.reads.values()].flat()]
    this.writes = []
    this.reads.clear()
    this.turn = []
    for (const job of jobs) job.settle({ kind: 'closed', sent: false })
  }

  private pump() {
    while (!this.pausing && this.connection && this.underWay < this.settings.requests.inFlight) {
      const job = this.writes.shift() ?? this.nextRead()
      if (!job) return
      if (steadyNow() > job.until) {
        job.settle({ kind: 'expired' })
        continue
      }
      this.underWay++
      void this.run(this.connection, job)
    }
  }

  private nextRead(): Job | undefined {
    const unit = this.turn.shift()
    if (unit === undefined) return undefined
    const queue = this.reads.get(unit)!
    const job = queue.shift()
    if (queue.length > 0) this.turn.push(unit)
    else this.reads.delete(unit)
    return job
  }

  private async run(connection: ModbusConnection, job: Job) {
    job.tries++
    const { settings } = this
    const outcome = isBroadcast(settings, job.unit)
      ? await connection.sendToAll(job.request, settings.way!.broadcast)
      : await connection.send(job.unit, job.request, answerMsOf(settings, job.unit))
    this.underWay--
    if (outcome.kind === 'closed' && this.mayRepeat(job, connection)) return this.repeat(job)
    if (outcome.kind === 'reply' || outcome.kind === 'exception') this.fruitless = 0
    job.settle(outcome)
    const pause = Math.max(pauseMsOf(settings, job.unit), outcome.kind === 'silent' ? (settings.way?.settle ?? 0) : 0)
    if (pause > 0) await this.rest(pause)
    this.pump()
  }

  /** The reply before was the last over that connection; this request came too late for it. */
  private mayRepeat(job: Job, connection: ModbusConnection) {
    return this.isClosedAfterReply && !job.isWrite && !this.stopped && connection.answers > 0 && job.tries < mostTries
  }

  private repeat(job: Job) {
    const queue = this.reads.get(job.unit)
    if (queue) queue.unshift(job)
    else {
      this.reads.set(job.unit, [job])
      this.turn.unshift(job.unit)
    }
    this.pump()
  }

  private rest(ms: number): Promise<void> {
    this.pausing = true
    return new Promise((resolve) =>
      setTimeout(() => {
        this.pausing = false
        resolve()
      }, ms),
    )
  }
}

const asFault = (thing: unknown): Fault => (isFault(thing) ? thing : fault('ours.unexpected', { problem: String(thing) }))

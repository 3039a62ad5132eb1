import { fault, type Fault, isFault } from '#core/faults/catalogue'
import type { IsoTcpSettings } from '#core/isotcp/settings'
import { Backoff } from '#pacing/backoff'
import { earliest } from '#pacing/earliest'
import { steadyNow } from '#pacing/clock'
import type { Wire } from '../../wire/wire'
import { ControllerConnection, type Call, type Outcome } from './connection'

export interface PoolEvents {
  /** There is a connection again; `size` is what requests may have from now on. */
  opened(): void
  /** The last connection is gone. */
  closed(why: Fault): void
  /** Requests may be smaller or larger than before. */
  resized(): void
  /** The controller takes no more than so many connections. */
  limited(connections: number, why: Fault): void
}

interface Job {
  call: Call<unknown>
  /** Unix milliseconds after which it must not be sent any more. */
  until: number
  /** How often it was sent; a read may be sent again, a write never. */
  tries: number
  isWrite: boolean
  settle(outcome: Outcome<unknown>): void
}

/** One of the connections, kept open or opened again. */
interface Seat {
  connection: ControllerConnection | null
  underWay: number
  backoff: Backoff
  timer: NodeJS.Timeout | null
  openedAt: number
  fruitless: number
  fault: Fault | null
}

const mostTries = 2
/** A connection younger than this that dies did not really work; the pauses go on growing. */
const provenAfterMs = 5000
/** After so many failures beside a working connection, the controller seems to have no place for another one. */
const failedBesideWorking = 2

/** The connections of a link, and one queue before them: whichever is free takes what waits, writes first. */
export class Pool {
  /** What requests may have at most, bytes: the least that any connection was granted. */
  size: number | null = null
  private seats: Seat[] = []
  private most: number
  private writes: Job[] = []
  private reads: Job[] = []
  private stopped = false

  constructor(
    private settings: IsoTcpSettings,
    private events: PoolEvents,
    private wire: Wire,
  ) {
    this.most = settings.requests.connections
    this.addSeat()
  }

  get open(): number {
    return this.seats.filter(({ connection }) => connection !== null).length
  }

  /** Why there is no connection; null: there is one, or it is being opened for the first time. */
  get fault(): Fault | null {
    return this.open > 0 ? null : (this.seats.find(({ fault: why }) => why)?.fault ?? null)
  }

  /** Requests that may be under way at once, over all connections. */
  get atOnce(): number {
    return this.seats.reduce((total, { connection }) => total + (connection?.granted.parallel ?? 0), 0)
  }

  /** New patience; the connections stay. */
  adjust(settings: IsoTcpSettings) {
    this.settings = settings
    for (const seat of this.seats) {
      seat.backoff = new Backoff(settings.patience.retryFirst, settings.patience.retryMost)
      if (seat.timer) this.openSoon(seat, 0)
    }
  }

  /** When it connects again by itself; null: it does not wait for that. */
  get nextTry(): number | null {
    return earliest(this.seats.map(({ timer, backoff }) => (timer ? backoff.nextTry : null)))
  }

  tryNow() {
    for (const seat of this.seats) if (seat.timer) this.openSoon(seat, 0)
  }

  read<T>(call: Call<T>): Promise<Outcome<T>> {
    return this.enqueue(call, Infinity, false)
  }

  /** @param until Unix milliseconds: what has not left by then does not leave. */
  write<T>(call: Call<T>, until: number): Promise<Outcome<T>> {
    return this.enqueue(call, until, true)
  }

  close() {
    this.stopped = true
    for (const { timer, connection } of this.seats) {
      if (timer) clearTimeout(timer)
      connection?.close()
    }
    this.seats = []
    this.failAll()
  }

  private enqueue<T>(call: Call<T>, until: number, isWrite: boolean): Promise<Outcome<T>> {
    return new Promise((resolve) => {
      if (this.open === 0) return resolve({ kind: 'closed', sent: false })
      const settle = resolve as (outcome: Outcome<unknown>) => void
      ;(isWrite ? this.writes : this.reads).push({ call, until, tries: 0, isWrite, settle })
      this.pump()
    })
  }

  private addSeat() {
    const { retryFirst, retryMost } = this.settings.patience
    const seat: Seat = {
      ...{ connection: null, underWay: 0, timer: null, openedAt: 0, fruitless: 0, fault: null },
      backoff: new Backoff(retryFirst, retryMost),
    }
    this.seats.push(seat)
    void this.connect(seat)
  }

  private async connect(seat: Seat) {
    try {
      const connection = await ControllerConnection.open(this.wire, this.settings, (why) => this.lost(seat, why))
      if (this.stopped || !this.seats.includes(seat)) return connection.close()
      if (!connection.isOpen) return
      Object.assign(seat, { connection, underWay: 0, openedAt: steadyNow(), fault: null, fruitless: 0 })
      this.resize()
      if (this.open === 1) this.beginAgain()
      this.pump()
      // one after the other: a controller whose places are taken is not stormed
      if (this.seats.length < this.most && this.seats.every((other) => other.connection)) this.addSeat()
    } catch (why) {
      if (!this.stopped && this.seats.includes(seat))
        this.down(seat, isFault(why) ? why : fault('ours.unexpected', { problem: String(why) }))
    }
  }

  /** It was away: how many places it has is found out anew. */
  private beginAgain() {
    this.most = this.settings.requests.connections
    this.events.opened()
  }

  private lost(seat: Seat, why: Fault) {
    if (!seat.connection) return this.down(seat, why)
    seat.connection = null
    if (steadyNow() - seat.openedAt > provenAfterMs) seat.backoff.reset()
    this.down(seat, why)
    if (this.open > 0) this.resize()
  }

  private down(seat: Seat, why: Fault) {
    seat.fault = why
    seat.fruitless++
    if (this.open > 0 && seat.fruitless >= failedBesideWorking) return this.giveUp(seat, why)
    this.openSoon(seat, seat.backoff.next())
    if (this.open > 0) return
    this.size = null
    this.failAll()
    this.events.closed(why)
  }

  /** The others do its work. */
  private giveUp(seat: Seat, why: Fault) {
    this.seats = this.seats.filter((other) => other !== seat)
    this.most = this.seats.length
    this.events.limited(this.most, why)
  }

  private openSoon(seat: Seat, ms: number) {
    if (seat.timer) clearTimeout(seat.timer)
    if (this.stopped) return
    seat.timer = setTimeout(() => {
      seat.timer = null
      void this.connect(seat)
    }, ms)
  }

  private resize() {
    const before = this.size
    const sizes = this.seats.flatMap(({ connection }) => (connection ? [connection.granted.size] : []))
    this.size = Math.min(...sizes)
    if (before !== null && before !== this.size) this.events.resized()
  }

  private failAll() {
    for (const job of [...this.writes.splice(0), ...this.reads.splice(0)]) job.settle({ kind: 'closed', sent: false })
  }

  private pump() {
    for (;;) {
      const seat = this.freest()
      const job = seat && (this.writes.shift() ?? this.reads.shift())
      if (!seat || !job) return
      if (steadyNow() > job.until) job.settle({ kind: 'expired' })
      else void this.run(seat, job)
    }
  }

  private freest(): Seat | null {
    let best: Seat | null = null
    for (const seat of this.seats) {
      if (!seat.connection || seat.underWay >= seat.connection.granted.parallel) continue
      if (best === null || seat.underWay < best.underWay) best = seat
    }
    return best
  }

  private async run(seat: Seat, job: Job) {
    const connection = seat.connection!
    job.tries++
    seat.underWay++
    const outcome = await connection.send(job.call, this.settings.patience.answer)
    if (seat.connection === connection) seat.underWay--
    const isLost = outcome.kind === 'closed' && !job.isWrite && job.tries < mostTries && this.open > 0
    if (isLost) this.reads.unshift(job)
    else job.settle(outcome)
    this.pump()
  }
}

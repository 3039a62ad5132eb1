import type { Duplex } from 'node:stream'
import { Socket } from 'node:net'
import type { Fault } from '#core/faults/catalogue'
import { fault } from '#core/faults/catalogue'
import { tcpFault } from '#core/faults/tcp'
import type { Cut, Frame } from '#core/modbus/frame'
import { framesOf } from '#core/modbus/framing'
import type { ModbusWay } from '#core/modbus/settings'
import { serialFault } from '../../serial/faults'
import { openSerial } from '../../serial/openSerial'
import { TimedCutter } from '../../serial/timedCutter'
import type { Dialled, Wire } from '../../wire/wire'
import { decodeReply, encodeRequest, type Reply, type Request } from '#core/modbus/pdu'

/** What became of a request. `ms` is from sending to the last byte of the reply. */
export type Outcome =
  | { kind: 'reply'; reply: Reply; ms: number; at: number }
  | { kind: 'exception'; code: number; ms: number }
  /** `came`: what did come meanwhile, in words; empty: nothing. */
  | { kind: 'silent'; ms: number; came: string }
  /** `service`: what the peer seems to be instead, where its first bytes tell. */
  | { kind: 'malformed'; problem: string; service: string | null }
  /** The connection ended, or there is none; `sent` tells whether the request had left. */
  | { kind: 'closed'; sent: boolean }
  /** It went to everybody, and nobody answers. */
  | { kind: 'obeyed' }
  /** It waited longer than it may, and was not sent. */
  | { kind: 'expired' }

/** `way`: absent: Modbus TCP. */
export type ConnectOptions = Pick<Dialled, 'host' | 'port' | 'localAddress' | 'connectMs'> & { way?: ModbusWay | undefined }

export interface StrayCounts {
  late: number
  foreign: number
}

interface Pending {
  unit: number
  request: Request
  sentAt: number
  /** When patience ends, by `performance.now()`. */
  dueAt: number
  timer: NodeJS.Timeout
  settle(outcome: Outcome): void
}

const rememberedTimeouts = 256
const silentUntilDead = 3
const busyMs = 50
const graceMs = 100
/** Replies that nobody asked for, in a second: more is a flood that would take a whole core. */
const mostStrays = 2000
const rememberedOddities = 8

/** A line without a byte for so long has no frame under way: converters and systems hand bytes on in pieces. */
const silentMs = 60

/**
 * One connection that carries Modbus requests. Over Modbus TCP replies are matched by transaction id, so several may be
 * under way; over a line there is one, and a reply is its own where unit, function and length are those that were asked
 * for. A reply that comes too late or belongs to nobody is dropped and counted.
 */
export class ModbusConnection {
  private pending = new Map<number, Pending>()
  private timedOut: number[] = []
  private cutter: TimedCutter
  private transaction = 0
  private silentInARow = 0
  private lastFault: Fault | null = null
  /** What came and did not fit, the newest last. */
  private oddities: { at: number; text: string }[] = []
  private strayWindow = { since: 0, count: 0 }
  /** Replies and exceptions that came over this connection. */
  answers = 0
  lastAnswerAt = 0

  private constructor(
    private socket: Duplex,
    private options: ConnectOptions,
    private strays: StrayCounts,
    private onClose: (fault: Fault) => void,
  ) {
    if (socket instanceof Socket) socket.setNoDelay(true).setKeepAlive(true, 10_000)
    const { way, host, port } = options
    this.cutter = new TimedCutter(this.frames.cutter('reply'), way ? silentMs : 0, (cut) => this.receive(cut))
    socket.on('data', (chunk: Buffer) => this.cutter.push(chunk))
    socket.on('error', (error: Error & { code?: string }) => {
      this.lastFault = way?.serial ? serialFault(error, host) : tcpFault(error, host, port)
    })
    socket.once('close', () => this.closed())
  }

  /** Connects, or rejects with a Fault within `connectMs`. `onClose` is called once, after a successful connect. */
  static open(wire: Wire, options: ConnectOptions, strays: StrayCounts, onClose: (fault: Fault) => void): Promise<ModbusConnection> {
    const { way, connectMs } = options
    if (!way?.serial) return wire.dial(options).then((socket) => new ModbusConnection(socket, options, strays, onClose))
    const { serial } = way
    return openSerial(serial, connectMs).then((port) => {
      wire.attendOne(port, serial.device)
      return new ModbusConnection(port, options, strays, onClose)
    })
  }

  /** Why it ended, where that is known. */
  get why(): Fault | null {
    return this.lastFault
  }

  private get frames() {
    return framesOf(this.options.way?.framing ?? 'tcp')
  }

  /** Never rejects: every ending is an outcome. */
  send(unit: number, request: Request, answerMs: number): Promise<Outcome> {
    return new Promise((settle) => {
      if (this.socket.destroyed) return settle({ kind: 'closed', sent: false })
      const transaction = this.nextTransaction()
      const timer = setTimeout(() => this.timeout(transaction), answerMs)
      const sentAt = performance.now()
      this.pending.set(transaction, { unit, request, sentAt, dueAt: sentAt + answerMs, timer, settle })
      this.socket.write(this.frames.encode(transaction, unit, encodeRequest(request)))
    })
  }

  /** To all units of a line: whoever hears it obeys, and nobody answers. */
  async sendToAll(request: Request, waitMs: number): Promise<Outcome> {
    if (this.socket.destroyed) return { kind: 'closed', sent: false }
    this.socket.write(this.frames.encode(0, 0, encodeRequest(request)))
    await new Promise((resolve) => setTimeout(resolve, waitMs))
    return { kind: 'obeyed' }
  }

  close() {
    this.onClose = () => {}
    this.socket.destroy()
  }

  private nextTransaction(): number {
    do this.transaction = (this.transaction + 1) & 0xffff
    while (this.pending.has(this.transaction))
    return this.transaction
  }

  /**
   * A timer that fires far too late tells that this process was busy, not that the device was
   * silent: its reply may be waiting to be read. Then there is a little more patience, once.
   */
  private timeout(transaction: number) {
    const waiting = this.pending.get(transaction)
    if (waiting && performance.now() - waiting.dueAt > busyMs) {
      waiting.dueAt = Infinity
      waiting.timer = setTimeout(() => this.timeout(transaction), graceMs)
      return
    }
    const pending = this.take(transaction)
    if (!pending) return
    this.timedOut.push(transaction)
    if (this.timedOut.length > rememberedTimeouts) this.timedOut.shift()
    pending.settle({ kind: 'silent', ms: performance.now() - pending.sentAt, came: this.cameSince(pending.sentAt) })
    if (this.options.way) this.cutter.end()
    else if (this.cutter.waiting > 0) return this.dropUnfinished(pending.unit)
    if (++this.silentInARow >= silentUntilDead && !this.options.way?.serial) this.dropDeadConnection()
  }

  /** What comes next would be taken for the rest of that frame. */
  private dropUnfinished(unit: number) {
    this.lastFault = fault('modbus.malformed', { unit, problem: `a frame was never finished, ${this.cutter.waiting} bytes of it came` })
    this.socket.destroy()
  }

  /** The far side may have forgotten this connection: a new one tells. */
  private dropDeadConnection() {
    const { host, port } = this.options
    this.lastFault = fault('modbus.dead-connection', { host, port, requests: this.silentInARow, came: this.cameSince(0) })
    this.socket.destroy()
  }

  private take(transaction: number): Pending | undefined {
    const pending = this.pending.get(transaction)
    if (!pending) return undefined
    this.pending.delete(transaction)
    clearTimeout(pending.timer)
    return pending
  }

  private receive({ frames, problem, service, noise }: Cut) {
    if (noise > 0) this.noteOdd(`${noise} bytes that are no frame or whose check does not agree`)
    for (const frame of frames) if (!this.socket.destroyed) this.match(frame)
    if (problem) this.breakOff(problem, service)
  }

  private match(frame: Frame) {
    const [transaction, pending] = this.asked(frame)
    if (!pending || pending.unit !== frame.unit) return this.countStray(frame, pending)
    const decoded = decodeReply(frame.pdu, pending.request)
    const isOther = !decoded.ok && !('exception' in decoded)
    // without transactions, what does not fit is the answer to something else
    if (isOther && this.options.way) return this.countStray(frame, undefined)
    this.take(transaction)
    this.silentInARow = 0
    this.answers++
    this.lastAnswerAt = performance.now()
    const ms = performance.now() - pending.sentAt
    if (decoded.ok) pending.settle({ kind: 'reply', reply: decoded.value, ms, at: Date.now() })
    else if ('exception' in decoded) pending.settle({ kind: 'exception', code: decoded.exception, ms })
    else pending.settle({ kind: 'malformed', problem: decoded.problem, service: null })
  }

  /** A line has one request under way. */
  private asked({ transaction }: Frame): [transaction: number, pending: Pending | undefined] {
    if (!this.options.way) return [transaction, this.pending.get(transaction)]
    const [only] = this.pending
    return only ?? [0, undefined]
  }

  private countStray({ transaction, unit }: Frame, pending: Pending | undefined) {
    this.guardAgainstFlood()
    const index = this.options.way ? this.timedOut.length - 1 : this.timedOut.indexOf(transaction)
    if (index >= 0) {
      this.timedOut.splice(index, 1)
      this.strays.late++
      this.silentInARow = 0
      return this.noteOdd('a reply that was too late')
    }
    this.strays.foreign++
    this.noteOdd(
      pending
        ? `a reply from unit ${unit}, where unit ${pending.unit} was asked`
        : `a reply${this.options.way ? '' : ' with a transaction id'} that was not asked`,
    )
  }

  private noteOdd(text: string) {
    this.oddities.push({ at: performance.now(), text })
    if (this.oddities.length > rememberedOddities) this.oddities.shift()
  }

  /** What came since then and did not fit, in words. */
  private cameSince(sentAt: number): string {
    const texts = this.oddities.filter(({ at }) => at >= sentAt).map(({ text }) => text)
    if (this.cutter.waiting > 0) texts.push(`${this.cutter.waiting} bytes of a frame that was never finished`)
    return [...new Set(texts)].join(', and ')
  }

  private guardAgainstFlood() {
    const now = performance.now()
    if (now - this.strayWindow.since > 1000) this.strayWindow = { since: now, count: 0 }
    if (++this.strayWindow.count <= mostStrays) return
    const { host, port } = this.options
    this.lastFault = fault('modbus.flood', { host, port, frames: mostStrays })
    this.socket.destroy()
  }

  /** A stream that is out of step cannot be trusted again: start over. */
  private breakOff(problem: string, service: string | null) {
    const { host, port } = this.options
    const unit = [...this.pending.values()][0]?.unit ?? 0
    this.lastFault = malformedFault({ unit, host, port }, problem, service)
    for (const transaction of [...this.pending.keys()]) this.take(transaction)?.settle({ kind: 'malformed', problem, service })
    this.socket.destroy()
  }

  private closed() {
    for (const transaction of [...this.pending.keys()]) this.take(transaction)?.settle({ kind: 'closed', sent: true })
    const { host, port, way } = this.options
    const waiting = this.waitingText()
    this.cutter.close()
    this.onClose(this.lastFault ?? (way?.serial ? fault('serial.gone', { device: host }) : fault('tcp.closed', { host, port }, waiting)))
  }

  private waitingText() {
    return this.cutter.waiting > 0 ? `${this.cutter.waiting} bytes of an unfinished frame were left` : 'connection closed by the far side'
  }
}

/** What came is not what the standard has: another service, or a device that gets it wrong. */
export const malformedFault = (peer: { unit: number; host: string; port: number }, problem: string, service: string | null): Fault =>
  service
    ? fault('modbus.not-modbus', { host: peer.host, port: peer.port, service }, problem)
    : fault('modbus.malformed', { unit: peer.unit, problem })

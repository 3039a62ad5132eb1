import { Socket, isIP } from 'node:net'
import type { Fault } from '#core/faults/catalogue'
import { fault } from '#core/faults/catalogue'
import { tcpFault } from '#core/faults/tcp'
import { encodeFrame, FrameCutter, type Frame } from '#core/modbus/mbap'
import { decodeReply, encodeRequest, type Reply, type Request } from '#core/modbus/pdu'

/** What became of a request. `ms` is from sending to the last byte of the reply. */
export type Outcome =
  | { kind: 'reply'; reply: Reply; ms: number; at: number }
  | { kind: 'exception'; code: number; ms: number }
  | { kind: 'silent'; ms: number }
  | { kind: 'malformed'; problem: string }
  /** The connection ended, or there is none; `sent` tells whether the request had left. */
  | { kind: 'closed'; sent: boolean }
  /** It waited longer than it may, and was not sent. */
  | { kind: 'expired' }

export interface ConnectOptions {
  host: string
  port: number
  localAddress: string
  connectMs: number
}

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

/**
 * One TCP connection that carries Modbus requests. Replies are matched by transaction id, so
 * several may be under way; a reply that comes too late or belongs to nobody is dropped and counted.
 */
export class ModbusConnection {
  private pending = new Map<number, Pending>()
  private timedOut: number[] = []
  private cutter = new FrameCutter()
  private transaction = 0
  private silentInARow = 0
  private lastFault: Fault | null = null

  private constructor(
    private socket: Socket,
    private options: ConnectOptions,
    private strays: StrayCounts,
    private onClose: (fault: Fault) => void,
  ) {
    socket.setNoDelay(true)
    socket.setKeepAlive(true, 10_000)
    socket.on('data', (chunk) => this.receive(chunk))
    socket.on('error', (error) => (this.lastFault = tcpFault(error, options.host, options.port)))
    socket.on('close', () => this.closed())
  }

  /** Connects, or rejects with a Fault within `connectMs`. `onClose` is called once, after a successful connect. */
  static open(options: ConnectOptions, strays: StrayCounts, onClose: (fault: Fault) => void): Promise<ModbusConnection> {
    return connectSocket(options).then((socket) => new ModbusConnection(socket, options, strays, onClose))
  }

  get remoteAddress() {
    return `${this.socket.remoteAddress ?? this.options.host}:${this.options.port}`
  }

  /** Never rejects: every ending is an outcome. */
  send(unit: number, request: Request, answerMs: number): Promise<Outcome> {
    return new Promise((settle) => {
      if (this.socket.destroyed) return settle({ kind: 'closed', sent: false })
      const transaction = this.nextTransaction()
      const timer = setTimeout(() => this.timeout(transaction), answerMs)
      const sentAt = performance.now()
      this.pending.set(transaction, { unit, request, sentAt, dueAt: sentAt + answerMs, timer, settle })
      this.socket.write(encodeFrame(transaction, unit, encodeRequest(request)))
    })
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
    pending.settle({ kind: 'silent', ms: performance.now() - pending.sentAt })
    if (++this.silentInARow >= silentUntilDead) this.dropDeadConnection()
  }

  /** The far side may have forgotten this connection: a new one tells. */
  private dropDeadConnection() {
    const { host, port } = this.options
    this.lastFault = fault('modbus.dead-connection', { host, port, requests: this.silentInARow })
    this.socket.destroy()
  }

  private take(transaction: number): Pending | undefined {
    const pending = this.pending.get(transaction)
    if (!pending) return undefined
    this.pending.delete(transaction)
    clearTimeout(pending.timer)
    return pending
  }

  private receive(chunk: Buffer) {
    const { frames, problem } = this.cutter.push(chunk)
    for (const frame of frames) this.match(frame)
    if (problem) this.breakOff(problem)
  }

  private match(frame: Frame) {
    const pending = this.pending.get(frame.transaction)
    if (!pending || pending.unit !== frame.unit) return this.countStray(frame.transaction)
    this.take(frame.transaction)
    this.silentInARow = 0
    const ms = performance.now() - pending.sentAt
    const decoded = decodeReply(frame.pdu, pending.request)
    if (decoded.ok) pending.settle({ kind: 'reply', reply: decoded.value, ms, at: Date.now() })
    else if ('exception' in decoded) pending.settle({ kind: 'exception', code: decoded.exception, ms })
    else pending.settle({ kind: 'malformed', problem: decoded.problem })
  }

  private countStray(transaction: number) {
    const index = this.timedOut.indexOf(transaction)
    if (index < 0) {
      this.strays.foreign++
      return
    }
    this.timedOut.splice(index, 1)
    this.strays.late++
    this.silentInARow = 0
  }

  /** A stream that is out of step cannot be trusted again: start over. */
  private breakOff(problem: string) {
    const unit = [...this.pending.values()][0]?.unit ?? 0
    this.lastFault = fault('modbus.malformed', { unit, problem })
    for (const transaction of [...this.pending.keys()]) this.take(transaction)?.settle({ kind: 'malformed', problem })
    this.socket.destroy()
  }

  private closed() {
    for (const transaction of [...this.pending.keys()]) this.take(transaction)?.settle({ kind: 'closed', sent: true })
    const { host, port } = this.options
    this.onClose(this.lastFault ?? fault('tcp.closed', { host, port }, this.waitingText()))
  }

  private waitingText() {
    return this.cutter.waiting > 0 ? `${this.cutter.waiting} bytes of an unfinished frame were left` : 'connection closed by the far side'
  }
}

/** Resolves the name and connects within the time; rejects with a Fault. */
const connectSocket = ({ host, port, localAddress, connectMs }: ConnectOptions): Promise<Socket> =>
  new Promise((resolve, reject) => {
    const socket = new Socket()
    const fail = (problem: Fault) => {
      clearTimeout(timer)
      socket.removeAllListeners()
      socket.on('error', () => {})
      socket.destroy()
      reject(problem)
    }
    const timer = setTimeout(() => fail(fault('tcp.no-answer', { host, port, ms: connectMs }, 'no reply to SYN')), connectMs)
    socket.once('error', (error) => fail(tcpFault(error, host, port, localAddress)))
    socket.once('connect', () => {
      clearTimeout(timer)
      socket.removeAllListeners()
      resolve(socket)
    })
    socket.connect({ host, port, ...(isIP(localAddress) ? { localAddress } : {}) })
  })

import type { Socket } from 'node:net'
import { fault, type Fault } from '#core/faults/catalogue'
import { tcpFault } from '#core/faults/tcp'
import { codeText, requestMeaning } from '#core/isotcp/codes'
import { decodeAnswer, decodeSetup, encodeSetup, type Answer, type Decoded, type Negotiated } from '#core/isotcp/pdu'
import { disconnectText, encodeData, encodeRequest, PacketCutter, type Ends, type Tpdu } from '#core/isotcp/tpkt'
import { endsOf, placeText } from '#core/isotcp/way'
import type { IsoTcpSettings } from '#core/isotcp/settings'
import type { Wire } from '../../wire/wire'

/** What became of a request. `ms` is from sending to the last byte of the answer. */
export type Outcome<T> =
  | { kind: 'done'; value: T; ms: number; at: number }
  /** The whole request was refused. */
  | { kind: 'refused'; code: number; ms: number }
  | { kind: 'silent'; ms: number }
  | { kind: 'malformed'; problem: string }
  /** The connection ended, or there is none; `sent` tells whether the request had left. */
  | { kind: 'closed'; sent: boolean }
  /** It waited longer than it may, and was not sent. */
  | { kind: 'expired' }

/** A request, and how its answer is read. */
export interface Call<T> {
  encode(reference: number): Buffer
  decode(answer: Answer): Decoded<T>
}

interface Pending {
  sentAt: number
  dueAt: number
  timer: NodeJS.Timeout
  take(answer: Decoded<Answer>): void
  silent(): void
  closed(): void
}

type Opening = Pick<IsoTcpSettings, 'host' | 'port' | 'way' | 'patience' | 'requests' | 'localAddress'>

const silentUntilDead = 3
const busyMs = 50
const graceMs = 100
const ownReference = 1
/** More than this of one message is none of this protocol. */
const mostBytes = 65_536

/**
 * One connection to a controller: a transport connection (RFC 1006), the size of requests agreed on, then requests, of
 * which several may be under way; answers are matched by their reference.
 */
export class ControllerConnection {
  granted: Negotiated = { parallel: 1, size: 240 }
  private pending = new Map<number, Pending>()
  private cutter = new PacketCutter()
  private parts: Buffer[] = []
  private reference = 0
  private silentInARow = 0
  private lastFault: Fault | null = null
  private onClose: (why: Fault) => void = () => {}
  private confirmed: ((tpdu: Tpdu | null) => void) | null = null

  constructor(
    private socket: Socket,
    private settings: Opening,
  ) {
    socket.setNoDelay(true)
    socket.setKeepAlive(true, 10_000)
    socket.on('data', (chunk) => this.receive(chunk))
    socket.on('error', (error) => (this.lastFault ??= tcpFault(error, settings.host, settings.port)))
    socket.on('close', () => this.closed())
  }

  /** Connects, or rejects with a Fault. `onClose` is called once, after that. */
  static async open(wire: Wire, settings: Opening, onClose: (why: Fault) => void): Promise<ControllerConnection> {
    const { host, port, localAddress, patience } = settings
    const socket = await wire.dial({ host, port, localAddress, connectMs: patience.connect })
    const connection = new ControllerConnection(socket, settings)
    try {
      await connection.attach()
      await connection.negotiate()
    } catch (why) {
      connection.close()
      throw why
    }
    connection.onClose = onClose
    if (socket.destroyed) onClose(connection.endedBy())
    return connection
  }

  /** Asks for the transport connection. Rejects with a Fault. @returns the ends as the controller has them */
  async attach(): Promise<Partial<Ends>> {
    const { host, port, patience, way } = this.settings
    const answer = await new Promise<Tpdu | null | 'late'>((resolve) => {
      const timer = setTimeout(() => resolve('late'), patience.connect)
      this.confirmed = (tpdu) => {
        clearTimeout(timer)
        resolve(tpdu)
      }
      if (this.socket.destroyed) return this.confirmed(null)
      this.socket.write(encodeRequest(ownReference, endsOf(way)))
    })
    this.confirmed = null
    const refused = (how: string) =>
      fault('iso.refused-place', { host, port, place: placeText(way), how }, this.lastFault?.evidence) as unknown as Error
    if (answer === 'late') throw fault('iso.no-confirm', { host, port, ms: patience.connect }) as unknown as Error
    if (answer === null)
      throw isForeign(this.lastFault) ? (this.lastFault as unknown as Error) : refused('it closed the connection at once')
    if (answer.kind === 'confirm') return answer.ends
    throw refused(answer.kind === 'disconnect' ? disconnectText(answer.reason) : `it answered with a TPDU of another kind, ${answer.kind}`)
  }

  /** Agrees on how large requests are, and how many may be under way. Rejects with a Fault. */
  async negotiate(): Promise<Negotiated> {
    const { host, port, patience, requests } = this.settings
    const wanted = { parallel: requests.parallel, size: requests.size }
    const outcome = await this.send({ encode: (reference) => encodeSetup(reference, wanted), decode: decodeSetup }, patience.connect)
    if (outcome.kind === 'done') {
      this.granted = { parallel: Math.min(outcome.value.parallel, wanted.parallel), size: Math.min(outcome.value.size, wanted.size) }
      return this.granted
    }
    throw fault('iso.negotiation', { host, port, problem: problemOf(outcome, patience.connect) }) as unknown as Error
  }

  get isOpen() {
    return !this.socket.destroyed
  }

  /** Never rejects: every ending is an outcome. */
  send<T>(call: Call<T>, answerMs: number): Promise<Outcome<T>> {
    return new Promise((settle) => {
      if (this.socket.destroyed) return settle({ kind: 'closed', sent: false })
      const reference = this.nextReference()
      const sentAt = performance.now()
      const passed = () => performance.now() - sentAt
      this.pending.set(reference, {
        ...{ sentAt, dueAt: sentAt + answerMs, timer: setTimeout(() => this.timeout(reference), answerMs) },
        take: (answer) => settle(outcomeOf(answer, call, passed())),
        silent: () => settle({ kind: 'silent', ms: passed() }),
        closed: () => settle({ kind: 'closed', sent: true }),
      })
      this.socket.write(encodeData(call.encode(reference)))
    })
  }

  close() {
    this.onClose = () => {}
    this.socket.destroy()
  }

  private nextReference(): number {
    do this.reference = (this.reference + 1) & 0xffff
    while (this.pending.has(this.reference))
    return this.reference
  }

  /** A timer that fires far too late tells that this process was busy; the answer may be waiting to be read. */
  private timeout(reference: number) {
    const waiting = this.pending.get(reference)
    if (!waiting) return
    if (performance.now() - waiting.dueAt > busyMs) {
      waiting.dueAt = Infinity
      waiting.timer = setTimeout(() => this.timeout(reference), graceMs)
      return
    }
    this.pending.delete(reference)
    waiting.silent()
    if (++this.silentInARow < silentUntilDead) return
    const { host, port } = this.settings
    this.lastFault = fault('iso.dead-connection', { host, port, requests: this.silentInARow })
    this.socket.destroy()
  }

  private receive(chunk: Buffer) {
    const { tpdus, problem, service } = this.cutter.push(chunk)
    for (const tpdu of tpdus) if (!this.socket.destroyed) this.match(tpdu)
    if (problem && !this.socket.destroyed) this.breakOff(problem, service)
  }

  private match(tpdu: Tpdu) {
    if (this.confirmed) return this.confirmed(tpdu)
    if (tpdu.kind === 'data') return this.gather(tpdu.data, tpdu.isLast)
    const { host, port } = this.settings
    const why = tpdu.kind === 'disconnect' ? disconnectText(tpdu.reason) : `a TPDU of kind ${tpdu.kind} came`
    this.lastFault = fault('iso.ended', { host, port, why })
    this.socket.destroy()
  }

  /** A message may come in several packets; most come in one. */
  private gather(data: Buffer, isLast: boolean) {
    if (isLast && this.parts.length === 0) return this.take(data)
    this.parts.push(data)
    if (this.parts.reduce((total, { length }) => total + length, 0) > mostBytes) return this.breakOff('a message has no end', null)
    if (isLast) this.take(Buffer.concat(this.parts.splice(0)))
  }

  private take(pdu: Buffer) {
    const answer = decodeAnswer(pdu)
    if (!answer.ok) return this.breakOff(answer.problem, null)
    const pending = this.pending.get(answer.value.reference)
    // one that is too late belongs to nobody any more
    if (!pending) return
    this.pending.delete(answer.value.reference)
    clearTimeout(pending.timer)
    this.silentInARow = 0
    pending.take(answer)
  }

  /** A stream that is out of step cannot be trusted again: start over. */
  private breakOff(problem: string, service: string | null) {
    const { host, port } = this.settings
    this.lastFault = service ? fault('iso.not-iso', { host, port, service }, problem) : fault('iso.malformed', { host, port, problem })
    this.socket.destroy()
  }

  private endedBy(): Fault {
    const { host, port } = this.settings
    return this.lastFault ?? fault('tcp.closed', { host, port }, 'connection closed by the far side')
  }

  private closed() {
    for (const { timer, closed } of this.pending.values()) {
      clearTimeout(timer)
      closed()
    }
    this.pending.clear()
    this.confirmed?.(null)
    this.onClose(this.endedBy())
  }
}

const isForeign = (why: Fault | null) => why !== null && (why.code === 'iso.not-iso' || why.code === 'iso.malformed')

const outcomeOf = <T>(answer: Decoded<Answer>, call: Call<T>, ms: number): Outcome<T> => {
  if (!answer.ok) return { kind: 'malformed', problem: answer.problem }
  if (answer.value.error !== 0) return { kind: 'refused', code: answer.value.error, ms }
  const decoded = call.decode(answer.value)
  return decoded.ok ? { kind: 'done', value: decoded.value, ms, at: Date.now() } : { kind: 'malformed', problem: decoded.problem }
}

/** Why a request came to nothing, as part of a sentence. */
export const problemOf = (outcome: Exclude<Outcome<unknown>, { kind: 'done' }>, answerMs: number): string => {
  switch (outcome.kind) {
    case 'refused':
      return `${codeText(outcome.code)}, ${requestMeaning(outcome.code).words}`
    case 'silent':
      return `no answer within ${answerMs} ms`
    case 'malformed':
      return outcome.problem
    case 'closed':
      return 'the connection ended'
    case 'expired':
      return 'it waited too long and was not sent'
  }
}

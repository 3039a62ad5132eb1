import { createSocket, type RemoteInfo, type Socket } from 'node:dgram'
import { fault, type Fault } from '#core/faults/catalogue'
import {
  confirmed,
  decodeApdu,
  encodeAbort,
  encodeAck,
  encodeError,
  encodeReject,
  encodeRequest,
  encodeUnconfirmed,
  unconfirmed,
  type Apdu,
} from '#core/bacnet/apdu'
import { abort, reject } from '#core/bacnet/codes'
import { bvlc, decodeFrame, encodeFrame, encodeNpdu, stationText, type Incoming, type Station } from '#core/bacnet/frames'
import { Parts } from '#core/bacnet/parts'
import { decodeError, decodeIAm, decodeNotification, errorBytes, type ErrorCode, type IAm, type Notification } from '#core/bacnet/services'

/** What became of a request. `ms` is from sending to the last byte of the answer. */
export type Outcome =
  | { kind: 'done'; content: Buffer; ms: number; at: number }
  | { kind: 'error'; error: ErrorCode; ms: number }
  | { kind: 'reject' | 'abort'; reason: number; ms: number }
  | { kind: 'silent'; ms: number; tries: number; stray: string }
  | { kind: 'malformed'; problem: string }
  | { kind: 'unrouted'; network: number }
  /** The port was closed, or the request could not leave. */
  | { kind: 'closed'; problem: string }
  /** It waited longer than it may, and was not sent. */
  | { kind: 'expired' }

export interface Ask {
  service: number
  content: Buffer
  answerMs: number
  repeats: number
}

/** Who wants to know what comes to a port. */
export interface PortUser {
  /** Whether somebody looks at what passes, and what passes. */
  see(peer: string, out: boolean, bytes: Buffer): void
  iAm(who: IAm, from: Station): void
  /** Whether it is one of its subscriptions. */
  notified(notification: Notification, from: Station, isConfirmed: boolean): boolean
  registered(code: number, from: { host: string; port: number }): void
}

interface Pending {
  station: Station
  user: PortUser
  frame: Buffer
  ask: Ask
  parts: Parts
  sentAt: number
  dueAt: number
  tries: number
  timer: NodeJS.Timeout
  stray: string
  settle(outcome: Outcome): void
}

const mostInvoke = 256
const busyMs = 50
const graceMs = 100
const receiveBuffer = 4 * 1024 * 1024
const unknownSubscription: ErrorCode = { class: 5, code: 79 }

/**
 * One UDP port of this machine, through which any number of devices are asked at once. Links that use the same port
 * share it. An answer belongs to the request of its number at the station that was asked, and to no other.
 */
export class BacnetPort {
  readonly users = new Set<PortUser>()
  /** Answers that nobody had asked for, or not any more. */
  readonly strays = { late: 0, foreign: 0 }
  private pending = new Map<string, Pending>()
  private invokes = new Map<string, number>()
  private closed = false

  private constructor(
    private socket: Socket,
    /** Hears what is broadcast where the port is bound to one address only. */
    private ear: Socket | null,
  ) {
    socket.on('message', (bytes, from) => this.receive(bytes, from))
    socket.on('error', () => {})
    ear?.on('message', (bytes, from) => this.receive(bytes, from))
    ear?.on('error', () => {})
  }

  /** Rejects with a Fault. @param localAddress empty: all of them @param broadcast what broadcasts are sent to; empty: none is listened to */
  static async open(localAddress: string, port: number, broadcast: string): Promise<BacnetPort> {
    const place = `${localAddress || 'port'} ${port}`.trim()
    try {
      const socket = await bound(localAddress || '0.0.0.0', port, false)
      socket.setBroadcast(true)
      widen(socket)
      const ear = localAddress && port > 0 && broadcast ? await bound(broadcast, port, true).catch(() => null) : null
      return new BacnetPort(socket, ear)
    } catch (error) {
      throw fault('bacnet.port', { place, why: whyNotBound(error as NodeJS.ErrnoException) }, (error as Error).message) as unknown as Error
    }
  }

  get ownPort() {
    return this.socket.address().port
  }

  /** Never rejects: every ending is an outcome. Sent again where no answer comes in time. */
  request(user: PortUser, station: Station, ask: Ask): Promise<Outcome> {
    return new Promise((settle) => {
      if (this.closed) return settle({ kind: 'closed', problem: 'the port is closed' })
      const invoke = this.freeInvoke(station)
      if (invoke === null) return settle({ kind: 'closed', problem: '256 requests to this device are under way' })
      const apdu = encodeRequest(invoke, ask.service, ask.content)
      const frame = encodeFrame(bvlc.unicast, encodeNpdu({ apdu, expectsReply: true, to: station.behind }))
      const key = keyOf(station, invoke)
      const now = performance.now()
      const timer = setTimeout(() => this.timeout(key), ask.answerMs)
      const pending: Pending = {
        ...{ station, user, frame, ask, settle, timer, sentAt: now, dueAt: now + ask.answerMs },
        ...{ tries: 1, stray: '', parts: new Parts(invoke) },
      }
      this.pending.set(key, pending)
      this.send(user, frame, station, (problem) => this.settle(key, { kind: 'closed', problem }))
    })
  }

  /** Sends something that is not answered as such. @param func of the virtual link: to one, or to all */
  tell(
    user: PortUser,
    to: { host: string; port: number },
    func: number,
    service: number,
    content: Buffer,
    behind: Station['behind'] | 'everywhere',
  ) {
    const npdu = encodeNpdu({ apdu: encodeUnconfirmed(service, content), expectsReply: false, to: behind })
    this.send(user, encodeFrame(func, npdu), to)
  }

  /** Sends a frame of the virtual link. */
  send(user: PortUser, frame: Buffer, to: { host: string; port: number }, failed: (problem: string) => void = () => {}) {
    if (this.closed) return failed('the port is closed')
    user.see(`${to.host}:${to.port}`, true, frame)
    this.socket.send(frame, to.port, to.host, (error) => {
      if (error) failed(error.message)
    })
  }

  close() {
    if (this.closed) return
    this.closed = true
    for (const key of [...this.pending.keys()]) this.settle(key, { kind: 'closed', problem: 'the port was closed' })
    this.socket.close()
    this.ear?.close()
  }

  /** Ends what one user has under way. */
  leave(user: PortUser) {
    this.users.delete(user)
    for (const [key, pending] of this.pending)
      if (pending.user === user) this.settle(key, { kind: 'closed', problem: 'the link was closed' })
  }

  private freeInvoke(station: Station): number | null {
    const place = stationText(station)
    for (let tries = 0; tries < mostInvoke; tries++) {
      const invoke = ((this.invokes.get(place) ?? Math.floor(Math.random() * mostInvoke)) + 1) % mostInvoke
      this.invokes.set(place, invoke)
      if (!this.pending.has(keyOf(station, invoke))) return invoke
    }
    return null
  }

  /** A timer that fires far too late tells that this process was busy; the answer may be waiting to be read. */
  private timeout(key: string) {
    const pending = this.pending.get(key)
    if (!pending) return
    const now = performance.now()
    if (now - pending.dueAt > busyMs) return this.wait(key, pending, graceMs, Infinity)
    if (pending.tries > pending.ask.repeats)
      return this.settle(key, { kind: 'silent', ms: pending.ask.answerMs, tries: pending.tries, stray: pending.stray })
    pending.tries++
    this.wait(key, pending, pending.ask.answerMs, now + pending.ask.answerMs)
    this.send(pending.user, pending.frame, pending.station, (problem) => this.settle(key, { kind: 'closed', problem }))
  }

  private wait(key: string, pending: Pending, ms: number, dueAt: number) {
    clearTimeout(pending.timer)
    pending.dueAt = dueAt
    pending.timer = setTimeout(() => this.timeout(key), ms)
  }

  private settle(key: string, outcome: Outcome) {
    const pending = this.pending.get(key)
    if (!pending) return
    this.pending.delete(key)
    clearTimeout(pending.timer)
    pending.settle(outcome)
  }

  private receive(bytes: Buffer, { address, port }: RemoteInfo) {
    if (this.closed) return
    for (const user of this.users) user.see(`${address}:${port}`, false, bytes)
    try {
      this.take(decodeFrame(bytes, { host: address, port }), { host: address, port })
    } catch {
      // a datagram that is none of this protocol is nobody's; it is seen where somebody looks at what passes
    }
  }

  private take(frame: Incoming, sender: { host: string; port: number }) {
    switch (frame.kind) {
      case 'apdu':
        return this.takeApdu(decodeApdu(frame.apdu), frame.from)
      case 'result':
        for (const user of this.users) user.registered(frame.code, sender)
        return
      case 'network': {
        const { reason } = frame
        if (reason) this.unrouted(sender, reason.network)
        return
      }
      case 'other':
        return
    }
  }

  private unrouted(router: { host: string; port: number }, network: number) {
    for (const [key, { station }] of this.pending)
      if (station.behind?.network === network && station.host === router.host && station.port === router.port)
        this.settle(key, { kind: 'unrouted', network })
  }

  private takeApdu(apdu: Apdu, from: Station) {
    switch (apdu.kind) {
      case 'unconfirmed':
        return this.takeUnconfirmed(apdu.service, apdu.content, from)
      case 'request':
        return this.takeRequest(apdu, from)
      case 'segment-ack':
        return
      default:
        return this.takeReply(apdu, from)
    }
  }

  private takeUnconfirmed(service: number, content: Buffer, from: Station) {
    if (service === unconfirmed.iAm) {
      const who = decodeIAm(content)
      for (const user of this.users) user.iAm(who, from)
    } else if (service === unconfirmed.covNotification) this.notify(decodeNotification(content), from, false)
  }

  private notify(notification: Notification, from: Station, isConfirmed: boolean): boolean {
    let isWanted = false
    for (const user of this.users) isWanted = user.notified(notification, from, isConfirmed) || isWanted
    return isWanted
  }

  /** Only notifications are asked of us. */
  private takeRequest({ invoke, service, content, isSegmented }: Extract<Apdu, { kind: 'request' }>, from: Station) {
    if (isSegmented) return this.reply(encodeAbort(invoke, abort.noSegmentation), from)
    if (service !== confirmed.covNotification) return this.reply(encodeReject(invoke, reject.unrecognizedService), from)
    const isWanted = this.notify(decodeNotification(content), from, true)
    this.reply(isWanted ? encodeAck(invoke, service) : encodeError(invoke, service, errorBytes(unknownSubscription)), from)
  }

  private reply(apdu: Buffer, to: Station) {
    const frame = encodeFrame(bvlc.unicast, encodeNpdu({ apdu, expectsReply: false, to: to.behind }))
    for (const user of this.users) user.see(`${to.host}:${to.port}`, true, frame)
    this.socket.send(frame, to.port, to.host, () => {})
  }

  private takeReply(apdu: Exclude<Apdu, { kind: 'unconfirmed' | 'request' | 'segment-ack' }>, from: Station) {
    const key = keyOf(from, apdu.invoke)
    const pending = this.pending.get(key)
    if (!pending) return this.stray(apdu.invoke, from)
    const ms = performance.now() - pending.sentAt
    const isOfAnother = 'service' in apdu && apdu.service !== pending.ask.service
    if (isOfAnother) return void this.strays.late++
    switch (apdu.kind) {
      case 'ack':
        return this.settle(key, { kind: 'done', content: Buffer.alloc(0), ms, at: Date.now() })
      case 'answer':
        return apdu.segment
          ? this.takePart(key, pending, apdu)
          : this.settle(key, { kind: 'done', content: Buffer.from(apdu.content), ms, at: Date.now() })
      case 'error':
        return this.settle(key, errorOutcome(apdu.content, ms))
      case 'reject':
      case 'abort':
        return this.settle(key, { kind: apdu.kind, reason: apdu.reason, ms })
    }
  }

  private takePart(key: string, pending: Pending, { segment, content }: Extract<Apdu, { kind: 'answer' }>) {
    const { whole, receipt, tooLong } = pending.parts.take(segment!, content)
    if (receipt) {
      const frame = encodeFrame(bvlc.unicast, encodeNpdu({ apdu: receipt, expectsReply: false, to: pending.station.behind }))
      this.send(pending.user, frame, pending.station)
    }
    if (tooLong) return this.settle(key, { kind: 'malformed', problem: 'an answer has no end' })
    if (whole) return this.settle(key, { kind: 'done', content: whole, ms: performance.now() - pending.sentAt, at: Date.now() })
    // each part has its own time
    this.wait(key, pending, pending.ask.answerMs, performance.now() + pending.ask.answerMs)
    pending.tries = pending.ask.repeats + 1
  }

  private stray(invoke: number, from: Station) {
    const asked = [...this.pending].find(([key]) => key.endsWith(` ${invoke}`))
    if (!asked) return void this.strays.late++
    this.strays.foreign++
    asked[1].stray = `an answer of that number came from ${stationText(from)} instead`
  }
}

const errorOutcome = (content: Buffer, ms: number): Outcome => {
  try {
    return { kind: 'error', error: decodeError(content), ms }
  } catch (error) {
    return { kind: 'malformed', problem: (error as Error).message }
  }
}

const keyOf = (station: Station, invoke: number) => `${stationText(station)} ${invoke}`

const bound = (address: string, port: number, isShared: boolean): Promise<Socket> =>
  new Promise((resolve, fail) => {
    const socket = createSocket({ type: address.includes(':') ? 'udp6' : 'udp4', reuseAddr: isShared })
    const refused = (error: Error) => {
      socket.close()
      fail(error)
    }
    socket.once('error', refused)
    socket.bind(port, address, () => {
      socket.off('error', refused)
      resolve(socket)
    })
  })

/** Many devices may answer at once. */
const widen = (socket: Socket) => {
  try {
    socket.setRecvBufferSize(receiveBuffer)
  } catch {
    // the system allows less
  }
}

const whyNotBound = ({ code, message }: NodeJS.ErrnoException): string =>
  ({ EADDRINUSE: 'another program has it', EADDRNOTAVAIL: 'this machine has no such address', EACCES: 'it is reserved for others' })[
    code ?? ''
  ] ?? message

export const asFault = (why: unknown): Fault =>
  typeof why === 'object' && why !== null && 'side' in why ? (why as Fault) : fault('ours.unexpected', { problem: String(why) })

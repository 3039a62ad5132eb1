import type { Server, Socket } from 'node:net'
import { MonitoredItemCreateResult, StatusCodes, type OPCUAServer, type ServerSession, type Subscription } from 'node-opcua'
import type { OpcuaServerSettings } from '#shared/outlets/opcuaServer'
import { steadyNow } from '#pacing/clock'
import type { Guests } from './guests'
import { beforeEachItem, sessionsOf } from '../../opcua/internals'

type Limits = OpcuaServerSettings['limits']

/** A secure channel of a door, as far as it matters here. */
interface Channel {
  remoteAddress: string
  close(): void
}

const tellEveryMs = 60_000
/** Whoever is refused has this long to read why. */
const farewellMs = 5000

/**
 * How much one client, all clients of one guest, and all together may take of an outlet, so that
 * nobody can take the others' share. What is refused, is refused in the standard's words and told here.
 */
export class Quotas {
  private sockets = new Map<string, Set<Socket>>()
  private toldAt = new Map<string, number>()

  constructor(
    private server: OPCUAServer,
    private guests: Guests,
    private limits: () => Limits,
    private tell: (text: string) => void,
  ) {
    server.on('create_session', (session: ServerSession) =>
      session.on('new_subscription', (subscription: Subscription) => this.limitItems(session, subscription)),
    )
  }

  /** Puts itself before a door's own handling of connections. */
  guard(listener: Server, channels: () => Channel[]) {
    const inner = listener.listeners('connection') as ((socket: Socket) => void)[]
    listener.removeAllListeners('connection')
    const sockets = new Set<Socket>()
    listener.on('connection', (socket) => {
      if (!this.admits(socket, sockets, channels)) return refuse(socket)
      this.note(socket, sockets)
      for (const handle of inner) handle.call(listener, socket)
    })
  }

  private admits(socket: Socket, ofDoor: ReadonlySet<Socket>, channels: () => Channel[]): boolean {
    const { connections, perAddress } = this.limits()
    const from = addressOf(socket)
    if ((this.sockets.get(from)?.size ?? 0) >= perAddress) {
      this.tellSometimes(`${from} has ${perAddress} connections already, as many as one address may; another is refused.`, from)
      return false
    }
    if (ofDoor.size < connections) return true
    const idle = channels().find((channel) => !this.hasSession(channel))
    if (idle) idle.close()
    this.tellSometimes(
      idle
        ? `All ${connections} connections of a door are taken; one from ${idle.remoteAddress} that never signed in gives way.`
        : `All ${connections} connections of a door are taken; one from ${from} is refused.`,
      'door',
    )
    return idle !== undefined
  }

  private note(socket: Socket, ofDoor: Set<Socket>) {
    const from = addressOf(socket)
    const ofAddress = this.sockets.get(from) ?? new Set()
    this.sockets.set(from, ofAddress.add(socket))
    ofDoor.add(socket)
    socket.once('close', () => {
      ofDoor.delete(socket)
      ofAddress.delete(socket)
      if (ofAddress.size === 0) this.sockets.delete(from)
    })
  }

  private hasSession(channel: Channel): boolean {
    return sessionsOf(this.server).some((session) => (session.channel as unknown) === channel)
  }

  private limitItems(session: ServerSession, subscription: Subscription) {
    beforeEachItem(subscription, (parameters) => {
      const why = this.whyNoItem(session)
      if (why) {
        this.tellSometimes(why, 'items')
        return { createResult: new MonitoredItemCreateResult({ statusCode: StatusCodes.BadTooManyMonitoredItems }) }
      }
      if (parameters) parameters.queueSize = Math.min(parameters.queueSize, this.limits().queue)
      return null
    })
  }

  private whyNoItem(session: ServerSession): string | null {
    const { items, itemsPerSession, itemsPerGuest } = this.limits()
    if (session.currentMonitoredItemCount >= itemsPerSession)
      return `A client has ${itemsPerSession.toLocaleString('en-GB')} items, as many as one session may; more are refused.`
    const guest = this.guests.guestWith(session.userIdentityToken)
    const [mine, all] = this.itemsOf(guest)
    if (mine >= itemsPerGuest)
      return `Clients that came in as ${guest?.name ?? 'nobody'} have ${itemsPerGuest.toLocaleString('en-GB')} items, as many as they may; more are refused.`
    return all >= items ? `All ${items.toLocaleString('en-GB')} items of this outlet are taken; more are refused.` : null
  }

  private itemsOf(guest: object | null): [mine: number, all: number] {
    let [mine, all] = [0, 0]
    for (const session of sessionsOf(this.server)) {
      const count = session.currentMonitoredItemCount
      all += count
      if (this.guests.guestWith(session.userIdentityToken) === guest) mine += count
    }
    return [mine, all]
  }

  private tellSometimes(text: string, key: string) {
    const now = steadyNow()
    if (now - (this.toldAt.get(key) ?? 0) < tellEveryMs) return
    if (this.toldAt.size > 1000) this.toldAt.clear()
    this.toldAt.set(key, now)
    this.tell(text)
  }
}

const addressOf = (socket: Socket) => (socket.remoteAddress ?? 'somewhere').replace(/^::ffff:/, '')

const badTcpServerTooBusy = 0x807d0000

/** Says why before it ends: an Error message (OPC 10000-6, 7.1.2.5). */
const refuse = (socket: Socket) => {
  const reason = Buffer.from('as many connections as may be')
  const head = Buffer.alloc(16)
  head.write('ERRF', 0, 'latin1')
  head.writeUInt32LE(head.length + reason.length, 4)
  head.writeUInt32LE(badTcpServerTooBusy, 8)
  head.writeUInt32LE(reason.length, 12)
  socket.on('error', () => {})
  socket.end(Buffer.concat([head, reason]), () => setTimeout(() => socket.destroy(), farewellMs).unref())
  socket.resume()
}

import { createServer, type Server, type Socket } from 'node:net'
import { readReverseHello, type ReverseHello } from '#core/opcua/hello'
import { plainAddress } from '../outlets/doors/admission'
import { requireInterface } from '../wire/interfaces'

/** A connection that a server opened, and what it said of itself. Its socket is paused until somebody takes it. */
export interface ServerCall extends ReverseHello {
  socket: Socket
  /** `host:port` of its other end. */
  from: string
}

/** Where servers are awaited. */
export interface DoorPlace {
  interface: string
  port: number
}

/** A server that dials here, and for which no link waits. */
export interface Stranger {
  serverUri: string
  from: string
  at: number
}

const helloMs = 5000
const mostUnsaid = 64
const mostHeld = 32
/** So long a server may wait for us; then it dials anew (OPC 10000-6, 7.1.3: not more than two minutes). */
const heldMs = 100_000
const mostStrangers = 20

interface Waiting {
  serverUri: string
  take(call: ServerCall): void
}

/**
 * A port at which servers are awaited that open the connection themselves (OPC 10000-6, 7.1.3). Each says who it is; whoever
 * waits for it gets the connection, and one of each is held for whoever comes to want it.
 */
class ServerDoor {
  private waiting: Waiting[] = []
  private held: ServerCall[] = []
  private unsaid = new Set<Socket>()
  private strangers = new Map<string, Stranger>()
  private server: Server

  constructor(private place: DoorPlace) {
    this.server = createServer((socket) => this.greeted(socket))
  }

  /** Rejects where the port cannot be had. */
  async open() {
    requireInterface(this.place)
    await new Promise<void>((resolve, reject) => {
      this.server.once('error', reject)
      this.server.listen(this.place.port, this.place.interface, () => {
        this.server.off('error', reject).on('error', () => {})
        resolve()
      })
    })
  }

  /** The next connection of a server; it rejects when the wait is given up. @param serverUri empty: of whichever comes */
  next(serverUri: string, signal: AbortSignal): Promise<ServerCall> {
    const here = this.held.find((call) => fits(serverUri, call))
    if (here && !signal.aborted) {
      this.release(here)
      return Promise.resolve(here)
    }
    return new Promise((resolve, reject) => {
      const one: Waiting = {
        serverUri,
        take: (call) => {
          signal.removeEventListener('abort', giveUp)
          resolve(call)
        },
      }
      const giveUp = () => {
        this.waiting = this.waiting.filter((other) => other !== one)
        reject(new Error('not awaited any more'))
      }
      if (signal.aborted) return giveUp()
      signal.addEventListener('abort', giveUp, { once: true })
      this.waiting.push(one)
    })
  }

  /** Who dialled lately although nobody waits for it, the last first. */
  unawaited(): Stranger[] {
    return [...this.strangers.values()].reverse()
  }

  async close() {
    for (const socket of this.unsaid) socket.destroy()
    for (const { socket } of this.held) socket.destroy()
    await new Promise<void>((resolve) => this.server.close(() => resolve()))
  }

  /** Takes no byte beyond its greeting: what follows belongs to whoever gets the connection. */
  private greeted(socket: Socket) {
    socket.on('error', () => {})
    if (this.unsaid.size >= mostUnsaid) return void socket.destroy()
    const from = `${plainAddress(socket.remoteAddress)}:${socket.remotePort ?? 0}`
    const timer = setTimeout(() => socket.destroy(), helloMs)
    let bytes = Buffer.alloc(0)
    this.unsaid.add(socket.setNoDelay(true).setKeepAlive(true, keepAliveMs))
    const leave = () => {
      clearTimeout(timer)
      this.unsaid.delete(socket)
    }
    const read = (part: Buffer) => {
      bytes = Buffer.concat([bytes, part])
      const said = readReverseHello(bytes)
      if (said.kind === 'more') return
      leave()
      if (said.kind === 'foreign') return void socket.destroy()
      socket.off('data', read).off('close', leave).pause()
      if (bytes.length > said.length) socket.unshift(bytes.subarray(said.length))
      this.came({ socket, from, serverUri: said.serverUri, endpointUrl: said.endpointUrl })
    }
    socket.on('data', read).once('close', leave)
  }

  private came(call: ServerCall) {
    const awaited =
      this.waiting.find(({ serverUri }) => serverUri === call.serverUri) ?? this.waiting.find(({ serverUri }) => serverUri === '')
    if (!awaited) return this.hold(call)
    this.waiting = this.waiting.filter((other) => other !== awaited)
    this.strangers.delete(call.serverUri)
    awaited.take(call)
  }

  /** One of each server is enough; a new one says that the one before is of no more use. */
  private hold(call: ServerCall) {
    this.strangers.delete(call.serverUri)
    this.strangers.set(call.serverUri, { serverUri: call.serverUri, from: call.from, at: Date.now() })
    if (this.strangers.size > mostStrangers) this.strangers.delete(this.strangers.keys().next().value!)
    const before =
      this.held.find(({ serverUri }) => serverUri === call.serverUri) ?? (this.held.length >= mostHeld ? this.held[0] : undefined)
    if (before) this.dismiss(before)
    this.held.push(call)
    const timer = setTimeout(() => this.dismiss(call), heldMs)
    call.socket.once('close', () => {
      clearTimeout(timer)
      this.release(call)
    })
  }

  private release(call: ServerCall) {
    this.held = this.held.filter((other) => other !== call)
  }

  private dismiss(call: ServerCall) {
    if (!this.held.includes(call)) return
    this.release(call)
    call.socket.destroy()
  }
}

const keepAliveMs = 10_000
const fits = (wanted: string, { serverUri }: ServerCall) => wanted === '' || wanted === serverUri

/** A door that somebody holds open. */
export type HeldDoor = Pick<ServerDoor, 'next' | 'unawaited'> & { close(): void }

interface Kept {
  opening: Promise<ServerDoor>
  users: number
  /** Nobody uses it: it closes soon. */
  closing: NodeJS.Timeout | null
}

/** Who climbs again at once shall find the door as it was. */
const lingerMs = 3000

/** Doors at which servers are awaited. Links that name the same place share one. */
class ServerDoors {
  private doors = new Map<string, Kept>()

  /** Rejects with the error of the system where the port cannot be had. */
  async open(place: DoorPlace): Promise<HeldDoor> {
    const key = `${place.interface} ${place.port}`
    const kept = this.doors.get(key) ?? this.opened(key, place)
    if (kept.closing) clearTimeout(kept.closing)
    kept.users++
    const door = await kept.opening
    let isHeld = true
    return {
      next: (serverUri, signal) => door.next(serverUri, signal),
      unawaited: () => door.unawaited(),
      close: () => {
        if (!isHeld) return
        isHeld = false
        if (--kept.users === 0) kept.closing = setTimeout(() => void this.shut(key, kept), lingerMs)
      },
    }
  }

  private opened(key: string, place: DoorPlace): Kept {
    const made = new ServerDoor(place)
    const kept: Kept = { opening: made.open().then(() => made), users: 0, closing: null }
    this.doors.set(key, kept)
    kept.opening.catch(() => this.doors.delete(key))
    return kept
  }

  private async shut(key: string, kept: Kept) {
    if (kept.closing) clearTimeout(kept.closing)
    this.doors.delete(key)
    const door = await kept.opening.catch(() => null)
    await door?.close()
  }
}

/** One for the process: so are its ports. */
export const serverDoors = new ServerDoors()

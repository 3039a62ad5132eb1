import { Socket } from 'node:net'
import type { Duplex } from 'node:stream'
import { FrameSplitter, type FrameRule } from '#core/wire/frames'
import type { TappedConnection, TrafficFrame, TrafficPart } from '#shared/traffic'
import { Recall } from './recall'

/** What is remembered at most: frames, the bytes of all of them, and of each. */
const mostFrames = 5000
const mostBytes = 8 * 1024 * 1024
const mostOfOne = 65_536
/** When nobody looked for so long, nothing is copied any more. */
const leaseMs = 15_000
const mostConnections = 200

interface Kept extends Omit<TrafficFrame, 'bytes'> {
  bytes: Uint8Array
}

interface Tapped extends TappedConnection {
  ways: { in: FrameSplitter; out: FrameSplitter }
}

/** A connection as whoever reads it has it. */
export interface Inside {
  isHidden(frame: Uint8Array): boolean
  /** Shows a message; it is made only while somebody looks. */
  tell(out: boolean, message: () => Uint8Array): void
}

/**
 * Copies what passes over the connections of one link or outlet into a bounded ring, as long as somebody looks. Whoever
 * looks takes the next frames when done with the last: one who is slow loses frames, which is told, and holds up nobody.
 * While nobody looks only the last few pieces are remembered.
 */
export class Tap {
  isOn = false
  /** Bytes that passed since the beginning, whether somebody looks or not. */
  readonly passed = { in: 0, out: 0 }
  /** The last that passed, whether somebody looks or not. */
  readonly recall = new Recall()
  private frames: Kept[] = []
  private bytes = 0
  private count = 0
  private connections = new Map<number, Tapped>()
  private lastConnection = 0
  private peers = new Map<string, number>()
  /** Of connections that are open: our end of them. */
  private places = new Map<number, () => string>()
  /** Of connections that are shown from the inside: frames that are not shown as they travel. */
  private hidden = new Map<number, Inside['isHidden']>()
  /** The newest of the open connections with each other end. */
  private byPeer = new Map<string, number>()
  private lease: NodeJS.Timeout | null = null

  constructor(private rule: FrameRule | null) {}

  /** A socket that is seen from its first byte on. */
  socket(peer: string): Socket {
    return this.until(new SeenSocket(this, ++this.lastConnection, peer))
  }

  /** Sees a socket that somebody else made, without touching when and how it is read. @returns the number of the connection */
  watch(socket: Duplex, peer: string): number {
    const id = ++this.lastConnection
    this.byPeer.set(peer, id)
    const { push, write } = socket
    // plain arguments and no rest: these are called for every frame
    socket.push = (chunk: unknown, encoding?: BufferEncoding) => {
      this.see(id, peer, false, chunk)
      return push.call(socket, chunk, encoding)
    }
    socket.write = (chunk: Uint8Array | string, encoding?: unknown, done?: unknown) => {
      this.see(id, peer, true, chunk)
      return write.call(socket, chunk, encoding as BufferEncoding, done as () => void)
    }
    this.until(socket, id).once('close', () => {
      if (this.byPeer.get(peer) === id) this.byPeer.delete(peer)
    })
    return id
  }

  /**
   * Shows what passes at a connection as whoever reads it has it, in the place of frames that travel so that nobody else can.
   *
   * @param of the number of the connection, or who is at its other end
   */
  inside(of: number | string, isHidden: Inside['isHidden']): Inside {
    const id = typeof of === 'number' ? of : this.byPeer.get(of)
    if (id !== undefined) this.hidden.set(id, isHidden)
    return {
      isHidden,
      tell: (out, message) => {
        if (this.isOn && id !== undefined) this.keepOf(id, out, message())
      },
    }
  }

  /** What passes without a connection, by whom it goes to or comes from. */
  datagram(peer: string, out: boolean, bytes: Uint8Array) {
    const known = this.peers.get(peer)
    if (!known && this.peers.size >= mostConnections) this.peers.clear()
    const id = known ?? ++this.lastConnection
    if (!known) this.peers.set(peer, id)
    this.see(id, peer, out, bytes)
  }

  /** The frames from number `after` on, at most so many; copying goes on for a while. */
  look(after: number, most: number): TrafficPart {
    this.renewLease()
    const first = this.count - this.frames.length
    const begin = Math.min(Math.max(after, first), this.count)
    const taken = this.frames.slice(begin - first, begin - first + most)
    return {
      frames: taken.map(({ bytes, ...frame }) => ({ ...frame, bytes: Buffer.from(bytes).toString('base64') })),
      next: begin + taken.length,
      lost: Math.max(0, begin - after),
      connections: [...this.connections.values()].map(({ id, peer, here }) => ({ id, peer, here })),
    }
  }

  /** For telling the connections that are made from now on. */
  mark(): number {
    return this.lastConnection
  }

  /** Where somebody begins who wants nothing of before. */
  get end() {
    return this.count
  }

  close() {
    if (this.lease) clearTimeout(this.lease)
    this.turnOff()
  }

  private until<S extends Duplex>(socket: S, id = this.lastConnection): S {
    this.places.set(id, () => ourEnd(socket as unknown as Socket))
    return socket.once('close', () => {
      this.connections.delete(id)
      this.places.delete(id)
      this.hidden.delete(id)
    })
  }

  private renewLease() {
    this.isOn = true
    if (this.lease) clearTimeout(this.lease)
    this.lease = setTimeout(() => this.turnOff(), leaseMs)
    this.lease.unref()
  }

  private turnOff() {
    this.isOn = false
    this.lease = null
    this.frames = []
    this.bytes = 0
    this.connections.clear()
  }

  /** @param chunk null: the stream ended. */
  see(id: number, peer: string, out: boolean, chunk: unknown) {
    if (!chunk) return
    const piece = typeof chunk === 'string' ? Buffer.from(chunk) : (chunk as Uint8Array)
    this.passed[out ? 'out' : 'in'] += piece.length
    this.recall.note(id, peer, out, piece)
    if (this.isOn) this.copy(id, peer, out, piece)
  }

  private copy(id: number, peer: string, out: boolean, piece: Uint8Array) {
    const { ways } = this.connectionOf(id, peer)
    // what is kept must be a copy: whoever reads may use the buffer again
    for (const frame of ways[out ? 'out' : 'in'].push(new Uint8Array(piece))) if (!this.hidden.get(id)?.(frame)) this.keepOf(id, out, frame)
  }

  private keepOf(id: number, out: boolean, frame: Uint8Array) {
    this.keep({
      n: this.count,
      at: performance.timeOrigin + performance.now(),
      connection: id,
      out,
      length: frame.length,
      bytes: frame.slice(0, mostOfOne),
    })
  }

  private connectionOf(id: number, peer: string): Tapped {
    const known = this.connections.get(id)
    if (known) return known
    if (this.connections.size >= mostConnections) this.connections.delete(this.connections.keys().next().value!)
    const here = this.places.get(id)?.() ?? ''
    const fresh = { id, peer, here, ways: { in: new FrameSplitter(this.rule), out: new FrameSplitter(this.rule, true) } }
    this.connections.set(id, fresh)
    return fresh
  }

  private keep(frame: Kept) {
    this.frames.push(frame)
    this.count++
    this.bytes += frame.bytes.length
    if (this.frames.length <= mostFrames && this.bytes <= mostBytes) return
    // a part at a time: moving all the others for each one that goes would cost more than the copying
    for (const gone of this.frames.splice(0, Math.ceil(this.frames.length / 10))) this.bytes -= gone.bytes.length
  }
}

/** Nothing where it has none, as a serial line; what is encrypted knows of the socket below it. */
const ourEnd = ({ localAddress, localPort }: Partial<Socket>): string =>
  localAddress === undefined || localPort === undefined
    ? ''
    : localAddress.includes(':')
      ? `[${localAddress}]:${localPort}`
      : `${localAddress}:${localPort}`

type Done = (error?: Error | null) => void

/** A class of its own costs less than a socket whose methods are replaced; `write` itself a socket takes back when it connects. */
class SeenSocket extends Socket {
  constructor(
    private tap: Tap,
    private id: number,
    private peer: string,
  ) {
    super()
  }

  override push(chunk: unknown, encoding?: BufferEncoding): boolean {
    this.tap.see(this.id, this.peer, false, chunk)
    return super.push(chunk, encoding)
  }

  override _write(chunk: Uint8Array | string, encoding: BufferEncoding, done: Done) {
    this.tap.see(this.id, this.peer, true, chunk)
    super._write(chunk, encoding, done)
  }

  override _writev(pieces: { chunk: Uint8Array | string; encoding: BufferEncoding }[], done: Done) {
    for (const { chunk } of pieces) this.tap.see(this.id, this.peer, true, chunk)
    super._writev!(pieces, done)
  }
}

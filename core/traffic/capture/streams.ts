import { FrameSplitter } from '../../wire/frames'
import type { FrameConnection, PassedFrame } from '../frameBook'
import { linkType, type Packet } from './blocks'
import { isServerPort, kindOf, readableKinds } from './guess'
import { segmentOf, tcpFlag, type Place, type ReadSegment } from './headers'

/** What comes too early waits, so many packets and bytes of a direction at most. */
const mostEarly = 256
const mostEarlyBytes = 4 * 1024 * 1024

interface Early {
  sequence: number
  payload: Uint8Array
}

interface Direction {
  /** The number of the byte that is due; null: nothing came yet. */
  next: number | null
  early: Early[]
  splitter: FrameSplitter | null
}

interface Line {
  id: number
  client: Place
  server: Place
  /** Null: nothing was said yet. */
  kind: string | null
  ways: { out: Direction; in: Direction }
}

/** What was found that is no frame. */
export interface Found {
  /** Packets that are neither TCP nor UDP. */
  others: number
  /** Bytes that came again. */
  repeatedBytes: number
  /** Places where bytes were not captured, and how many. */
  gaps: number
  missingBytes: number
}

/** A line, and which way a packet with these ends goes on it. */
interface Way {
  line: Line
  out: boolean
}

const direction = (): Direction => ({ next: null, early: [], splitter: null })
const nameOf = ({ host, port }: Place) => (host.includes(':') ? `[${host}]:${port}` : `${host}:${port}`)

/** Puts together what was captured: packets to streams, in order and without what came twice, and streams to frames. */
export class CaptureReader {
  readonly found: Found = { others: 0, repeatedBytes: 0, gaps: 0, missingBytes: 0 }
  /** By both ends, in the direction of a packet. */
  private ways = new Map<string, Way>()
  private all: Line[] = []
  private fresh: FrameConnection[] = []
  private serial: Line | null = null

  /** @param kind as which all connections are read; null: as what they seem to be */
  constructor(private kind: string | null = null) {}

  /** Connections since the last time that this was asked. */
  connections(): FrameConnection[] {
    return this.fresh.splice(0)
  }

  take(packet: Packet): PassedFrame[] {
    if (packet.link === linkType.serial) return [this.serialFrame(packet)]
    const segment = segmentOf(packet.bytes, packet.link)
    if (!segment) {
      this.found.others++
      return []
    }
    const { line, out } = this.wayOf(segment)
    const way = line.ways[out ? 'out' : 'in']
    const at = packet.micros / 1000
    const pieces = segment.tcp ? this.inOrder(way, segment) : [this.wholeOf(segment)]
    return pieces.flatMap((piece) => this.framesOf(line, way, out, piece, at))
  }

  /** What still waits for something before it that never came. */
  end(at: number): PassedFrame[] {
    return this.all.flatMap((line) =>
      (['out', 'in'] as const).flatMap((side) => {
        const way = line.ways[side]
        const frames: PassedFrame[] = []
        while (way.early.length > 0) {
          this.skipGap(way)
          for (const piece of this.ready(way)) frames.push(...this.framesOf(line, way, side === 'out', piece, at))
        }
        return frames
      }),
    )
  }

  private wayOf(segment: ReadSegment): Way {
    const { from, to, tcp } = segment
    const key = `${tcp ? 't' : 'u'} ${from.host} ${from.port} ${to.host} ${to.port}`
    const known = this.ways.get(key)
    const isFirst = tcp !== null && (tcp.flags & (tcpFlag.syn | tcpFlag.ack)) === tcpFlag.syn
    if (known && !(isFirst && isAnew(known, tcp.sequence))) return known
    const fromServer = !isFirst && (tcp ? isAnswered(segment) : isServerPort(from.port, to.port))
    const [client, server] = fromServer ? [to, from] : [from, to]
    const line: Line = { id: this.all.length + 1, client, server, kind: null, ways: { out: direction(), in: direction() } }
    this.all.push(line)
    const way = { line, out: !fromServer }
    this.ways.set(key, way)
    this.ways.set(`${tcp ? 't' : 'u'} ${to.host} ${to.port} ${from.host} ${from.port}`, { line, out: fromServer })
    return way
  }

  /** Bytes that were on the wire and not captured stand as zeros, so that what follows keeps its place. */
  private wholeOf({ payload, missing }: ReadSegment): Uint8Array {
    if (missing === 0) return payload
    this.found.missingBytes += missing
    const whole = new Uint8Array(payload.length + missing)
    whole.set(payload)
    return whole
  }

  private inOrder(way: Direction, segment: ReadSegment): Uint8Array[] {
    const { sequence, flags } = segment.tcp!
    if (flags & tcpFlag.syn) {
      way.next = (sequence + 1) >>> 0
      return []
    }
    const payload = this.wholeOf(segment)
    if (payload.length === 0) return []
    way.next ??= sequence
    if (sequence === way.next && way.early.length === 0) {
      way.next = (sequence + payload.length) >>> 0
      return [payload]
    }
    way.early.push({ sequence, payload })
    const isTooMuch = way.early.length > mostEarly || way.early.reduce((sum, { payload: { length } }) => sum + length, 0) > mostEarlyBytes
    if (isTooMuch) this.skipGap(way)
    return this.ready(way)
  }

  /** What is due now, out of what came. */
  private ready(way: Direction): Uint8Array[] {
    const pieces: Uint8Array[] = []
    for (;;) {
      const i = way.early.findIndex(({ sequence }) => ((sequence - way.next!) | 0) <= 0)
      if (i < 0) return pieces
      const [{ sequence, payload }] = way.early.splice(i, 1) as [Early]
      const before = -((sequence - way.next!) | 0)
      this.found.repeatedBytes += Math.min(before, payload.length)
      if (before >= payload.length) continue
      pieces.push(payload.subarray(before))
      way.next = (way.next! + payload.length - before) >>> 0
    }
  }

  /** What is missing never comes: it goes on behind it. */
  private skipGap(way: Direction) {
    const nearest = Math.min(...way.early.map(({ sequence }) => (sequence - way.next!) | 0))
    if (nearest <= 0) return
    this.found.gaps++
    this.found.missingBytes += nearest
    way.next = (way.next! + nearest) >>> 0
    way.splitter = null
  }

  private framesOf(line: Line, way: Direction, out: boolean, piece: Uint8Array, at: number): PassedFrame[] {
    if (piece.length === 0) return []
    if (line.kind === null) this.begin(line, piece)
    way.splitter ??= new FrameSplitter(readableKinds[line.kind!] ?? null, out)
    return way.splitter.push(piece).map((bytes) => ({ at, connection: line.id, out, length: bytes.length, bytes }))
  }

  private begin(line: Line, piece: Uint8Array) {
    line.kind = this.kind ?? kindOf(piece, line.server.port)
    this.fresh.push({ id: line.id, here: nameOf(line.client), peer: nameOf(line.server), kind: line.kind, asks: true })
  }

  /** A line without addresses: one connection for all. */
  private serialFrame({ micros, bytes, length, out = true }: Packet): PassedFrame {
    if (!this.serial) {
      const nowhere = { host: '', port: 0 }
      const id = this.all.length + 1
      this.serial = { id, client: nowhere, server: nowhere, kind: 'modbus-line', ways: { out: direction(), in: direction() } }
      this.all.push(this.serial)
      this.fresh.push({ id, here: '', peer: 'a serial line', kind: 'modbus-line', asks: true })
    }
    return { at: micros / 1000, connection: this.serial.id, out, length, bytes }
  }
}

/** The ports of a connection that was before, used for another one. */
const isAnew = ({ line, out }: Way, sequence: number) => {
  const { next } = line.ways[out ? 'out' : 'in']
  return next !== null && next !== (sequence + 1) >>> 0
}

/** The second packet of a connection, or any from the side that seems to answer. */
const isAnswered = ({ from, to, tcp }: ReadSegment) =>
  (tcp!.flags & (tcpFlag.syn | tcpFlag.ack)) === (tcpFlag.syn | tcpFlag.ack) || isServerPort(from.port, to.port)

import type { FrameConnection, PassedFrame } from '../frameBook'
import { fileBegin, linkType, packetBlock } from './blocks'
import { ethernetPacket, tcpFlag, type Place } from './headers'

/** What one packet carries at most. */
const mostInPacket = 1460
const firstLocalPort = 49_152
const { syn, ack, push } = tcpFlag

/** Which protocols go as datagrams, and which over wires without addresses. */
const datagrams: ReadonlySet<string> = new Set(['bacnet-ip'])
const serial: ReadonlySet<string> = new Set(['modbus-line'])
/** Where servers of a kind listen, as the standards have it. */
const usualPorts: Record<string, number> = {
  ...{ 'modbus-server': 502, 'opcua-server': 4840, 'mqtt-broker': 1883, 'http-server': 80, 'bacnet-ip': 47_808 },
}

/** `10.8.0.4:502` or `[fd00::4]:502`. */
const placeOf = (text: string, fallback: Place): Place => {
  const match = /^\[?(.+?)\]?:(\d+)$/.exec(text)
  return match ? { host: match[1]!, port: Number(match[2]) } : fallback
}

interface Stream {
  here: Place
  there: Place
  /** Next numbers: of what we send, and of what they send. */
  ours: number
  theirs: number
}

/**
 * Writes frames as packets of a network: addresses and ports as far as they are known, each connection from its beginning
 * on, so that analysers put its stream together again.
 */
export class CaptureWriter {
  private streams = new Map<number, Stream>()
  private count = 0

  constructor(private connections: ReadonlyMap<number, FrameConnection>) {}

  begin(kind: string, comment: string): Uint8Array[] {
    return fileBegin(serial.has(kind) ? linkType.serial : linkType.ethernet, kind, comment)
  }

  /** @returns one or more packets */
  packets({ at, connection, out, length, bytes }: PassedFrame): Uint8Array[] {
    const micros = Math.round(at * 1000)
    const { kind = '', here = '', peer = '' } = this.connections.get(connection) ?? {}
    if (serial.has(kind)) return [packetBlock(micros, bytes, length, out)]
    const there = placeOf(peer, { host: '192.0.2.2', port: usualPorts[kind] ?? 9 })
    const port = usualPorts[kind] ?? firstLocalPort + (connection % 16_000)
    const place = placeOf(here, { host: there.host.startsWith('127.') ? '127.0.0.1' : '192.0.2.1', port })
    if (datagrams.has(kind)) {
      const [from, to] = out ? [place, there] : [there, place]
      const packet = ethernetPacket({ from, to, tcp: null, payload: bytes }, ++this.count)
      return [packetBlock(micros, packet, packet.length + length - bytes.length)]
    }
    const known = this.streams.get(connection)
    const stream = known ?? { here: place, there, ours: 1, theirs: 1 }
    this.streams.set(connection, stream)
    // what was not kept of a long frame stands as zeros, so that what follows keeps its place
    const whole = bytes.length < length ? padded(bytes, length) : bytes
    return [...(known ? [] : this.handshake(stream, micros, kind)), ...this.pieces(stream, out, whole, micros)]
  }

  private pieces(stream: Stream, out: boolean, bytes: Uint8Array, micros: number): Uint8Array[] {
    const packets: Uint8Array[] = []
    for (let at = 0; at < bytes.length; at += mostInPacket) {
      const payload = bytes.subarray(at, at + mostInPacket)
      packets.push(this.packet(stream, out, ack | (at + mostInPacket >= bytes.length ? push : 0), payload, micros))
      if (out) stream.ours += payload.length
      else stream.theirs += payload.length
    }
    return packets
  }

  /** Whoever connects says so, is answered, and says that it heard (RFC 9293, 3.5). */
  private handshake(stream: Stream, micros: number, kind: string): Uint8Array[] {
    const weConnect = usualPorts[kind] === undefined
    const none = new Uint8Array()
    const before = { ...stream, ours: 0, theirs: 0 }
    return [
      this.packet({ ...before }, weConnect, syn, none, micros),
      this.packet({ ...before, [weConnect ? 'ours' : 'theirs']: 1 }, !weConnect, syn | ack, none, micros),
      this.packet(stream, weConnect, ack, none, micros),
    ]
  }

  private packet({ here, there, ours, theirs }: Stream, out: boolean, flags: number, payload: Uint8Array, micros: number): Uint8Array {
    const [from, to] = out ? [here, there] : [there, here]
    const [sequence, other] = out ? [ours, theirs] : [theirs, ours]
    const packet = ethernetPacket({ from, to, tcp: { sequence, acknowledged: flags & ack ? other : 0, flags }, payload }, ++this.count)
    return packetBlock(micros, packet, packet.length)
  }
}

const padded = (bytes: Uint8Array, length: number): Uint8Array => {
  const whole = new Uint8Array(length)
  whole.set(bytes)
  return whole
}

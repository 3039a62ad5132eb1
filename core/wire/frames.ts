/** How frames of a protocol are told apart in a stream of bytes. */
export interface FrameRule {
  /** So many bytes tell the length. */
  head: number
  /** The length of the whole frame that begins here, bytes; null: no frame of this protocol begins so. @param out whether we sent it */
  lengthOf(head: Uint8Array, out: boolean): number | null
}

/** A frame that claims to be longer is none. */
const longest = 16 * 1024 * 1024

/**
 * Cuts what passes into frames, from wherever one begins to look: what cannot be a frame is given as the piece that it
 * came in, so that nothing is hidden from whoever looks for what is wrong.
 */
export class FrameSplitter {
  private rest: Uint8Array = new Uint8Array()

  /** @param out for what we send */
  constructor(
    private rule: FrameRule | null,
    private out = false,
  ) {}

  push(chunk: Uint8Array): Uint8Array[] {
    if (!this.rule) return [chunk]
    let bytes = this.rest.length === 0 ? chunk : joined(this.rest, chunk)
    const frames: Uint8Array[] = []
    while (bytes.length >= this.rule.head) {
      const length = this.rule.lengthOf(bytes, this.out)
      if (length === null || length < this.rule.head || length > longest) return this.done([...frames, bytes], new Uint8Array())
      if (bytes.length < length) break
      frames.push(bytes.subarray(0, length))
      bytes = bytes.subarray(length)
    }
    return this.done(frames, bytes)
  }

  private done(frames: Uint8Array[], rest: Uint8Array) {
    this.rest = rest
    return frames
  }
}

const joined = (a: Uint8Array, b: Uint8Array) => {
  const both = new Uint8Array(a.length + b.length)
  both.set(a)
  both.set(b, a.length)
  return both
}

/** Modbus TCP: protocol id 0 and the length of what follows it (MODBUS Messaging on TCP/IP V1.0b, 3.1.3). */
export const mbapFrames: FrameRule = {
  head: 6,
  lengthOf: (b) => {
    const length = (b[4]! << 8) | b[5]!
    return b[2] === 0 && b[3] === 0 && length >= 2 && length <= 254 ? 6 + length : null
  },
}

const chunkTypes = new Set(['HEL', 'ACK', 'ERR', 'RHE', 'OPN', 'CLO', 'MSG'])

/** OPC UA over TCP: three letters, F, C or A, and the length of the chunk (OPC 10000-6, 6.7.2 and 7.1.2.2). */
export const uaFrames: FrameRule = {
  head: 8,
  lengthOf: (b) => {
    const type = String.fromCharCode(b[0]!, b[1]!, b[2]!)
    if (!chunkTypes.has(type) || !'FCA'.includes(String.fromCharCode(b[3]!))) return null
    return new DataView(b.buffer, b.byteOffset).getUint32(4, true)
  },
}

/** MQTT: type and flags in the first byte, then the length in one to four bytes of seven bits each (MQTT 5.0, 1.5.5 and 2.1). */
export const mqttFrames: FrameRule = {
  head: 2,
  lengthOf: (b) => {
    if (b[0]! >> 4 === 0) return null
    let [length, weight] = [0, 1]
    for (let at = 1; at <= 4; at++, weight *= 128) {
      // the length itself is not whole yet: at least so much has to come
      if (at >= b.length) return b.length + 1
      length += (b[at]! & 0x7f) * weight
      if (b[at]! < 0x80) return 1 + at + length
    }
    return null
  },
}

/** ISO transport over TCP: version 3, a spare byte, and the length of the whole packet (RFC 1006, 6). */
export const tpktFrames: FrameRule = {
  head: 4,
  lengthOf: (b) => (b[0] === 3 && b[1] === 0 ? (b[2]! << 8) | b[3]! : null),
}

/** BACnet/IP: type, function, and the length of the whole datagram (ANSI/ASHRAE 135, J.2). */
export const bacnetFrames: FrameRule = {
  head: 4,
  lengthOf: (b) => (b[0] === 0x81 ? (b[2]! << 8) | b[3]! : null),
}

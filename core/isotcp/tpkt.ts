/**
 * ISO transport of class 0 on top of TCP (RFC 1006): packets with a length before them (TPKT, section 6), and in each one
 * TPDU (ISO 8073, the text is RFC 905, section 13).
 */

/** Where a connection ends: on our side and on theirs (TSAP, 1 to 16 bytes each). */
export interface Ends {
  ours: Uint8Array
  theirs: Uint8Array
}

export type Tpdu =
  | { kind: 'confirm' | 'request'; ends: Partial<Ends>; reference: number }
  /** They ended it, or never began. */
  | { kind: 'disconnect'; reason: number }
  | { kind: 'data'; data: Buffer; isLast: boolean }
  | { kind: 'error'; reason: number }

const version = 3
const headBytes = 4
const dataHeadBytes = 3
/** 2¹⁰ bytes of a TPDU, more than any PDU that is negotiated here. */
const tpduSizeCode = 0x0a

const codes = { request: 0xe0, confirm: 0xd0, disconnect: 0x80, data: 0xf0, error: 0x70 } as const
const parameters = { size: 0xc0, ours: 0xc1, theirs: 0xc2 } as const

const packet = (tpdu: Uint8Array): Buffer => {
  const bytes = Buffer.alloc(headBytes + tpdu.length)
  bytes[0] = version
  bytes.writeUInt16BE(bytes.length, 2)
  bytes.set(tpdu, headBytes)
  return bytes
}

const opening = (code: number, to: number, from: number, { ours, theirs }: Ends): Buffer => {
  const tail = [parameters.size, 1, tpduSizeCode, parameters.ours, ours.length, ...ours, parameters.theirs, theirs.length, ...theirs]
  return packet(Uint8Array.from([6 + tail.length, code, to >> 8, to & 0xff, from >> 8, from & 0xff, 0, ...tail]))
}

/** A request for a connection (CR), class 0. */
export const encodeRequest = (reference: number, ends: Ends): Buffer => opening(codes.request, 0, reference, ends)

/** The answer that takes it (CC). */
export const encodeConfirm = (to: number, reference: number, ends: Ends): Buffer => opening(codes.confirm, to, reference, ends)

/** The answer that refuses it, or an end (DR). */
export const encodeDisconnect = (to: number, reason: number): Buffer =>
  packet(Uint8Array.from([6, codes.disconnect, to >> 8, to & 0xff, 0, 0, reason]))

/** A PDU in one packet (DT with the end-of-TSDU mark). */
export const encodeData = (pdu: Uint8Array): Buffer => {
  const bytes = Buffer.alloc(headBytes + dataHeadBytes + pdu.length)
  bytes[0] = version
  bytes.writeUInt16BE(bytes.length, 2)
  bytes[4] = 2
  bytes[5] = codes.data
  bytes[6] = 0x80
  bytes.set(pdu, headBytes + dataHeadBytes)
  return bytes
}

export interface Cut {
  tpdus: Tpdu[]
  /** Why the rest of the stream cannot be read; null: it can. */
  problem: string | null
  /** What seems to be spoken instead, where the first bytes tell. */
  service: string | null
}

/** Cuts a stream into TPDUs. */
export class PacketCutter {
  private rest: Buffer = Buffer.alloc(0)

  /** Bytes of a packet that is not whole. */
  get waiting() {
    return this.rest.length
  }

  push(chunk: Buffer): Cut {
    let bytes = this.rest.length === 0 ? chunk : Buffer.concat([this.rest, chunk])
    const tpdus: Tpdu[] = []
    while (bytes.length >= headBytes) {
      if (bytes[0] !== version) return this.broken(tpdus, `a packet begins with ${hex(bytes.subarray(0, 4))}, and not with 03 00`, bytes)
      const length = bytes.readUInt16BE(2)
      if (length < headBytes + 2) return this.broken(tpdus, `a packet claims to be ${length} bytes long`, bytes)
      if (bytes.length < length) break
      const read = readTpdu(bytes.subarray(headBytes, length))
      if (typeof read === 'string') return this.broken(tpdus, read, bytes)
      tpdus.push(read)
      bytes = bytes.subarray(length)
    }
    this.rest = bytes
    return { tpdus, problem: null, service: null }
  }

  private broken(tpdus: Tpdu[], problem: string, bytes: Buffer): Cut {
    this.rest = Buffer.alloc(0)
    return { tpdus, problem, service: serviceOf(bytes) }
  }
}

const readTpdu = (tpdu: Buffer): Tpdu | string => {
  const head = tpdu[0]!
  if (tpdu.length < head + 1 || head < 2) return `a TPDU of ${tpdu.length} bytes claims a head of ${head}`
  const code = tpdu[1]! & 0xf0
  if (code === codes.data) return { kind: 'data', data: tpdu.subarray(head + 1), isLast: (tpdu[2]! & 0x80) !== 0 }
  if (code === codes.disconnect || code === codes.error) {
    const reason = tpdu[code === codes.disconnect ? 6 : 4] ?? 0
    return { kind: code === codes.disconnect ? 'disconnect' : 'error', reason }
  }
  if (code !== codes.confirm && code !== codes.request) return `a TPDU of kind ${hex(tpdu.subarray(1, 2))} came`
  if (head < 6) return `the answer to a connection request is ${head} bytes long`
  return { kind: code === codes.confirm ? 'confirm' : 'request', reference: tpdu.readUInt16BE(4), ends: endsIn(tpdu.subarray(7, head + 1)) }
}

const endsIn = (tail: Buffer): Partial<Ends> => {
  const ends: Partial<Ends> = {}
  for (let at = 0; at + 2 <= tail.length; at += 2 + tail[at + 1]!) {
    const value = tail.subarray(at + 2, at + 2 + tail[at + 1]!)
    if (tail[at] === parameters.ours) ends.ours = value
    if (tail[at] === parameters.theirs) ends.theirs = value
  }
  return ends
}

const serviceOf = (bytes: Buffer): string | null => {
  const text = bytes.subarray(0, 8).toString('latin1')
  if (text.startsWith('HTTP/')) return 'a web server'
  if (text.startsWith('SSH-')) return 'an SSH server'
  if (/^(220|\* OK)/.test(text)) return 'a mail or file server'
  if (/^(HEL|ACK|ERR)F/.test(text)) return 'an OPC UA server'
  if (bytes[0] === 0x15 || bytes[0] === 0x16) return 'a TLS server'
  return null
}

export const hex = (bytes: Uint8Array): string => Array.from(bytes, (byte) => byte.toString(16).padStart(2, '0').toUpperCase()).join(' ')

/** Why a connection was ended (RFC 905, 13.5.3). */
export const disconnectText = (reason: number): string => {
  const words: Record<number, string> = {
    0: 'no reason given',
    1: 'it is congested',
    2: 'nobody is attached to this TSAP',
    3: 'the address is unknown',
    128: 'ended as usual',
    129: 'it is congested just now',
    130: 'the negotiation failed',
    133: 'the protocol was broken',
    135: 'too many connections',
    136: 'the connection request was refused',
  }
  return words[reason] ?? `reason ${reason}`
}

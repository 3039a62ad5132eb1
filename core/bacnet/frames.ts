import { Malformed } from './tagged'

/** BACnet/IP around an APDU: the virtual link (ANSI/ASHRAE 135, Annex J) and the network layer (clause 6). */

/** Functions of the virtual link (J.2). */
export const bvlc = {
  result: 0x00,
  forwarded: 0x04,
  registerForeign: 0x05,
  distribute: 0x09,
  unicast: 0x0a,
  broadcast: 0x0b,
} as const

const virtualLink = 0x81
const headBytes = 4

/** Where a device is: at an address of the IP network, and, behind a router, at one of its own network. */
export interface Station {
  host: string
  port: number
  /** Null: on the IP network itself. */
  behind: { network: number; address: string } | null
}

/** `10.0.5.21:47808`, or `network 7, 0c behind 10.0.5.1:47808`. */
export const stationText = ({ host, port, behind }: Station) =>
  behind ? `network ${behind.network}, ${behind.address} behind ${host}:${port}` : `${host}:${port}`

export const isSameStation = (a: Station, b: Station) =>
  a.host === b.host && a.port === b.port && a.behind?.network === b.behind?.network && a.behind?.address === b.behind?.address

const globalNetwork = 0xffff
const mostHops = 0xff

export interface Outgoing {
  apdu: Buffer
  expectsReply: boolean
  /** Whom it goes to behind a router; `everywhere`: to all networks. */
  to: Station['behind'] | 'everywhere'
}

/** An NPDU with its APDU (6.2.2). */
export const encodeNpdu = ({ apdu, expectsReply, to }: Outgoing): Buffer => {
  const control = (to ? 0x20 : 0) | (expectsReply ? 0x04 : 0)
  if (!to) return Buffer.concat([Buffer.from([1, control]), apdu])
  const network = to === 'everywhere' ? globalNetwork : to.network
  const address = to === 'everywhere' ? Buffer.alloc(0) : Buffer.from(to.address, 'hex')
  return Buffer.concat([Buffer.from([1, control, network >> 8, network & 0xff, address.length]), address, Buffer.from([mostHops]), apdu])
}

/** A frame of the virtual link around what it carries. */
export const encodeFrame = (func: number, content: Buffer): Buffer => {
  const length = headBytes + content.length
  return Buffer.concat([Buffer.from([virtualLink, func, length >> 8, length & 0xff]), content])
}

/** Asks a broadcast manager to send us, for so many seconds, what is broadcast in its network (J.2.6). */
export const encodeRegistration = (seconds: number): Buffer =>
  encodeFrame(bvlc.registerForeign, Buffer.from([seconds >> 8, seconds & 0xff]))

export type Incoming =
  | { kind: 'apdu'; apdu: Buffer; from: Station; isBroadcast: boolean }
  /** What a broadcast manager says of a request to it; 0: done (J.2.1.1). */
  | { kind: 'result'; code: number }
  /** A message between routers; `reason` where it says that a network cannot be reached (6.4.4). */
  | { kind: 'network'; type: number; reason: { code: number; network: number } | null }
  | { kind: 'other' }

const rejectMessage = 0x03

/**
 * Reads a datagram.
 * @param sender who it came from; what was forwarded came from somebody else, who is told in it
 * @throws Malformed
 */
export const decodeFrame = (datagram: Buffer, sender: { host: string; port: number }): Incoming => {
  if (datagram.length < headBytes || datagram[0] !== virtualLink) throw new Malformed('it does not begin as BACnet/IP does')
  const length = datagram.readUInt16BE(2)
  if (length !== datagram.length) throw new Malformed(`it says ${length} bytes and has ${datagram.length}`)
  switch (datagram[1]) {
    case bvlc.result:
      return { kind: 'result', code: length >= 6 ? datagram.readUInt16BE(4) : 0 }
    case bvlc.forwarded: {
      if (length < 10) throw new Malformed('a forwarded frame without its origin')
      const origin = { host: [...datagram.subarray(4, 8)].join('.'), port: datagram.readUInt16BE(8) }
      return decodeNpdu(datagram.subarray(10), origin, true)
    }
    case bvlc.unicast:
    case bvlc.broadcast:
      return decodeNpdu(datagram.subarray(headBytes), sender, datagram[1] === bvlc.broadcast)
    default:
      return { kind: 'other' }
  }
}

const decodeNpdu = (bytes: Buffer, sender: { host: string; port: number }, isBroadcast: boolean): Incoming => {
  if (bytes.length < 2 || bytes[0] !== 1) throw new Malformed('the network layer is of another version')
  const control = bytes[1]!
  let at = 2
  const address = () => {
    if (at + 3 > bytes.length) throw new Malformed('an address of the network layer is cut off')
    const network = bytes.readUInt16BE(at)
    const length = bytes[at + 2]!
    at += 3 + length
    if (at > bytes.length) throw new Malformed('an address of the network layer is cut off')
    return { network, address: bytes.subarray(at - length, at).toString('hex') }
  }
  if (control & 0x20) address()
  const behind = control & 0x08 ? address() : null
  if (control & 0x20) at++
  if (control & 0x80) return networkMessage(bytes.subarray(at))
  return { kind: 'apdu', apdu: bytes.subarray(at), from: { ...sender, behind }, isBroadcast }
}

const networkMessage = (bytes: Buffer): Incoming => ({
  ...{ kind: 'network', type: bytes[0] ?? 0 },
  reason: bytes[0] === rejectMessage && bytes.length >= 4 ? { code: bytes[1]!, network: bytes.readUInt16BE(2) } : null,
})

/**
 * Files of captured packets: pcapng (draft-ietf-opsawg-pcapng) both ways, and the older pcap to read.
 * Times are whole microseconds since 1970.
 */

export const linkType = { loopback: 0, ethernet: 1, raw: 101, cooked: 113, serial: 147, ipv4: 228, ipv6: 229, cooked2: 276 } as const

export interface Packet {
  /** Unix µs. */
  micros: number
  link: number
  /** As far as it was captured. */
  bytes: Uint8Array
  /** On the wire. */
  length: number
  /** Whether it was sent, where the file says so. */
  out?: boolean
}

const [sectionHeader, interfaceBlock, simplePacket, enhancedPacket] = [0x0a0d0d0a, 1, 3, 6]
const byteOrder = 0x1a2b3c4d
const [optionEnd, optionComment, optionApplication, optionName, optionResolution, optionFlags] = [0, 1, 4, 2, 9, 2]
const [inbound, outbound] = [1, 2]
const utf8 = new TextEncoder()
const padded = (length: number) => (length + 3) & ~3
/** A file that claims a longer packet is broken. */
const longestPacket = 64 * 1024 * 1024

// --- writing

const option = (code: number, value: Uint8Array): Uint8Array => {
  const bytes = new Uint8Array(4 + padded(value.length))
  const view = new DataView(bytes.buffer)
  view.setUint16(0, code, true)
  view.setUint16(2, value.length, true)
  bytes.set(value, 4)
  return bytes
}

const block = (type: number, body: readonly Uint8Array[]): Uint8Array => {
  const length = 12 + body.reduce((sum, { length }) => sum + length, 0)
  const bytes = new Uint8Array(length)
  const view = new DataView(bytes.buffer)
  view.setUint32(0, type, true)
  view.setUint32(4, length, true)
  let at = 8
  for (const part of body) {
    bytes.set(part, at)
    at += part.length
  }
  view.setUint32(length - 4, length, true)
  return bytes
}

const end = option(optionEnd, new Uint8Array())

/** What a file begins with: the section, and its one interface with times in microseconds. */
export const fileBegin = (link: number, name: string, comment: string): Uint8Array[] => {
  const section = new Uint8Array(16)
  const head = new DataView(section.buffer)
  head.setUint32(0, byteOrder, true)
  head.setUint16(4, 1, true)
  // the length of the section is not told
  head.setBigInt64(8, -1n, true)
  const description = new Uint8Array(8)
  new DataView(description.buffer).setUint16(0, link, true)
  return [
    block(sectionHeader, [
      section,
      option(optionComment, utf8.encode(comment)),
      option(optionApplication, utf8.encode('Keen Conduit')),
      end,
    ]),
    block(interfaceBlock, [description, option(optionName, utf8.encode(name)), option(optionResolution, Uint8Array.of(6)), end]),
  ]
}

/** @param out whether it was sent; absent: its addresses tell */
export const packetBlock = (micros: number, bytes: Uint8Array, length: number, out?: boolean): Uint8Array => {
  const head = new Uint8Array(20)
  const view = new DataView(head.buffer)
  const high = Math.floor(micros / 2 ** 32)
  const numbers = [0, high, micros - high * 2 ** 32, bytes.length, length]
  numbers.forEach((value, i) => view.setUint32(4 * i, value, true))
  const content = new Uint8Array(padded(bytes.length))
  content.set(bytes)
  const way = out === undefined ? [] : [option(optionFlags, Uint8Array.of(out ? outbound : inbound, 0, 0, 0)), end]
  return block(enhancedPacket, [head, content, ...way])
}

// --- reading

export interface ReadFile {
  packets: Packet[]
  /** Why the rest could not be read; null: all of it was. */
  problem: string | null
}

interface Interface {
  link: number
  /** Parts of a second in a unit of time. */
  perSecond: number
  offset: number
}

/** Reads a file of either kind. What is cut off or broken ends it, and what came before is kept. */
export const readCapture = (bytes: Uint8Array): ReadFile => {
  if (bytes.length < 24) return { packets: [], problem: 'the file is too short to be a capture' }
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  const magic = view.getUint32(0, true)
  if (magic === sectionHeader) return readBlocks(bytes, view)
  const old = { 0xa1b2c3d4: [true, 1], 0xd4c3b2a1: [false, 1], 0xa1b23c4d: [true, 1000], 0x4d3cb2a1: [false, 1000] }[magic]
  if (!old) return { packets: [], problem: 'the file is neither pcapng nor pcap' }
  return readOld(bytes, view, old[0] as boolean, old[1] as number)
}

const readOld = (bytes: Uint8Array, view: DataView, little: boolean, finer: number): ReadFile => {
  const link = view.getUint32(20, little) & 0xffff
  const packets: Packet[] = []
  let at = 24
  while (at + 16 <= bytes.length) {
    const [seconds, parts, kept, length] = [0, 4, 8, 12].map((offset) => view.getUint32(at + offset, little)) as [number, number, number, number] // prettier-ignore
    if (kept > longestPacket) return { packets, problem: `packet ${packets.length + 1} claims to have ${kept} bytes` }
    if (at + 16 + kept > bytes.length) return { packets, problem: 'the last packet is cut off' }
    packets.push({ micros: seconds * 1e6 + Math.floor(parts / finer), link, length, bytes: bytes.subarray(at + 16, at + 16 + kept) })
    at += 16 + kept
  }
  return { packets, problem: null }
}

const readBlocks = (bytes: Uint8Array, view: DataView): ReadFile => {
  const packets: Packet[] = []
  let interfaces: Interface[] = []
  let little = true
  let at = 0
  while (at + 12 <= bytes.length) {
    const type = view.getUint32(at, little)
    if (type === sectionHeader) {
      little = view.getUint32(at + 8, true) === byteOrder
      interfaces = []
    }
    const length = view.getUint32(at + 4, little)
    if (length < 12 || length % 4 !== 0) return { packets, problem: `a block claims to have ${length} bytes` }
    if (at + length > bytes.length) return { packets, problem: 'the last block is cut off' }
    const body = new DataView(bytes.buffer, bytes.byteOffset + at + 8, length - 12)
    if (type === interfaceBlock && body.byteLength >= 8) interfaces.push(readInterface(body, little))
    else if (type === enhancedPacket || type === simplePacket) {
      const packet = (type === enhancedPacket ? readEnhanced : readSimple)(body, little, interfaces, packets.at(-1)?.micros ?? 0)
      if (!packet) return { packets, problem: `packet ${packets.length + 1} is longer than its block` }
      packets.push(packet)
    }
    at += length
  }
  return { packets, problem: at < bytes.length ? 'the file ends within a block' : null }
}

const readInterface = (body: DataView, little: boolean): Interface => {
  const found: Interface = { link: body.getUint16(0, little), perSecond: 1e6, offset: 0 }
  let at = 8
  while (at + 4 <= body.byteLength) {
    const [code, length] = [body.getUint16(at, little), body.getUint16(at + 2, little)]
    if (code === optionEnd || at + 4 + length > body.byteLength) break
    if (code === optionResolution && length === 1) {
      const value = body.getUint8(at + 4)
      found.perSecond = value & 0x80 ? 2 ** (value & 0x7f) : 10 ** value
    }
    if (code === 14 && length === 8) found.offset = Number(body.getBigInt64(at + 4, little))
    at += 4 + padded(length)
  }
  return found
}

const readEnhanced = (body: DataView, little: boolean, interfaces: readonly Interface[]): Packet | null => {
  if (body.byteLength < 20) return null
  const { link, perSecond, offset } = interfaces[body.getUint32(0, little)] ?? { link: linkType.ethernet, perSecond: 1e6, offset: 0 }
  const [kept, length] = [body.getUint32(12, little), body.getUint32(16, little)]
  if (20 + kept > body.byteLength) return null
  const micros = microsOf(body.getUint32(4, little), body.getUint32(8, little), perSecond) + offset * 1e6
  const way = wayOf(body, 20 + padded(kept), little)
  return { micros, link, length, bytes: new Uint8Array(body.buffer, body.byteOffset + 20, kept), ...(way === null ? {} : { out: way }) }
}

/** A time in two halves, in parts of a second. */
const microsOf = (high: number, low: number, perSecond: number): number => {
  if (perSecond === 1e6) return high * 2 ** 32 + low
  const [time, units] = [(BigInt(high) << 32n) | BigInt(low), BigInt(Math.round(perSecond))]
  return Number((time / units) * 1_000_000n) + Number(((time % units) * 1_000_000n) / units)
}

/** By the options behind the packet. */
const wayOf = (body: DataView, begin: number, little: boolean): boolean | null => {
  for (let at = begin; at + 8 <= body.byteLength; at += 4 + padded(body.getUint16(at + 2, little))) {
    if (body.getUint16(at, little) !== optionFlags) continue
    const way = body.getUint32(at + 4, little) & 3
    return way === 0 ? null : way === outbound
  }
  return null
}

/** Without a time of its own, it has that of the one before. */
const readSimple = (body: DataView, little: boolean, interfaces: readonly Interface[], micros: number): Packet | null => {
  if (body.byteLength < 4) return null
  const length = body.getUint32(0, little)
  const kept = Math.min(length, body.byteLength - 4)
  return { micros, link: interfaces[0]?.link ?? linkType.ethernet, length, bytes: new Uint8Array(body.buffer, body.byteOffset + 4, kept) }
}

/** Ethernet, IP (RFC 791, RFC 8200), TCP (RFC 9293) and UDP (RFC 768) around what passed. */

export interface Place {
  /** Numeric, as in 10.8.0.4 or fd00::4. */
  host: string
  port: number
}

export interface Segment {
  from: Place
  to: Place
  /** Null: a datagram. */
  tcp: { sequence: number; acknowledged: number; flags: number } | null
  payload: Uint8Array
}

export const tcpFlag = { fin: 1, syn: 2, reset: 4, push: 8, ack: 16 } as const
const [tcpNumber, udpNumber] = [6, 17]
const [ipv4, ipv6] = [0x0800, 0x86dd]
const window = 65_535
const hops = 64

const v4 = (host: string): number[] | null => {
  const parts = host.split('.').map(Number)
  return parts.length === 4 && parts.every((part) => Number.isInteger(part) && part >= 0 && part <= 255) ? parts : null
}

const v6 = (host: string): number[] | null => {
  const [head = '', tail] = host.split('%')[0]!.split('::')
  const words = (text: string) => (text === '' ? [] : text.split(':').map((part) => parseInt(part, 16)))
  const [before, after] = [words(head), words(tail ?? '')]
  const missing = 8 - before.length - after.length
  if (!host.includes(':') || missing < 0 || (tail === undefined && missing !== 0)) return null
  const all = [...before, ...Array<number>(missing).fill(0), ...after]
  return all.every((word) => word >= 0 && word <= 0xffff) ? all.flatMap((word) => [word >> 8, word & 0xff]) : null
}

const mapped = (host: string) => host.replace(/^::ffff:(?=\d+\.)/i, '')

/** An address that is a name stands for one that is never used elsewhere (RFC 5737). */
const addressOf = (host: string, isWide: boolean): number[] => {
  const plain = mapped(host)
  if (isWide) return v6(plain) ?? [...Array<number>(10).fill(0), 0xff, 0xff, ...(v4(plain) ?? [192, 0, 2, 1])]
  return v4(plain) ?? [192, 0, 2, 1 + (hashOf(plain) % 250)]
}
const hashOf = (text: string) => [...text].reduce((hash, letter) => (hash * 31 + letter.charCodeAt(0)) >>> 0, 7)

/** Locally administered, and the end of the address. */
const macOf = (address: readonly number[]): number[] => [2, 0, ...address.slice(-4)]

const sum = (bytes: Uint8Array, before = 0): number => {
  let total = before
  for (let i = 0; i < bytes.length; i += 2) total += (bytes[i]! << 8) | (bytes[i + 1] ?? 0)
  return total
}
const folded = (total: number): number => {
  let value = total
  while (value > 0xffff) value = (value & 0xffff) + Math.floor(value / 0x10000)
  return ~value & 0xffff
}

const transport = ({ from, to, tcp, payload }: Segment): Uint8Array => {
  const head = tcp ? 20 : 8
  const bytes = new Uint8Array(head + payload.length)
  const view = new DataView(bytes.buffer)
  view.setUint16(0, from.port)
  view.setUint16(2, to.port)
  if (tcp) {
    view.setUint32(4, tcp.sequence >>> 0)
    view.setUint32(8, tcp.acknowledged >>> 0)
    view.setUint8(12, (head / 4) << 4)
    view.setUint8(13, tcp.flags)
    view.setUint16(14, window)
  } else view.setUint16(4, bytes.length)
  bytes.set(payload, head)
  return bytes
}

const checked = (content: Uint8Array, source: readonly number[], target: readonly number[], protocol: number) => {
  const at = protocol === tcpNumber ? 16 : 6
  const pseudo = sum(Uint8Array.from([...source, ...target]), protocol + content.length)
  const check = folded(sum(content, pseudo))
  new DataView(content.buffer).setUint16(at, check === 0 && protocol === udpNumber ? 0xffff : check)
}

const network4 = (source: readonly number[], target: readonly number[], protocol: number, length: number, id: number): Uint8Array => {
  const bytes = new Uint8Array(20)
  const view = new DataView(bytes.buffer)
  bytes[0] = 0x45
  view.setUint16(2, 20 + length)
  view.setUint16(4, id & 0xffff)
  // is not to be parted
  view.setUint16(6, 0x4000)
  bytes[8] = hops
  bytes[9] = protocol
  bytes.set(source, 12)
  bytes.set(target, 16)
  view.setUint16(10, folded(sum(bytes)))
  return bytes
}

const network6 = (source: readonly number[], target: readonly number[], protocol: number, length: number): Uint8Array => {
  const bytes = new Uint8Array(40)
  bytes[0] = 0x60
  new DataView(bytes.buffer).setUint16(4, length)
  bytes[6] = protocol
  bytes[7] = hops
  bytes.set(source, 8)
  bytes.set(target, 24)
  return bytes
}

/** A packet as it would lie on Ethernet, with right check sums. @param id counts up */
export const ethernetPacket = (segment: Segment, id: number): Uint8Array => {
  const isWide = [segment.from, segment.to].some(({ host }) => v6(mapped(host)) !== null)
  const [source, target] = [addressOf(segment.from.host, isWide), addressOf(segment.to.host, isWide)]
  const protocol = segment.tcp ? tcpNumber : udpNumber
  const content = transport(segment)
  checked(content, source, target, protocol)
  const head = isWide ? network6(source, target, protocol, content.length) : network4(source, target, protocol, content.length, id)
  const type = isWide ? ipv6 : ipv4
  const bytes = new Uint8Array(14 + head.length + content.length)
  bytes.set([...macOf(target), ...macOf(source), type >> 8, type & 0xff])
  bytes.set(head, 14)
  bytes.set(content, 14 + head.length)
  return bytes
}

// --- reading

export interface ReadSegment extends Segment {
  /** Bytes that were on the wire and were not captured. */
  missing: number
}

/** Texts of addresses that were seen: a capture has few of them, many times. */
const known4 = new Map<number, string>()
const mostKnown = 65_536

const textOf4 = (bytes: Uint8Array, at: number): string => {
  const number = ((bytes[at]! << 24) | (bytes[at + 1]! << 16) | (bytes[at + 2]! << 8) | bytes[at + 3]!) >>> 0
  const known = known4.get(number)
  if (known !== undefined) return known
  const text = `${bytes[at]}.${bytes[at + 1]}.${bytes[at + 2]}.${bytes[at + 3]}`
  if (known4.size >= mostKnown) known4.clear()
  known4.set(number, text)
  return text
}
const textOf6 = (bytes: Uint8Array): string => {
  const words = Array.from({ length: 8 }, (_, i) => ((bytes[2 * i]! << 8) | bytes[2 * i + 1]!).toString(16))
  return words.join(':').replace(/(^|:)0(:0)+(:|$)/, '::')
}

const u16 = (bytes: Uint8Array, at: number) => (bytes[at]! << 8) | bytes[at + 1]!
const u32 = (bytes: Uint8Array, at: number) => ((u16(bytes, at) << 16) | u16(bytes, at + 2)) >>> 0

/** Where IP begins behind the link, and of which version; null: it is something else. */
const networkAt = (bytes: Uint8Array, link: number): number | null => {
  switch (link) {
    case 1: {
      let at = 12
      // behind marks of virtual networks (IEEE 802.1Q)
      while (u16(bytes, at) === 0x8100 || u16(bytes, at) === 0x88a8) at += 4
      const type = u16(bytes, at)
      return type === ipv4 || type === ipv6 ? at + 2 : null
    }
    case 0:
      return 4
    case 101:
    case 228:
    case 229:
      return 0
    case 113:
      return 16
    case 276:
      return 20
    default:
      return null
  }
}

/** Headers between that of IPv6 and what it carries (RFC 8200, 4.1). */
const between = new Set([0, 43, 60])

interface Network {
  source: string
  target: string
  protocol: number
  at: number
  end: number
  isPart: boolean
}

const read4 = (bytes: Uint8Array, at: number): Network => {
  const total = u16(bytes, at + 2)
  return {
    source: textOf4(bytes, at + 12),
    target: textOf4(bytes, at + 16),
    protocol: bytes[at + 9]!,
    at: at + (bytes[at]! & 15) * 4,
    // what a card sends in larger pieces says 0
    end: total === 0 ? bytes.length : at + total,
    isPart: (u16(bytes, at + 6) & 0x3fff) !== 0,
  }
}

const read6 = (bytes: Uint8Array, at: number): Network => {
  let protocol = bytes[at + 6]!
  let next = at + 40
  while (between.has(protocol) && next + 8 <= bytes.length) {
    protocol = bytes[next]!
    next += 8 + 8 * bytes[next + 1]!
  }
  const total = (bytes[at + 4]! << 8) | bytes[at + 5]!
  return {
    ...{ source: textOf6(bytes.subarray(at + 8, at + 24)), target: textOf6(bytes.subarray(at + 24, at + 40)) },
    ...{ protocol, at: next, end: total === 0 ? bytes.length : at + 40 + total, isPart: protocol === 44 },
  }
}

/** What a packet carries; null: it is neither TCP nor UDP, or a part of something larger, or cut off before it begins. */
export const segmentOf = (bytes: Uint8Array, link: number): ReadSegment | null => {
  const begin = networkAt(bytes, link)
  if (begin === null || begin + 20 > bytes.length) return null
  const version = bytes[begin]! >> 4
  if ((version !== 4 && version !== 6) || (version === 6 && begin + 40 > bytes.length)) return null
  const { source, target, protocol, at, end, isPart } = (version === 4 ? read4 : read6)(bytes, begin)
  const isTcp = protocol === tcpNumber
  if (isPart || (!isTcp && protocol !== udpNumber) || at + (isTcp ? 20 : 8) > bytes.length) return null
  const content = at + (isTcp ? (bytes[at + 12]! >> 4) * 4 : 8)
  return {
    from: { host: source, port: u16(bytes, at) },
    to: { host: target, port: u16(bytes, at + 2) },
    payload: bytes.subarray(Math.min(content, bytes.length), Math.min(end, bytes.length)),
    missing: Math.max(0, end - bytes.length),
    tcp: isTcp ? { sequence: u32(bytes, at + 4), acknowledged: u32(bytes, at + 8), flags: bytes[at + 13]! & 0x3f } : null,
  }
}

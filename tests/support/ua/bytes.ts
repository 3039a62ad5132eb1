import type { Socket } from 'node:net'

export const securityNone = 'http://opcfoundation.org/UA/SecurityPolicy#None'
export const uaTcp = 'http://opcfoundation.org/UA-Profile/Transport/uatcp-uasc-uabinary'

/** OPC UA's binary encoding and its frames, from the standard's text (OPC 10000-6, 5.2 and 7.1), without the package. */
export class Writer {
  private parts: Buffer[] = []
  raw(part: Buffer) {
    this.parts.push(part)
    return this
  }
  bytes(...values: number[]) {
    return this.raw(Buffer.from(values))
  }
  bool(value: boolean) {
    return this.bytes(value ? 1 : 0)
  }
  private number(size: number, put: (part: Buffer) => void) {
    const part = Buffer.alloc(size)
    put(part)
    return this.raw(part)
  }
  uint16(value: number) {
    return this.number(2, (part) => part.writeUInt16LE(value & 0xffff))
  }
  uint32(value: number) {
    return this.number(4, (part) => part.writeUInt32LE(value >>> 0))
  }
  int64(value: bigint) {
    return this.number(8, (part) => part.writeBigInt64LE(value))
  }
  float(value: number) {
    return this.number(4, (part) => part.writeFloatLE(value))
  }
  double(value: number) {
    return this.number(8, (part) => part.writeDoubleLE(value))
  }
  /** 100 ns since 1601 (5.2.2.5). */
  time(ms: number) {
    return this.int64((BigInt(Math.round(ms)) + epochs) * 10_000n)
  }
  /** Null is the length −1 (5.2.2.4). */
  string(text: string | null) {
    return this.byteString(text === null ? null : Buffer.from(text, 'utf8'))
  }
  byteString(bytes: Buffer | null) {
    return bytes === null ? this.uint32(0xffffffff) : this.uint32(bytes.length).raw(bytes)
  }
  /** `i=85`, `ns=1;i=5` or `ns=1;s=Name` (5.2.2.9). */
  nodeId(text: string) {
    const [, space, kind, identifier] = /^(?:ns=(\d+);)?([is])=(.*)$/s.exec(text)!
    const namespace = Number(space ?? 0)
    if (kind === 's') return this.bytes(3).uint16(namespace).string(identifier!)
    return this.bytes(2).uint16(namespace).uint32(Number(identifier))
  }
  localizedText(text: string) {
    return this.bytes(2).string(text)
  }
  qualifiedName(name: string, namespace = 0) {
    return this.uint16(namespace).string(name)
  }
  list<T>(all: readonly T[], write: (one: T, writer: this) => unknown) {
    this.uint32(all.length)
    for (const one of all) write(one, this)
    return this
  }
  /** No list at all; what comes where nobody asked for diagnostics. */
  none() {
    return this.uint32(0xffffffff)
  }
  done() {
    return Buffer.concat(this.parts)
  }
}

/** Milliseconds from 1601 to 1970. */
const epochs = 11_644_473_600_000n

export class Reader {
  private at = 0
  constructor(private data: Buffer) {}
  private step(bytes: number) {
    this.at += bytes
    return this.at - bytes
  }
  byte() {
    return this.data.readUInt8(this.step(1))
  }
  bool() {
    return this.byte() !== 0
  }
  uint16() {
    return this.data.readUInt16LE(this.step(2))
  }
  uint32() {
    return this.data.readUInt32LE(this.step(4))
  }
  int32() {
    return this.data.readInt32LE(this.step(4))
  }
  int64() {
    return this.data.readBigInt64LE(this.step(8))
  }
  float() {
    return this.data.readFloatLE(this.step(4))
  }
  double() {
    return this.data.readDoubleLE(this.step(8))
  }
  time() {
    return Number(this.int64() / 10_000n - epochs)
  }
  skip(bytes: number) {
    this.step(bytes)
    return this
  }
  byteString(): Buffer | null {
    const length = this.int32()
    if (length < 0) return null
    const from = this.step(length)
    return this.data.subarray(from, from + length)
  }
  string() {
    return this.byteString()?.toString('utf8') ?? null
  }
  nodeId(): string {
    const form = this.byte()
    if (form === 0) return `i=${this.byte()}`
    const namespace = form === 1 ? this.byte() : this.uint16()
    const space = namespace > 0 ? `ns=${namespace};` : ''
    if (form === 1) return `${space}i=${this.uint16()}`
    if (form === 2) return `${space}i=${this.uint32()}`
    if (form === 3) return `${space}s=${this.string() ?? ''}`
    throw new Error(`a NodeId of the form ${form}`)
  }
  localizedText() {
    const mask = this.byte()
    if (mask & 1) this.string()
    return mask & 2 ? (this.string() ?? '') : ''
  }
  qualifiedName() {
    const namespace = this.uint16()
    return { namespace, name: this.string() ?? '' }
  }
  list<T>(read: () => T): T[] {
    return Array.from({ length: Math.max(0, this.int32()) }, read)
  }
  /** The type of what is inside, and its bytes (5.2.2.15). */
  extension(): { type: string; body: Reader | null } {
    const type = this.nodeId()
    if (this.byte() === 0) return { type, body: null }
    return { type, body: new Reader(this.byteString() ?? Buffer.alloc(0)) }
  }
  get rest() {
    return this.data.length - this.at
  }
}

/** Message types carry their size in bytes 4 to 7 (7.1.2.2). */
export const frame = (type: string, body: Buffer) => {
  const header = Buffer.alloc(8)
  header.write(type, 'latin1')
  header.writeUInt32LE(8 + body.length, 4)
  return Buffer.concat([header, body])
}

export interface Message {
  type: string
  body: Buffer
}

/** Calls with whole messages, however the bytes come. */
export const onMessages = (socket: Socket, take: (message: Message) => void) => {
  let bytes = Buffer.alloc(0)
  socket.on('data', (part) => {
    bytes = Buffer.concat([bytes, part])
    while (bytes.length >= 8 && bytes.length >= bytes.readUInt32LE(4)) {
      const size = bytes.readUInt32LE(4)
      const message = { type: bytes.toString('latin1', 0, 4), body: bytes.subarray(8, size) }
      bytes = bytes.subarray(size)
      take(message)
    }
  })
}

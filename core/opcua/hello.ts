/** The first bytes of a connection: Hello, Acknowledge, Error and Reverse Hello (OPC 10000-6, 7.1.2). All numbers little-endian. */

const headerBytes = 8
const bufferBytes = 65_536

/** HEL (7.1.2.3): protocol version 0, buffer sizes, no limit on messages, the address that is called. */
export const encodeHello = (url: string): Buffer => {
  const text = Buffer.from(url, 'utf8')
  const message = Buffer.alloc(headerBytes + 24 + text.length)
  message.write('HELF', 0, 'latin1')
  message.writeUInt32LE(message.length, 4)
  message.writeUInt32LE(0, 8)
  message.writeUInt32LE(bufferBytes, 12)
  message.writeUInt32LE(bufferBytes, 16)
  message.writeUInt32LE(0, 20)
  message.writeUInt32LE(0, 24)
  message.writeUInt32LE(text.length, 28)
  text.copy(message, 32)
  return message
}

export type Greeting =
  | { kind: 'more' }
  | { kind: 'acknowledge'; version: number; receiveBuffer: number; sendBuffer: number }
  | { kind: 'error'; status: number; reason: string }
  | { kind: 'foreign' }

const longestAnswer = 4096

/** Reads the answer to a Hello from the bytes that have come so far. */
export const readGreeting = (bytes: Buffer): Greeting => {
  const type = bytes.toString('latin1', 0, Math.min(4, bytes.length))
  if (!'ACKF'.startsWith(type) && !'ERRF'.startsWith(type)) return { kind: 'foreign' }
  if (bytes.length < headerBytes) return { kind: 'more' }
  const length = bytes.readUInt32LE(4)
  if (length > longestAnswer || length < headerBytes + 8) return { kind: 'foreign' }
  if (bytes.length < length) return { kind: 'more' }
  return type === 'ACKF' ? readAcknowledge(bytes) : readError(bytes.subarray(0, length))
}

/** ACK (7.1.2.4). */
const readAcknowledge = (bytes: Buffer): Greeting =>
  bytes.length < headerBytes + 20
    ? { kind: 'foreign' }
    : { kind: 'acknowledge', version: bytes.readUInt32LE(8), receiveBuffer: bytes.readUInt32LE(12), sendBuffer: bytes.readUInt32LE(16) }

/** ERR (7.1.2.5): a status code and a reason, whose length is −1 where there is none. */
const readError = (bytes: Buffer): Greeting => {
  const length = bytes.readInt32LE(12)
  const reason = length > 0 ? bytes.toString('utf8', 16, Math.min(bytes.length, 16 + length)) : ''
  return { kind: 'error', status: bytes.readUInt32LE(8), reason }
}

/** What a server says that opens the connection itself. */
export interface ReverseHello {
  /** The application URI that its certificate has to name. */
  serverUri: string
  /** By which address it wants to be called over this connection. */
  endpointUrl: string
}

export type ReverseGreeting = { kind: 'more' } | ({ kind: 'reverse-hello'; length: number } & ReverseHello) | { kind: 'foreign' }

/** Neither text is longer (7.1.2.6). */
const longestText = 4096
const longestReverseHello = headerBytes + 2 * (4 + longestText)

/** RHE (7.1.2.6), from the bytes that have come so far. */
export const readReverseHello = (bytes: Buffer): ReverseGreeting => {
  if (!'RHEF'.startsWith(bytes.toString('latin1', 0, Math.min(4, bytes.length)))) return { kind: 'foreign' }
  if (bytes.length < headerBytes) return { kind: 'more' }
  const length = bytes.readUInt32LE(4)
  if (length < headerBytes + 8 || length > longestReverseHello) return { kind: 'foreign' }
  if (bytes.length < length) return { kind: 'more' }
  const serverUri = textAt(bytes.subarray(0, length), headerBytes)
  const endpointUrl = serverUri && textAt(bytes.subarray(0, length), serverUri.end)
  return endpointUrl ? { kind: 'reverse-hello', length, serverUri: serverUri.text, endpointUrl: endpointUrl.text } : { kind: 'foreign' }
}

/** A text with its length before it, −1 where there is none (5.2.2.4); null: it goes beyond what came. */
const textAt = (bytes: Buffer, at: number): { text: string; end: number } | null => {
  if (at + 4 > bytes.length) return null
  const length = bytes.readInt32LE(at)
  const end = at + 4 + Math.max(0, length)
  if (length > longestText || end > bytes.length) return null
  return { text: bytes.toString('utf8', at + 4, end), end }
}

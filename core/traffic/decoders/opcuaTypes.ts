import { qualityName, severityOf } from '../../tags/quality'
import { counted } from '../../text/counted'
import { hexText, TooShort, type FrameReader } from '../reader'

/** Built-in types of OPC UA in binary (OPC 10000-6, 5.2.2), each as text. */

const utf8 = new TextDecoder()
const msPerTick = 10_000n
/** From 1601 to 1970 (5.2.2.5). */
const epochMs = 11_644_473_600_000n
const mostItems = 10_000
/** Values of values of values: further in nothing is read. */
const mostDepth = 20
const mostShown = 4

const timeText = (ticks: bigint) => {
  const date = new Date(Number(ticks / msPerTick - epochMs))
  return ticks === 0n ? 'none' : Number.isNaN(date.getTime()) ? String(ticks) : date.toISOString()
}

export const uaTime = (frame: FrameReader, name: string): bigint => frame.u64le(name, timeText)

/** A text with its length before it; −1: none (5.2.2.4). */
export const uaString = (frame: FrameReader, name: string): string | null => {
  const length = int32(frame)
  if (length < 0) {
    frame.note(name, 4, 'none')
    return null
  }
  const text = frame.text(name, length)
  return text
}

export const uaBytes = (frame: FrameReader, name: string, isHidden = false): Uint8Array => {
  const length = int32(frame)
  if (length < 0) {
    frame.note(name, 4, 'none')
    return new Uint8Array()
  }
  return frame.data(name, length, (bytes) => counted(bytes.length, 'byte') + (isHidden ? ', not shown' : ''))
}

/** Passed as what stands before something. */
export const int32 = (frame: FrameReader): number => {
  const value = frame.peek(0) | (frame.peek(1) << 8) | (frame.peek(2) << 16) | (frame.peek(3) << 24) | 0
  frame.pass(4)
  return value
}
const uint16 = (frame: FrameReader): number => {
  const value = frame.peek(0) | (frame.peek(1) << 8)
  frame.pass(2)
  return value
}

/** How many follow; refused where there cannot be so many. */
export const uaCount = (frame: FrameReader, name: string): number => {
  const count = int32(frame)
  frame.note(name, 4, count < 0 ? 'none' : String(count))
  if (count > mostItems || count > frame.left) throw new TooShort()
  return Math.max(0, count)
}

export const statusName = (code: number) => (code === 0 ? 'Good' : qualityName(code))

export const uaStatus = (frame: FrameReader, name: string): number => {
  const code = frame.u32le(name, statusName)
  if (severityOf(code) === 'bad') frame.isWrong()
  return code
}

const guidText = (bytes: Uint8Array) => {
  const hex = [...bytes].map((byte) => byte.toString(16).padStart(2, '0'))
  const part = (from: number, to: number, isTurned = false) => (isTurned ? hex.slice(from, to).toReversed() : hex.slice(from, to)).join('')
  return `${part(0, 4, true)}-${part(4, 6, true)}-${part(6, 8, true)}-${part(8, 10)}-${part(10, 16)}`
}

const nodeBody = (frame: FrameReader, form: number): [namespace: number, id: string] => {
  const take = (length: number) => {
    const at = frame.at
    frame.pass(length)
    return frame.bytes.subarray(at, at + length)
  }
  switch (form) {
    case 0: {
      const id = frame.peek(0)
      frame.pass(1)
      return [0, `i=${id}`]
    }
    case 1: {
      const namespace = frame.peek(0)
      frame.pass(1)
      return [namespace, `i=${uint16(frame)}`]
    }
    case 2: {
      const namespace = uint16(frame)
      return [namespace, `i=${int32(frame) >>> 0}`]
    }
    case 3: {
      const namespace = uint16(frame)
      return [namespace, `s=${utf8.decode(take(Math.max(0, int32(frame))))}`]
    }
    case 4: {
      const namespace = uint16(frame)
      return [namespace, `g=${guidText(take(16))}`]
    }
    case 5: {
      const namespace = uint16(frame)
      return [namespace, `b=${counted(take(Math.max(0, int32(frame))).length, 'byte')}`]
    }
    default:
      throw new TooShort()
  }
}

/** A node id, also an expanded one, as the standard writes it (5.2.2.9, 5.2.2.10). */
export const uaNodeId = (frame: FrameReader, name: string, means = (text: string) => text): string => {
  const begun = frame.at
  const first = frame.peek(0)
  frame.pass(1)
  const [namespace, id] = nodeBody(frame, first & 0x3f)
  if (first & 0x80) frame.pass(Math.max(0, int32(frame)))
  if (first & 0x40) int32(frame)
  const text = namespace === 0 ? id : `ns=${namespace};${id}`
  frame.note(name, frame.at - begun, means(text))
  return text
}

export const uaQualifiedName = (frame: FrameReader, name: string): string | null => {
  uint16(frame)
  return uaString(frame, name)
}

const localizedText = (frame: FrameReader, name: string): string => {
  const mask = frame.u8(`${name}: parts`, (value) => hexText(value, 2))
  if (mask & 1) uaString(frame, `${name}: language`)
  return mask & 2 ? (uaString(frame, name) ?? '') : ''
}

/** What stands beside a result (5.2.2.12). */
export const uaDiagnostics = (frame: FrameReader, depth = 0) => {
  if (depth > mostDepth) throw new TooShort()
  const mask = frame.u8('diagnostics', (value) => (value === 0 ? 'none' : hexText(value, 2)))
  for (const bit of [1, 2, 8, 4]) if (mask & bit) frame.u32le('index of a text')
  if (mask & 0x10) uaString(frame, 'more of it')
  if (mask & 0x20) uaStatus(frame, 'status within')
  if (mask & 0x40) uaDiagnostics(frame, depth + 1)
}

/** Something of a type that is told before it (5.2.2.15). @returns the type, and where it ends */
export const uaExtension = (frame: FrameReader, name: string): { type: string; end: number } => {
  const type = uaNodeId(frame, `${name}: type`)
  const form = frame.u8(`${name}: form`, (value) => ['nothing', 'binary', 'XML'][value] ?? String(value))
  if (form === 0) return { type, end: frame.at }
  const length = Math.max(0, int32(frame))
  if (length > frame.left) throw new TooShort()
  return { type, end: frame.at + length }
}

export const passExtension = (frame: FrameReader, name: string): string => {
  const { type, end } = uaExtension(frame, name)
  if (end > frame.at) frame.data(name, end - frame.at)
  return type
}

type Scalar = (frame: FrameReader, depth: number) => string
const asText: Scalar = (frame) => `“${uaString(frame, 'value') ?? ''}”`
const asNode: Scalar = (frame) => uaNodeId(frame, 'value')
const signed =
  (bits: number): ((value: number) => string) =>
  (value) =>
    String((value << (32 - bits)) >> (32 - bits))
const [int8, int16] = [signed(8), signed(16)]

/** By the number of the type. */
const scalars: Record<number, Scalar> = {
  1: (frame) => (frame.u8('value', (value) => (value ? 'true' : 'false')) ? 'true' : 'false'),
  2: (frame) => int8(frame.u8('value', int8)),
  3: (frame) => String(frame.u8('value')),
  4: (frame) => int16(frame.u16le('value', int16)),
  5: (frame) => String(frame.u16le('value')),
  6: (frame) => String(frame.u32le('value', (value) => String(value | 0)) | 0),
  7: (frame) => String(frame.u32le('value')),
  8: (frame) =>
    String(
      BigInt.asIntN(
        64,
        frame.u64le('value', (value) => String(BigInt.asIntN(64, value))),
      ),
    ),
  9: (frame) => String(frame.u64le('value')),
  10: (frame) => String(frame.f32le('value')),
  11: (frame) => String(frame.f64le('value')),
  12: asText,
  13: (frame) => timeText(uaTime(frame, 'value')),
  14: (frame) => guidText(frame.data('value', 16, guidText)),
  15: (frame) => counted(uaBytes(frame, 'value').length, 'byte'),
  16: asText,
  17: asNode,
  18: asNode,
  19: (frame) => statusName(uaStatus(frame, 'value')),
  20: (frame) => uaQualifiedName(frame, 'value') ?? '',
  21: (frame) => localizedText(frame, 'value'),
  22: (frame) => `something of type ${passExtension(frame, 'value')}`,
  23: (frame, depth) => uaDataValue(frame, depth + 1).text,
  24: (frame, depth) => uaVariant(frame, depth + 1),
  25: (frame, depth) => {
    uaDiagnostics(frame, depth + 1)
    return 'diagnostics'
  },
}

const scalar = (frame: FrameReader, type: number, depth: number): string => {
  const read = scalars[type]
  if (!read) throw new TooShort()
  return read(frame, depth)
}

const typeNames = [
  ...['nothing', 'Boolean', 'SByte', 'Byte', 'Int16', 'UInt16', 'Int32', 'UInt32', 'Int64', 'UInt64', 'Float', 'Double', 'String'],
  ...['DateTime', 'Guid', 'ByteString', 'XmlElement', 'NodeId', 'ExpandedNodeId', 'StatusCode', 'QualifiedName', 'LocalizedText'],
  ...['Structure', 'DataValue', 'Variant', 'DiagnosticInfo'],
]

/** A value with its type before it (5.2.2.16). */
export const uaVariant = (frame: FrameReader, depth = 0): string => {
  if (depth > mostDepth) throw new TooShort()
  const first = frame.u8('type', (value) => `${typeNames[value & 0x3f] ?? value & 0x3f}${value & 0x80 ? ', several' : ''}`)
  const type = first & 0x3f
  if (type === 0) return 'nothing'
  if (!(first & 0x80)) return scalar(frame, type, depth)
  const count = uaCount(frame, 'how many')
  const values: string[] = []
  for (let i = 0; i < count; i++) {
    const value = scalar(frame, type, depth)
    if (i < mostShown) values.push(value)
  }
  if (first & 0x40) for (let left = uaCount(frame, 'dimensions'); left > 0; left--) frame.u32le('length of a dimension')
  return `${values.join(' ')}${count > mostShown ? ` … (${count})` : ''}`
}

/** A value, its status and its times, as far as they are there (5.2.2.17). */
export const uaDataValue = (frame: FrameReader, depth = 0): { text: string; status: number } => {
  const mask = frame.u8('parts', (value) => hexText(value, 2))
  const text = mask & 1 ? uaVariant(frame, depth) : 'nothing'
  const status = mask & 2 ? uaStatus(frame, 'status') : 0
  if (mask & 4) uaTime(frame, 'source time')
  if (mask & 0x10) frame.u16le('source time, finer')
  if (mask & 8) uaTime(frame, 'server time')
  if (mask & 0x20) frame.u16le('server time, finer')
  return { text, status }
}

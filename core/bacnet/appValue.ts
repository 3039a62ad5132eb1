import { appTag, appTagNames, Malformed, signedBytes, signedOf, TagWriter, unsignedBytes, unsignedOf } from './tagged'
import type { AppTagName, TagReader } from './tagged'
import { objectIdBytes, objectIdOf, type ObjectId } from './objectId'

/** A value as a device sends it, with the type that it says itself (20.2.2 to 20.2.14). */
export type AppValue =
  | { tag: 'null' }
  | { tag: 'boolean'; value: boolean }
  | { tag: 'unsigned' | 'signed'; value: number | bigint }
  | { tag: 'enumerated' | 'real' | 'double'; value: number }
  | { tag: 'octets'; value: Buffer }
  | { tag: 'text'; value: string }
  | { tag: 'bits'; value: boolean[] }
  | { tag: 'date'; value: CalendarDate }
  | { tag: 'time'; value: ClockTime }
  | { tag: 'object'; value: ObjectId }
  /** Of several members, whose form only its property knows. */
  | { tag: 'constructed'; value: Buffer }

/** Null: any. */
export interface CalendarDate {
  year: number | null
  month: number | null
  day: number | null
}
export interface ClockTime {
  hour: number | null
  minute: number | null
  second: number | null
  hundredths: number | null
}

/** The next value, whichever it is. */
export const readValue = (reader: TagReader): AppValue => {
  const from = reader.at
  const head = reader.head()
  if (head.isContext) {
    if (head.kind === 'opening') reader.within(head.tag)
    else if (head.kind === 'value') reader.take(head.length)
    else throw new Malformed(`a closing tag ${head.tag} without an opening one`)
    return { tag: 'constructed', value: reader.bytes.subarray(from, reader.at) }
  }
  if (head.tag === appTag.boolean) return { tag: 'boolean', value: head.length === 1 }
  const name = appTagNames[head.tag]
  if (!name || name === 'boolean') throw new Malformed(`there is no application tag ${head.tag}`)
  return decoders[name](reader.take(head.length))
}

/** All values up to the end. */
export const readValues = (reader: TagReader): AppValue[] => {
  const values: AppValue[] = []
  while (!reader.isAtEnd) values.push(readValue(reader))
  return values
}

const decoders: Record<Exclude<AppTagName, 'boolean'>, (bytes: Buffer) => AppValue> = {
  null: () => ({ tag: 'null' }),
  unsigned: (bytes) => ({ tag: 'unsigned', value: unsignedOf(bytes) }),
  signed: (bytes) => ({ tag: 'signed', value: signedOf(bytes) }),
  real: (bytes) => ({ tag: 'real', value: exactly(bytes, 4).readFloatBE() }),
  double: (bytes) => ({ tag: 'double', value: exactly(bytes, 8).readDoubleBE() }),
  octets: (bytes) => ({ tag: 'octets', value: Buffer.from(bytes) }),
  text: (bytes) => ({ tag: 'text', value: textOf(bytes) }),
  bits: (bytes) => ({ tag: 'bits', value: bitsOf(bytes) }),
  enumerated: (bytes) => ({ tag: 'enumerated', value: Number(unsignedOf(bytes)) }),
  date: (bytes) => {
    const [year, month, day] = exactly(bytes, 4)
    return { tag: 'date', value: { year: year === any ? null : 1900 + year!, month: orAny(month!), day: orAny(day!) } }
  },
  time: (bytes) => {
    const [hour, minute, second, hundredths] = exactly(bytes, 4)
    return {
      tag: 'time',
      value: { hour: orAny(hour!), minute: orAny(minute!), second: orAny(second!), hundredths: orAny(hundredths!) },
    }
  },
  object: (bytes) => ({ tag: 'object', value: objectIdOf(exactly(bytes, 4).readUInt32BE()) }),
}

const any = 0xff
const orAny = (byte: number) => (byte === any ? null : byte)

const exactly = (bytes: Buffer, length: number) => {
  if (bytes.length !== length) throw new Malformed(`${bytes.length} bytes where ${length} are due`)
  return bytes
}

/** The character sets of clause 20.2.9 that devices still use. */
const charset = { utf8: 0, ucs4: 3, ucs2: 4, latin1: 5 } as const

const textOf = (bytes: Buffer): string => {
  if (bytes.length === 0) throw new Malformed('a text without a character set')
  const content = bytes.subarray(1)
  switch (bytes[0]) {
    case charset.utf8:
      return content.toString('utf8')
    case charset.latin1:
      return content.toString('latin1')
    case charset.ucs2:
      return Buffer.from(content.subarray(0, content.length & ~1))
        .swap16()
        .toString('utf16le')
    case charset.ucs4: {
      const points: number[] = []
      for (let at = 0; at + 4 <= content.length; at += 4) points.push(Math.min(content.readUInt32BE(at), 0x10ffff))
      return String.fromCodePoint(...points)
    }
    default:
      // a code page of its own: letters of ASCII are the same in all of them
      return content.toString('latin1')
  }
}

const bitsOf = (bytes: Buffer): boolean[] => {
  if (bytes.length === 0 || bytes[0]! > 7) throw new Malformed('a bit string without its count')
  const count = 8 * (bytes.length - 1) - bytes[0]!
  return Array.from({ length: Math.max(0, count) }, (_, i) => (bytes[1 + (i >> 3)]! & (0x80 >> (i & 7))) !== 0)
}

/** Writes a value with its application tag. Throws a RangeError where the type does not hold it. */
export const writeValue = (writer: TagWriter, value: AppValue): TagWriter => {
  switch (value.tag) {
    case 'boolean':
      return writer.boolean(value.value)
    case 'constructed':
      return writer.raw(value.value)
    default:
      return writer.application(value.tag, contentOf(value))
  }
}

const contentOf = (value: Exclude<AppValue, { tag: 'boolean' | 'constructed' }>): Buffer => {
  switch (value.tag) {
    case 'null':
      return Buffer.alloc(0)
    case 'unsigned':
    case 'enumerated':
      return unsignedBytes(value.value)
    case 'signed':
      return signedBytes(value.value)
    case 'real':
    case 'double':
      return floatBytes(value.value, value.tag === 'real' ? 4 : 8)
    case 'octets':
      return value.value
    case 'text':
      return Buffer.concat([Buffer.from([charset.utf8]), Buffer.from(value.value, 'utf8')])
    case 'bits':
      return bitBytes(value.value)
    case 'date':
      return dateBytes(value.value)
    case 'time':
      return timeBytes(value.value)
    case 'object':
      return objectIdBytes(value.value)
  }
}

const floatBytes = (value: number, length: 4 | 8): Buffer => {
  const bytes = Buffer.alloc(length)
  if (length === 4) bytes.writeFloatBE(value)
  else bytes.writeDoubleBE(value)
  return bytes
}

const dateBytes = ({ year, month, day }: CalendarDate) => Buffer.from([year === null ? any : year - 1900, month ?? any, day ?? any, any])
const timeBytes = ({ hour, minute, second, hundredths }: ClockTime) =>
  Buffer.from([hour ?? any, minute ?? any, second ?? any, hundredths ?? any])

const bitBytes = (bits: readonly boolean[]): Buffer => {
  const bytes = Buffer.alloc(1 + Math.ceil(bits.length / 8))
  bytes[0] = 8 * (bytes.length - 1) - bits.length
  for (const [i, on] of bits.entries()) if (on) bytes[1 + (i >> 3)]! |= 0x80 >> (i & 7)
  return bytes
}

/** The bytes of a value with its tag. */
export const valueBytes = (value: AppValue): Buffer => writeValue(new TagWriter(), value).bytes

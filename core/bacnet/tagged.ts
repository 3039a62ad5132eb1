/** Tagged data of BACnet (ANSI/ASHRAE 135, 20.2): each piece tells what it is, and how long. */

/** The application tags of clause 20.2.1.4, by their number. */
export const appTag = {
  null: 0,
  boolean: 1,
  unsigned: 2,
  signed: 3,
  real: 4,
  double: 5,
  octets: 6,
  text: 7,
  bits: 8,
  enumerated: 9,
  date: 10,
  time: 11,
  object: 12,
} as const
export type AppTagName = keyof typeof appTag
export const appTagNames = Object.keys(appTag) as AppTagName[]

/** What was read is not as the standard has it. */
export class Malformed extends Error {}

/** The head of a piece. `length`: bytes of its content, or the value itself of a boolean; opening and closing tags have none. */
export interface Head {
  tag: number
  isContext: boolean
  kind: 'value' | 'opening' | 'closing'
  length: number
}

const [opening, closing] = [6, 7]

/** Reads tagged data from front to back; throws {@link Malformed} where it ends too early. */
export class TagReader {
  constructor(
    readonly bytes: Buffer,
    public at = 0,
    readonly end = bytes.length,
  ) {}

  get isAtEnd() {
    return this.at >= this.end
  }

  head(): Head {
    const first = this.byte()
    const isContext = (first & 0x08) !== 0
    const tag = first >> 4 === 15 ? this.byte() : first >> 4
    const short = first & 7
    if (isContext && (short === opening || short === closing))
      return { tag, isContext, kind: short === opening ? 'opening' : 'closing', length: 0 }
    return { tag, isContext, kind: 'value', length: short < 5 ? short : this.length() }
  }

  /** Whether a piece of this context number, below 15, comes next. Asked for every value, so it looks at the byte itself. */
  isNext(tag: number, kind: Head['kind'] = 'value'): boolean {
    if (this.at >= this.end) return false
    const byte = this.bytes[this.at]!
    if (byte >> 4 !== tag || (byte & 0x08) === 0) return false
    const short = byte & 7
    return kind === 'value' ? short < opening : short === (kind === 'opening' ? opening : closing)
  }

  /** Passes an opening or closing tag. */
  pass(tag: number, kind: 'opening' | 'closing') {
    if (!this.isNext(tag, kind)) throw new Malformed(`an ${kind} tag ${tag} is missing`)
    this.at++
  }

  /** The content of a piece of this context number. */
  context(tag: number): Buffer {
    const head = this.head()
    if (!head.isContext || head.tag !== tag || head.kind !== 'value') throw new Malformed(`a piece ${tag} is missing`)
    return this.take(head.length)
  }

  /** An unsigned number of this context. */
  contextUnsigned(tag: number): number {
    return Number(unsignedOf(this.context(tag)))
  }

  take(length: number): Buffer {
    if (this.at + length > this.end) throw new Malformed('it ends in the middle of a value')
    this.at += length
    return this.bytes.subarray(this.at - length, this.at)
  }

  /** Passes all up to and including the closing tag of this number, and returns what was between. */
  within(tag: number): TagReader {
    const from = this.at
    for (let depth = 1; ;) {
      const before = this.at
      const head = this.head()
      if (head.kind === 'opening') depth++
      else if (head.kind === 'closing') depth--
      else if (!(head.tag === appTag.boolean && !head.isContext)) this.take(head.length)
      if (depth > 0) continue
      if (head.tag !== tag) throw new Malformed(`a closing tag ${tag} is missing`)
      return new TagReader(this.bytes, from, before)
    }
  }

  private byte(): number {
    if (this.at >= this.end) throw new Malformed('it ends too early')
    return this.bytes[this.at++]!
  }

  private length(): number {
    const length = this.byte()
    if (length < 254) return length
    const wide = this.take(length === 254 ? 2 : 4)
    return wide.readUIntBE(0, wide.length)
  }
}

/** Whole numbers of any width that the standard allows; beyond 2⁵³ as `bigint`. */
export const unsignedOf = (bytes: Buffer): number | bigint => {
  if (bytes.length <= 6) return bytes.length === 0 ? 0 : bytes.readUIntBE(0, bytes.length)
  if (bytes.length > 8) throw new Malformed('a whole number of more than 64 bits')
  return narrowed(BigInt(`0x${bytes.toString('hex')}`))
}

export const signedOf = (bytes: Buffer): number | bigint => {
  if (bytes.length <= 6) return bytes.length === 0 ? 0 : bytes.readIntBE(0, bytes.length)
  if (bytes.length > 8) throw new Malformed('a whole number of more than 64 bits')
  return narrowed(BigInt.asIntN(8 * bytes.length, BigInt(`0x${bytes.toString('hex')}`)))
}

const narrowed = (value: bigint) =>
  value <= BigInt(Number.MAX_SAFE_INTEGER) && value >= BigInt(Number.MIN_SAFE_INTEGER) ? Number(value) : value

/** Makes tagged data. */
export class TagWriter {
  private parts: Buffer[] = []

  get bytes(): Buffer {
    return Buffer.concat(this.parts)
  }

  application(tag: AppTagName, content: Buffer): this {
    return this.piece(appTag[tag], false, content)
  }

  /** A boolean has its value in place of a length (20.2.3). */
  boolean(value: boolean): this {
    return this.raw(Buffer.from([(appTag.boolean << 4) | (value ? 1 : 0)]))
  }

  context(tag: number, content: Buffer): this {
    return this.piece(tag, true, content)
  }

  contextUnsigned(tag: number, value: number | bigint): this {
    return this.context(tag, unsignedBytes(value))
  }

  opening(tag: number): this {
    return this.raw(bracket(tag, opening))
  }

  closing(tag: number): this {
    return this.raw(bracket(tag, closing))
  }

  raw(bytes: Buffer): this {
    this.parts.push(bytes)
    return this
  }

  private piece(tag: number, isContext: boolean, content: Buffer): this {
    const { length } = content
    const first = (tag < 15 ? tag << 4 : 0xf0) | (isContext ? 0x08 : 0) | Math.min(length, 5)
    const more = tag < 15 ? [] : [tag]
    if (length < 5) this.parts.push(Buffer.from([first, ...more]), content)
    else if (length < 254) this.parts.push(Buffer.from([first, ...more, length]), content)
    else this.parts.push(Buffer.from([first, ...more, 254, length >> 8, length & 0xff]), content)
    return this
  }
}

const bracket = (tag: number, kind: number) => Buffer.from(tag < 15 ? [(tag << 4) | 0x08 | kind] : [0xf8 | kind, tag])

/** In as few bytes as it takes (20.2.4). */
export const unsignedBytes = (value: number | bigint): Buffer => {
  if (value < 0) throw new RangeError('it cannot be negative')
  const hex = BigInt(value).toString(16)
  return Buffer.from(hex.length % 2 ? `0${hex}` : hex, 'hex')
}

export const signedBytes = (value: number | bigint): Buffer => {
  const wide = BigInt(value)
  let bytes = 1
  while (BigInt.asIntN(8 * bytes, wide) !== wide) bytes++
  const hex = BigInt.asUintN(8 * bytes, wide).toString(16)
  return Buffer.from(hex.padStart(2 * bytes, '0'), 'hex')
}

import type { FrameField } from './told'

/** The frame ends before what was to be read. */
export class TooShort extends Error {}

type Means<T> = (value: T) => string

export const hexText = (value: number, digits: number) => `0x${value.toString(16).toUpperCase().padStart(digits, '0')}`
const utf8 = new TextDecoder('utf-8', { fatal: false })

/** Reads a frame from its beginning on, and notes what lies where. Throws `TooShort` past the end, and nothing else. */
export class FrameReader {
  at = 0
  readonly fields: FrameField[] = []

  private end: number

  /** @param isNoting false: nothing is noted, for whoever wants no fields */
  constructor(
    readonly bytes: Uint8Array,
    private isNoting = true,
  ) {
    this.end = bytes.length
  }

  get left() {
    return this.end - this.at
  }

  /** From here on it ends earlier; returns how to go back to the end before. */
  within(length: number): () => void {
    const before = this.end
    this.end = Math.min(before, this.at + length)
    return () => {
      this.end = before
    }
  }

  u8(name: string, means?: Means<number>): number {
    return this.number(name, 1, this.peek(0), means)
  }

  u16(name: string, means?: Means<number>): number {
    this.need(2)
    return this.number(name, 2, (this.bytes[this.at]! << 8) | this.bytes[this.at + 1]!, means)
  }

  u16le(name: string, means?: Means<number>): number {
    this.need(2)
    return this.number(name, 2, this.bytes[this.at]! | (this.bytes[this.at + 1]! << 8), means)
  }

  u24(name: string, means?: Means<number>): number {
    this.need(3)
    const [a, b, c] = this.bytes.subarray(this.at, this.at + 3) as unknown as [number, number, number]
    return this.number(name, 3, (a << 16) | (b << 8) | c, means)
  }

  u32(name: string, means?: Means<number>): number {
    this.need(4)
    return this.number(name, 4, this.view.getUint32(this.at), means)
  }

  u32le(name: string, means?: Means<number>): number {
    this.need(4)
    return this.number(name, 4, this.view.getUint32(this.at, true), means)
  }

  u64le(name: string, means: Means<bigint> = String): bigint {
    this.need(8)
    const value = this.view.getBigUint64(this.at, true)
    this.at += 8
    if (this.isNoting) this.note(name, 8, means(value))
    return value
  }

  f64le(name: string, means?: Means<number>): number {
    this.need(8)
    return this.number(name, 8, this.view.getFloat64(this.at, true), means)
  }

  f32le(name: string): number {
    this.need(4)
    return this.number(name, 4, this.view.getFloat32(this.at, true), undefined)
  }

  text(name: string, length: number, means: Means<string> = (text) => `“${text}”`): string {
    const text = utf8.decode(this.take(length))
    if (this.isNoting) this.note(name, length, means(text))
    return text
  }

  data(
    name: string,
    length: number,
    means: Means<Uint8Array> = (bytes) => (bytes.length === 1 ? '1 byte' : `${bytes.length} bytes`),
  ): Uint8Array {
    const bytes = this.take(length)
    if (this.isNoting) this.note(name, length, means(bytes))
    return bytes
  }

  /** Passes bytes that are no field of their own, as what stands before a text. */
  pass(length: number) {
    this.take(length)
  }

  /** All that is left; nothing where nothing is. */
  rest(name: string, means?: Means<Uint8Array>): Uint8Array {
    return this.left > 0 ? this.data(name, this.left, means) : new Uint8Array()
  }

  /** A byte that is looked at and not taken. */
  peek(ahead = 0): number {
    this.need(ahead + 1)
    return this.bytes[this.at + ahead]!
  }

  /** What was read last says that something is wrong. */
  isWrong() {
    const last = this.fields.at(-1)
    if (last) last.isWrong = true
  }

  /** Notes a field of so many bytes that were passed already. */
  note(name: string, length: number, means: string) {
    if (this.isNoting) this.fields.push({ name, at: this.at - length, length, means })
  }

  private number(name: string, length: number, value: number, means: Means<number> | undefined): number {
    this.at += length
    if (this.isNoting) this.note(name, length, means ? means(value) : String(value))
    return value
  }

  private take(length: number): Uint8Array {
    this.need(length)
    this.at += length
    return this.bytes.subarray(this.at - length, this.at)
  }

  private need(length: number) {
    if (length < 0 || this.at + length > this.end) throw new TooShort()
  }

  private get view() {
    return new DataView(this.bytes.buffer, this.bytes.byteOffset, this.bytes.byteLength)
  }
}

/**
 * Rows in the binary form of COPY (PostgreSQL, COPY, “Binary Format”), built and read without an object per row.
 */

const header = Uint8Array.from([0x50, 0x47, 0x43, 0x4f, 0x50, 0x59, 0x0a, 0xff, 0x0d, 0x0a, 0x00, 0, 0, 0, 0, 0, 0, 0, 0])
const trailer = Uint8Array.from([0xff, 0xff])
/** Times of PostgreSQL count microseconds from 2000-01-01. */
const epochMs = Date.UTC(2000, 0, 1)
const half = 2 ** 32

/** What goes before and after rows in one COPY. */
export const wholeCopy = (rows: readonly Uint8Array[]): Uint8Array[] => [header, ...rows, trailer]

const encoder = new TextEncoder()
const smallest = 4096

const viewOf = (bytes: Uint8Array) => new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)

/** Rows on their way into a table. Each begins with `row`, then come as many fields as that says. */
export class CopyRows {
  private bytes = new Uint8Array(smallest)
  private view = new DataView(this.bytes.buffer)
  private length = 0
  count = 0

  get size() {
    return this.length
  }

  row(fields: number): this {
    // the widest row of fields of fixed length
    this.need(2 + fields * 12)
    this.view.setInt16(this.length, fields)
    this.length += 2
    this.count++
    return this
  }

  int4(value: number): this {
    this.view.setInt32(this.length, 4)
    this.view.setInt32(this.length + 4, value)
    this.length += 8
    return this
  }

  float8(value: number): this {
    this.view.setInt32(this.length, 8)
    this.view.setFloat64(this.length + 4, value)
    this.length += 12
    return this
  }

  /** NaN stands for no value. */
  float8OrNull(value: number): this {
    return Number.isNaN(value) ? this.null() : this.float8(value)
  }

  bool(value: boolean): this {
    this.view.setInt32(this.length, 1)
    this.view.setUint8(this.length + 4, Number(value))
    this.length += 5
    return this
  }

  /** @param ms Unix milliseconds */
  time(ms: number): this {
    const micros = Math.round((ms - epochMs) * 1000)
    const high = Math.floor(micros / half)
    this.view.setInt32(this.length, 8)
    this.view.setInt32(this.length + 4, high)
    this.view.setUint32(this.length + 8, micros - high * half)
    this.length += 12
    return this
  }

  timeOrNull(ms: number): this {
    return Number.isNaN(ms) ? this.null() : this.time(ms)
  }

  null(): this {
    this.view.setInt32(this.length, -1)
    this.length += 4
    return this
  }

  /** Last in its row. */
  text(value: string): this {
    this.need(4 + value.length * 3)
    const { written } = encoder.encodeInto(value, this.bytes.subarray(this.length + 4))
    this.view.setInt32(this.length, written)
    this.length += 4 + written
    return this
  }

  /** The rows so far; the next ones begin anew. */
  take(): Uint8Array {
    const rows = this.bytes.slice(0, this.length)
    this.length = this.count = 0
    return rows
  }

  private need(more: number) {
    const least = this.length + more
    if (least <= this.bytes.length) return
    const wider = new Uint8Array(Math.max(least, this.bytes.length * 2))
    wider.set(this.bytes)
    this.bytes = wider
    this.view = new DataView(wider.buffer)
  }
}

/** The first two fields of each row, where those are an int4 and a time, Unix milliseconds. Throws where the rows are none. */
export function* placesIn(rows: Uint8Array): Generator<[series: number, at: number]> {
  const view = viewOf(rows)
  for (let at = 0; at < rows.length;) {
    const micros = view.getInt32(at + 14) * half + view.getUint32(at + 18)
    yield [view.getInt32(at + 6), epochMs + micros / 1000]
    const fields = view.getInt16(at)
    at += 2
    for (let field = 0; field < fields; field++) at += 4 + Math.max(0, view.getInt32(at))
  }
}

/** Rows on their way out of a table: `next` until there is no whole one, and of each its fields in their order. */
export class CopyReader {
  private bytes = new Uint8Array()
  private view = viewOf(this.bytes)
  private at = header.length

  /** What comes next: parts end anywhere. */
  push(part: Uint8Array) {
    const left = this.bytes.subarray(this.at)
    this.at = Math.max(0, this.at - this.bytes.length)
    this.bytes = new Uint8Array(left.length + part.length)
    this.bytes.set(left)
    this.bytes.set(part, left.length)
    this.view = viewOf(this.bytes)
  }

  next(): boolean {
    if (!this.hasWhole()) return false
    const fields = this.view.getInt16(this.at)
    this.at += 2
    return fields >= 0
  }

  private hasWhole(): boolean {
    const { view } = this
    const { byteLength } = view
    let at = this.at + 2
    if (at > byteLength) return false
    for (let left = view.getInt16(this.at); left > 0; left--) {
      if (at + 4 > byteLength) return false
      at += 4 + Math.max(0, view.getInt32(at))
    }
    return at <= byteLength
  }

  int4(): number {
    const value = this.view.getInt32(this.at + 4)
    this.at += 8
    return value
  }

  /** Beyond 2^53 not exactly. */
  int8(): number {
    this.at += 12
    return this.view.getInt32(this.at - 8) * half + this.view.getUint32(this.at - 4)
  }

  /** NaN where there is none. */
  float8(): number {
    const length = this.view.getInt32(this.at)
    this.at += 4
    if (length < 0) return NaN
    this.at += 8
    return this.view.getFloat64(this.at - 8)
  }

  bool(): boolean {
    this.at += 5
    return this.view.getUint8(this.at - 1) === 1
  }

  /** Unix milliseconds; NaN where there is none. */
  time(): number {
    const length = this.view.getInt32(this.at)
    this.at += 4
    if (length < 0) return NaN
    this.at += 8
    return epochMs + (this.view.getInt32(this.at - 8) * half + this.view.getUint32(this.at - 4)) / 1000
  }

  textOrNull(): string | null {
    const length = this.view.getInt32(this.at)
    this.at += 4
    if (length < 0) return null
    this.at += length
    return new TextDecoder().decode(this.bytes.subarray(this.at - length, this.at))
  }
}

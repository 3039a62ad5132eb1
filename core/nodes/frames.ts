import { quality } from '../tags/quality'
import type { ScalarValue, TagValue } from '../tags/types'

/**
 * What a node sends besides words: samples of its tags, signs that they still hold, and parcels of what it recorded. Numbers are
 * big-endian. A frame begins with its kind, one byte.
 *
 * - samples: revision (u32), count (u32), then each: tag (u32), quality (u32), source time and time of seeing (f64, Unix ms), value
 * - confirmed: revision (u32), count (u32), then each: tag (u32), time of seeing (f64)
 * - parcel: number (u32), then the parcel
 */
export const frameKinds = { samples: 1, confirmed: 2, parcel: 3 } as const

/** A sample on its way from a node. */
export interface NodeSample {
  /** The id of the tag. */
  tag: number
  quality: number
  sourceTime: number
  seenAt: number
  value: TagValue | undefined
}

const valueKinds = { nothing: 0, false: 1, true: 2, number: 3, int64: 4, uint64: 5, text: 6, list: 7 } as const
const smallest = 4096
const headBytes = 9
const encoder = new TextEncoder()
const decoder = new TextDecoder('utf-8', { fatal: true })

/** Frames of samples or confirmations, filled without an object for each. */
export class FrameWriter {
  private bytes = new Uint8Array(smallest)
  private view = new DataView(this.bytes.buffer)
  private length = headBytes
  count = 0

  constructor(private kind: 'samples' | 'confirmed') {}

  get size() {
    return this.length
  }

  sample({ tag, quality: code, sourceTime, seenAt, value }: NodeSample) {
    this.need(24)
    this.view.setUint32(this.length, tag)
    this.view.setUint32(this.length + 4, code)
    this.view.setFloat64(this.length + 8, sourceTime)
    this.view.setFloat64(this.length + 16, seenAt)
    this.length += 24
    this.value(value)
    this.count++
  }

  confirmed(tag: number, seenAt: number) {
    this.need(12)
    this.view.setUint32(this.length, tag)
    this.view.setFloat64(this.length + 4, seenAt)
    this.length += 12
    this.count++
  }

  /** What is in it; the next one begins. @param revision up to which the configuration is in force that it comes by */
  take(revision: number): Uint8Array {
    this.view.setUint8(0, frameKinds[this.kind])
    this.view.setUint32(1, revision)
    this.view.setUint32(5, this.count)
    const frame = this.bytes.slice(0, this.length)
    this.length = headBytes
    this.count = 0
    return frame
  }

  private value(value: TagValue | undefined) {
    if (value === undefined) return this.byte(valueKinds.nothing)
    if (typeof value === 'object') return this.list(value)
    if (typeof value === 'boolean') return this.byte(value ? valueKinds.true : valueKinds.false)
    if (typeof value === 'string') return this.text(value)
    if (typeof value === 'bigint') return this.whole(value)
    this.need(9)
    this.view.setUint8(this.length, valueKinds.number)
    this.view.setFloat64(this.length + 1, value)
    this.length += 9
  }

  private whole(value: bigint) {
    this.need(9)
    this.view.setUint8(this.length, value < 0n ? valueKinds.int64 : valueKinds.uint64)
    if (value < 0n) this.view.setBigInt64(this.length + 1, value)
    else this.view.setBigUint64(this.length + 1, value)
    this.length += 9
  }

  private text(value: string) {
    this.need(5 + value.length * 3)
    const { written } = encoder.encodeInto(value, this.bytes.subarray(this.length + 5))
    this.view.setUint8(this.length, valueKinds.text)
    this.view.setUint32(this.length + 1, written)
    this.length += 5 + written
  }

  private list(values: readonly ScalarValue[]) {
    this.need(5)
    this.view.setUint8(this.length, valueKinds.list)
    this.view.setUint32(this.length + 1, values.length)
    this.length += 5
    for (const value of values) this.value(value)
  }

  private byte(byte: number) {
    this.need(1)
    this.view.setUint8(this.length++, byte)
  }

  private need(more: number) {
    if (this.length + more <= this.bytes.length) return
    const wider = new Uint8Array(Math.max(this.length + more, this.bytes.length * 2))
    wider.set(this.bytes)
    this.bytes = wider
    this.view = new DataView(wider.buffer)
  }
}

export const parcelFrame = (number: number, parcel: Uint8Array): Uint8Array => {
  const frame = new Uint8Array(5 + parcel.length)
  const view = new DataView(frame.buffer)
  view.setUint8(0, frameKinds.parcel)
  view.setUint32(1, number)
  frame.set(parcel, 5)
  return frame
}

/** Who takes what frames bring. */
export interface FrameTaker {
  sample(sample: NodeSample, revision: number): void
  confirmed(tag: number, seenAt: number, revision: number): void
  parcel(number: number, bytes: Uint8Array): void
}

/** Reads a frame. Throws where it is none; what came before the place where it breaks has been handed over by then. */
export const readFrame = (bytes: Uint8Array, taker: FrameTaker) => {
  const reader = new FrameReader(bytes)
  const kind = reader.byte()
  if (kind === frameKinds.parcel) return taker.parcel(reader.u32(), reader.rest())
  if (kind !== frameKinds.samples && kind !== frameKinds.confirmed) throw new Error(`${kind} is no kind of frame.`)
  const [revision, count] = [reader.u32(), reader.u32()]
  for (let i = 0; i < count; i++) {
    if (kind === frameKinds.samples) taker.sample(reader.sample(), revision)
    else taker.confirmed(reader.u32(), reader.f64(), revision)
  }
  if (!reader.isAtEnd) throw new Error('A frame goes on after its end.')
}

class FrameReader {
  private view: DataView
  private at = 0

  constructor(private bytes: Uint8Array) {
    this.view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  }

  get isAtEnd() {
    return this.at === this.bytes.length
  }

  rest(): Uint8Array {
    return this.bytes.subarray(this.at)
  }

  byte() {
    return this.view.getUint8(this.at++)
  }

  u32() {
    this.at += 4
    return this.view.getUint32(this.at - 4)
  }

  f64() {
    this.at += 8
    return this.view.getFloat64(this.at - 8)
  }

  sample(): NodeSample {
    const [tag, code, sourceTime, seenAt] = [this.u32(), this.u32(), this.f64(), this.f64()]
    const value = this.value()
    // nobody has a good value that is none
    return { tag, sourceTime, seenAt, value, quality: value === undefined && code === quality.Good ? quality.BadNoData : code }
  }

  private value(): TagValue | undefined {
    const kind = this.byte()
    if (kind === valueKinds.nothing) return undefined
    if (kind !== valueKinds.list) return this.scalar(kind)
    const count = this.u32()
    if (count > this.bytes.length - this.at) throw new Error('A list says that it is longer than its frame.')
    return Array.from({ length: count }, () => this.scalar(this.byte()))
  }

  private scalar(kind: number): ScalarValue {
    if (kind === valueKinds.number) return this.f64()
    if (kind === valueKinds.true || kind === valueKinds.false) return kind === valueKinds.true
    if (kind === valueKinds.int64 || kind === valueKinds.uint64) {
      this.at += 8
      return kind === valueKinds.int64 ? this.view.getBigInt64(this.at - 8) : this.view.getBigUint64(this.at - 8)
    }
    if (kind !== valueKinds.text) throw new Error(`${kind} is no kind of value.`)
    const length = this.u32()
    if (length > this.bytes.length - this.at) throw new Error('A text says that it is longer than its frame.')
    this.at += length
    return decoder.decode(this.bytes.subarray(this.at - length, this.at))
  }
}

import { quality, isGood, severityOf } from '#core/tags/quality'
import { sameValue, type TagValue } from '#core/tags/types'
import { Dampers, type Damping } from './dampers'
import { SampleRing } from './sampleRing'

export type Handle = number
export type BatchListener = (handles: readonly Handle[]) => void

/**
 * The hot path: values, qualities and times in arrays, indexed by a tag's handle. Links write,
 * then flush; listeners get the handles that changed, once each. Reading is reading an array.
 *
 * `sourceTime` is when the source first had the present value and quality, `seenAt` when they
 * were last confirmed. Both are Unix milliseconds; 0: never.
 */
export class TagTable {
  values: (TagValue | undefined)[] = []
  quality = new Uint32Array(64)
  sourceTime = new Float64Array(64)
  seenAt = new Float64Array(64)
  private dirtyMark = new Uint8Array(64)
  private dirty: Handle[] = []
  private free: Handle[] = []
  private next = 0
  private good = 0
  private used = new Uint8Array(64)
  /** Whether somebody wants every sample: off it costs a look at one byte. */
  private followed = new Uint8Array(64)
  private rings = new Map<Handle, Set<SampleRing>>()
  /** Whether some values are held back, as a tag chose it; and what is. */
  private damped = new Uint8Array(64)
  private dampers = new Dampers({
    pass: (handle, value, sourceTime) => this.store(handle, value, this.quality[handle]!, sourceTime),
    confirmed: (handle) => this.confirmedValue(handle),
    flush: () => this.flush(),
  })
  private listeners = new Set<BatchListener>()
  /** Changes written since the start. */
  changes = 0

  /** Gives out a handle whose tag waits for its first value. */
  allocate(): Handle {
    const handle = this.free.pop() ?? this.next++
    if (handle >= this.quality.length) this.grow()
    this.values[handle] = undefined
    this.quality[handle] = quality.BadWaitingForInitialData
    this.sourceTime[handle] = 0
    this.seenAt[handle] = 0
    this.used[handle] = 1
    return handle
  }

  /** Takes a handle back. Whoever held it has let go before. */
  release(handle: Handle) {
    if (isGood(this.quality[handle]!)) this.good--
    this.used[handle] = 0
    this.followed[handle] = 0
    this.damp(handle, null)
    this.rings.delete(handle)
    this.values[handle] = undefined
    this.quality[handle] = quality.BadOutOfService
    this.free.push(handle)
  }

  /**
   * Stores a sample that was seen at `time`. Counts as a change when value or quality differ.
   * `sourceTime` is for sources that have a clock of their own.
   */
  set(handle: Handle, value: TagValue, code: number, time: number, sourceTime = time) {
    this.seenAt[handle] = time
    if (this.quality[handle] === code) {
      if (sameValue(this.values[handle], value)) return this.setEqual(handle, time, sourceTime)
      if (this.damped[handle] && this.dampers.holds(handle, this.values[handle], value, time, sourceTime)) return
    }
    this.store(handle, value, code, sourceTime)
  }

  /** The same from a source that has held back itself what is to be held back. No value: it has none. */
  pass(handle: Handle, value: TagValue | undefined, code: number, time: number, sourceTime: number) {
    this.seenAt[handle] = time
    const isEqual = this.quality[handle] === code && sameValue(this.values[handle], value)
    if (!isEqual) return this.store(handle, value, code, sourceTime)
    if (this.followed[handle]) this.keepEqual(handle, sourceTime)
  }

  private setEqual(handle: Handle, time: number, sourceTime: number) {
    if (this.damped[handle]) this.dampers.returned(handle)
    if (this.followed[handle] && sourceTime !== time) this.keepEqual(handle, sourceTime)
  }

  private store(handle: Handle, value: TagValue | undefined, code: number, sourceTime: number) {
    this.values[handle] = value
    this.changeQuality(handle, code)
    this.sourceTime[handle] = sourceTime
    if (this.damped[handle]) this.dampers.passed(handle, this.seenAt[handle]!)
    this.markDirty(handle)
  }

  /** The last value stays and says what it is worth now. */
  degrade(handle: Handle, code: number, time: number) {
    if (this.quality[handle] === code) return
    if (this.damped[handle]) this.values[handle] = this.dampers.waitingOf(handle) ?? this.values[handle]
    this.changeQuality(handle, code)
    this.sourceTime[handle] = time
    if (this.damped[handle]) this.dampers.passed(handle, time)
    this.markDirty(handle)
  }

  /** Another source, address or type from now on: what was there before says nothing about what comes. */
  renew(handle: Handle, time: number) {
    this.values[handle] = undefined
    this.changeQuality(handle, quality.BadWaitingForInitialData)
    this.sourceTime[handle] = time
    this.seenAt[handle] = 0
    if (this.damped[handle]) this.dampers.forget(handle)
    this.markDirty(handle)
  }

  /** Which values of a tag are passed on from now on; null: each. */
  damp(handle: Handle, damping: Damping | null) {
    if (damping) this.dampers.set(handle, damping)
    else if (this.damped[handle]) this.dampers.delete(handle)
    this.damped[handle] = Number(damping !== null)
  }

  /** Somebody wrote: what comes of it is passed on, however little it changes. */
  announce(handle: Handle) {
    if (!this.damped[handle]) return
    this.dampers.announce(handle)
    this.flush()
  }

  /** What the source has by now, where that is held back. */
  heldOf(handle: Handle): TagValue | undefined {
    return this.dampers.heldOf(handle)
  }

  /** A value that is bad is not passed on again: nobody confirms it. */
  private confirmedValue(handle: Handle) {
    const value = this.values[handle]
    return value === undefined || severityOf(this.quality[handle]!) === 'bad' ? null : { value, at: this.seenAt[handle]! }
  }

  /** The source confirmed the value it had. */
  confirm(handle: Handle, time: number) {
    this.seenAt[handle] = time
  }

  private changeQuality(handle: Handle, code: number) {
    this.good += Number(isGood(code)) - Number(isGood(this.quality[handle]!))
    this.quality[handle] = code
  }

  /**
   * Keeps every sample of a tag from now on, beginning with what it has, as many as `most` until they are taken out.
   * It ends by itself when the tag goes; its handle may be another tag’s by then.
   */
  follow(handle: Handle, most: number): { ring: SampleRing; end(): void } {
    const ring = new SampleRing(most)
    const rings = this.rings.get(handle) ?? new Set()
    this.rings.set(handle, rings.add(ring))
    this.followed[handle] = 1
    ring.push(this.sampleOf(handle))
    const end = () => {
      rings.delete(ring)
      if (rings.size > 0 || this.rings.get(handle) !== rings) return
      this.rings.delete(handle)
      this.followed[handle] = 0
    }
    return { ring, end }
  }

  private sampleOf(handle: Handle) {
    return {
      value: this.values[handle],
      quality: this.quality[handle]!,
      sourceTime: this.sourceTime[handle]!,
      seenAt: this.seenAt[handle]!,
    }
  }

  private keep(handle: Handle) {
    for (const ring of this.rings.get(handle)!) ring.push(this.sampleOf(handle))
  }

  private keepEqual(handle: Handle, sourceTime: number) {
    for (const ring of this.rings.get(handle)!) ring.pushIfLater({ ...this.sampleOf(handle), sourceTime })
  }

  private markDirty(handle: Handle) {
    this.changes++
    if (this.followed[handle]) this.keep(handle)
    if (this.dirtyMark[handle]) return
    this.dirtyMark[handle] = 1
    this.dirty.push(handle)
  }

  /** Hands everything that changed since the last call to the listeners. */
  flush() {
    if (this.dirty.length === 0) return
    const batch = this.dirty
    this.dirty = []
    for (const handle of batch) this.dirtyMark[handle] = 0
    for (const listener of this.listeners) listener(batch)
  }

  /** Listeners run within `flush`, so they only take note; each works off its own backlog at its own pace. */
  listen(listener: BatchListener): () => void {
    this.listeners.add(listener)
    return () => this.listeners.delete(listener)
  }

  isUsed(handle: Handle) {
    return this.used[handle] === 1
  }

  get size() {
    return this.next - this.free.length
  }

  get goodCount() {
    return this.good
  }

  close() {
    this.dampers.close()
  }

  private grow() {
    const size = this.quality.length * 2
    this.quality = enlarged(this.quality, new Uint32Array(size))
    this.sourceTime = enlarged(this.sourceTime, new Float64Array(size))
    this.seenAt = enlarged(this.seenAt, new Float64Array(size))
    this.dirtyMark = enlarged(this.dirtyMark, new Uint8Array(size))
    this.used = enlarged(this.used, new Uint8Array(size))
    this.followed = enlarged(this.followed, new Uint8Array(size))
    this.damped = enlarged(this.damped, new Uint8Array(size))
  }
}

const enlarged = <A extends Uint8Array | Uint32Array | Float64Array>(from: A, to: A): A => {
  to.set(from)
  return to
}

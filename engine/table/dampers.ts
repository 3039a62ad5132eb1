import type { TagValue } from '#core/tags/types'
import { onClockSet } from '#pacing/clock'
import { DueList } from '#pacing/dueList'
import type { Handle } from './tagTable'

/** Which values of one tag are passed on. */
export interface Damping {
  /** A value counts once it is further away than this from the last one that was passed on; 0: each does. */
  band: number
  /** Milliseconds between two values at least; 0: none. */
  least: number
  /** After so many without a change a confirmed value is passed on once more; 0: never. */
  most: number
}

interface Damper extends Damping {
  /** What the source had last, if it was held back. */
  held: TagValue | undefined
  heldSource: number
  /** Held back for the time being; else for good, unless it goes on moving. */
  waits: boolean
  passedAt: number
  /** The next value goes on whatever it is. */
  announced: boolean
}

/** What dampers do with the tag table. */
interface Passing {
  /** Passes on a value that was held back, or the present one once more. */
  pass(handle: Handle, value: TagValue, sourceTime: number): void
  /** When the source confirmed its present value; null: it is not to be passed on again. */
  confirmed(handle: Handle): { value: TagValue; at: number } | null
  flush(): void
}

/** Holds back values of tags that have a deadband or a least time, and passes on again those that have a longest one. */
export class Dampers {
  private dampers = new Map<Handle, Damper>()
  private due = new DueList<Handle>((handles, now) => this.passDue(handles, now))

  private stopListening: () => void

  constructor(private passing: Passing) {
    this.stopListening = onClockSet((by) => {
      for (const damper of this.dampers.values()) damper.passedAt += by
    })
  }

  set(handle: Handle, damping: Damping) {
    const before = this.dampers.get(handle)
    const damper: Damper = { ...damping, held: undefined, heldSource: 0, waits: false, passedAt: -Infinity, announced: false }
    this.dampers.set(handle, damper)
    if (before?.held !== undefined) this.passing.pass(handle, before.held, before.heldSource)
    this.passed(handle, Date.now())
  }

  delete(handle: Handle) {
    this.dampers.delete(handle)
    this.due.cancel(handle)
  }

  /** What was held back says nothing about what comes. */
  forget(handle: Handle) {
    const damper = this.dampers.get(handle)!
    letGo(damper)
    damper.passedAt = -Infinity
    this.due.cancel(handle)
  }

  /** Whether a value of the present quality is to be held back. */
  holds(handle: Handle, passed: TagValue | undefined, value: TagValue, now: number, sourceTime: number): boolean {
    const damper = this.dampers.get(handle)!
    if (damper.announced || passed === undefined) return false
    const isNear = isWithin(damper.band, passed, value)
    const isEarly = !isNear && damper.least > 0 && now - damper.passedAt < damper.least
    if (!isNear && !isEarly) return false
    damper.held = value
    damper.heldSource = sourceTime
    damper.waits = isEarly
    if (isEarly) this.due.add(handle, damper.passedAt + damper.least)
    return true
  }

  /** A value went on. */
  passed(handle: Handle, now: number) {
    const damper = this.dampers.get(handle)!
    letGo(damper)
    damper.announced = false
    damper.passedAt = now
    if (damper.most > 0) this.due.add(handle, now + damper.most)
    else this.due.cancel(handle)
  }

  /** The source has the value again that was passed on last. */
  returned(handle: Handle) {
    letGo(this.dampers.get(handle)!)
  }

  /** Somebody wrote: what comes of it goes on at once, however small. */
  announce(handle: Handle) {
    const damper = this.dampers.get(handle)!
    damper.announced = true
    if (damper.held !== undefined) this.passing.pass(handle, damper.held, damper.heldSource)
  }

  /** What the source had last, where it was held back. */
  heldOf(handle: Handle): TagValue | undefined {
    return this.dampers.get(handle)?.held
  }

  /** What waited for its time only. */
  waitingOf(handle: Handle): TagValue | undefined {
    const damper = this.dampers.get(handle)!
    return damper.waits ? damper.held : undefined
  }

  close() {
    this.stopListening()
    this.due.close()
  }

  private passDue(handles: readonly Handle[], now: number) {
    for (const handle of handles) this.passOne(handle, now)
    this.passing.flush()
  }

  private passOne(handle: Handle, now: number) {
    const damper = this.dampers.get(handle)
    if (!damper) return
    const isOver = damper.most > 0 && now - damper.passedAt >= damper.most
    if (damper.held !== undefined && (damper.waits || isOver)) return this.passing.pass(handle, damper.held, damper.heldSource)
    const again = isOver ? this.passing.confirmed(handle) : null
    if (again && again.at > damper.passedAt) return this.passing.pass(handle, again.value, again.at)
    // not confirmed since: looked at again after as long
    if (damper.most > 0) this.due.add(handle, Math.max(damper.passedAt, now) + damper.most)
  }
}

const letGo = (damper: Damper) => {
  damper.held = undefined
  damper.waits = false
}

const isWithin = (band: number, passed: TagValue, value: TagValue): boolean => {
  if (band === 0) return false
  if (typeof value === 'number' && typeof passed === 'number') return Math.abs(value - passed) <= band
  return typeof value === 'bigint' && typeof passed === 'bigint' && Math.abs(Number(value - passed)) <= band
}

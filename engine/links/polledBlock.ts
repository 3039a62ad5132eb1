import type { Fault } from '#core/faults/catalogue'
import type { Block, PlanItem } from '#core/links/planner'
import { quality } from '#core/tags/quality'
import type { OddJudge, OddValues } from '#core/tags/odd'
import type { Scaling } from '#core/tags/scaling'
import type { TagValue } from '#core/tags/types'
import { steadyNow } from '#pacing/clock'
import { deliver } from '../table/deliver'
import type { SampleSink } from '../table/intake'
import type { Handle } from '../table/tagTable'

/** A point as it is polled: placed, with its decoder built. */
export interface PolledItem extends PlanItem {
  handle: Handle
  path: string
  /** @param at where its first element lies in what came, as its block counts */
  decode(bytes: Buffer, at: number): TagValue
  scaling: Scaling | null
  /** What was chosen for odd values, and what judges them by it. */
  chosenOdd: OddValues
  odd: OddJudge | null
  interval: number
  /** No tag: somebody asked for it. */
  onRequest?: true
}

const longestRestMs = 600_000

/** Points that lie side by side and are read at once, with what came last. */
export abstract class PolledBlock<P extends PolledItem> {
  handles: Handle[]
  /** The data of the last good reply. */
  bytes: Buffer | null = null
  repliedAt = 0
  answerMs = 0
  fault: Fault | null = null
  /** While a device keeps refusing this block: not before this time again. */
  restUntil = 0
  private refusals = 0
  /** No longer part of the plan: a reply still under way must not reach handles that may be others' by now. */
  retired = false
  private stale = true

  constructor(readonly plan: Block<P>) {
    this.handles = plan.items.map((item) => item.handle)
  }

  /** Where a point lies in the bytes, as its decoder counts. */
  abstract indexOf(point: P): number

  /** Takes a reply into the tag table. A reply equal to the last one only confirms the values. */
  accept(data: Buffer, at: number, ms: number, into: SampleSink) {
    this.repliedAt = at
    this.answerMs = ms
    this.fault = null
    this.refusals = 0
    if (!this.stale && this.bytes!.equals(data)) {
      for (const handle of this.handles) into.confirm(handle, at)
      return
    }
    this.keep(data)
    for (const point of this.plan.items) {
      const raw = point.decode(this.bytes!, this.indexOf(point))
      deliver(into, point, point.odd, raw, quality.Good, at, at)
    }
    this.stale = false
  }

  /** A point that is no longer wanted; the rest of the request stays as it is until there is another plan. */
  letGo(handle: Handle) {
    this.handles = this.handles.filter((one) => one !== handle)
    this.plan.items = this.plan.items.filter((point) => point.handle !== handle)
  }

  /** Never asked yet: worth asking before its interval is over. */
  get isUnread() {
    return this.bytes === null && this.fault === null
  }

  /** Planned anew just as it was. */
  revive(): this {
    this.retired = false
    return this
  }

  /** Values stay as they are and carry the given quality until the next good reply. */
  degrade(code: number, fault: Fault | null, into: SampleSink) {
    this.stale = true
    this.fault = fault
    const now = Date.now()
    for (const handle of this.handles) into.degrade(handle, code, now)
  }

  /** Another source from now on: neither bytes nor values count any more. */
  forget(into: SampleSink) {
    this.stale = true
    this.bytes = null
    this.fault = null
    const now = Date.now()
    for (const handle of this.handles) into.renew(handle, now)
  }

  /** A lone address that the device keeps refusing is asked for ever less often, at least every ten minutes. */
  rest(firstMs: number) {
    this.restUntil = steadyNow() + Math.min(longestRestMs, firstMs * 2 ** this.refusals)
    this.refusals++
  }

  /** A value was written: the next reply must not be taken as unchanged. */
  invalidate() {
    this.stale = true
  }

  /** Replies are slices of larger network buffers; a copy lets those go. */
  private keep(data: Buffer) {
    if (this.bytes?.length === data.length) data.copy(this.bytes)
    else this.bytes = Buffer.from(data)
  }
}

/** Whether two were planned over the very same points. */
export const samePoints = <P extends PolledItem>(a: PolledBlock<P>, b: PolledBlock<P>) =>
  a.plan.items.length === b.plan.items.length && a.plan.items.every((item, i) => item === b.plan.items[i])

import { fault, type Fault } from '#core/faults/catalogue'
import { refText } from '#core/bacnet/address'
import { appText, toTag, type Converted } from '#core/bacnet/conversion'
import type { AppValue } from '#core/bacnet/appValue'
import { pointOf, type BacnetPoint } from '#core/bacnet/point'
import type { ReadItem } from '#core/bacnet/planning'
import type { PropertyRef } from '#core/bacnet/services'
import type { BacnetSettings } from '#core/bacnet/settings'
import { qualityBy, type StatusFlags } from '#core/bacnet/statusFlags'
import { oddJudge, type OddJudge } from '#core/tags/odd'
import { quality } from '#core/tags/quality'
import type { DataType } from '#core/tags/types'
import { deliver } from '../../table/deliver'
import type { SampleSink } from '../../table/intake'
import type { Handle } from '../../table/tagTable'
import type { Point } from '../driver'

/** A tag as a device's poller has it. */
export interface Target {
  point: Point
  placed: BacnetPoint
  odd: OddJudge | null
  interval: number
}

/** Null where the address cannot be read. */
export const targetOf = (point: Point, settings: BacnetSettings): Target | null => {
  const placed = pointOf(point, settings)
  return placed && { point, placed, odd: oddJudge(point.type, point.odd), interval: point.interval ?? settings.interval }
}

/** What came last. */
export interface Sample {
  values: readonly AppValue[]
  flags: StatusFlags | null
  at: number
  /** How long the request took; null: it was notified. */
  ms: number | null
}

/**
 * How changes of an item reach us: it is polled (`off`), a subscription is `wanted`, was `taken` and nothing came yet, it
 * is `notified`, what should have come did not (`lost`), or the device does not take it (`refused`).
 */
export type Phase = 'off' | 'wanted' | 'taken' | 'notified' | 'lost' | 'refused'

const firstRestMs = 30_000
const longestRestMs = 600_000

/** One property of a device, and all tags that read it. */
export class Item implements ReadItem {
  targets: Target[] = []
  seen: number | null = null
  last: Sample | null = null
  /** Why there is no value; null: there is one, or nothing was asked yet. */
  fault: Fault | null = null
  /** While the device keeps refusing it: not before this time again. */
  restUntil = 0
  private refusals = 0
  phase: Phase
  /** Why it is polled although changes were to be told. */
  noticeFault: Fault | null = null
  noticedAt = 0
  /** What was notified last. */
  noticed: Sample | null = null
  /** When the next step of its subscription is due: to renew, to try again. */
  renewAt = 0
  /** A notification is due until then; 0: none is. */
  expectUntil = 0
  comparedAt = 0
  /** The change that the object itself finds worth a notification; null: not known. */
  objectIncrement: number | null = null

  constructor(
    readonly key: string,
    readonly ref: PropertyRef,
    readonly placed: BacnetPoint,
  ) {
    this.phase = placed.notices === 'off' ? 'off' : 'wanted'
  }

  get type(): DataType {
    return this.targets[0]?.point.type ?? 'float32'
  }

  get interval(): number {
    return Math.min(...this.targets.map(({ interval }) => interval))
  }

  /** Whether its rounds ask for it: what is notified is not polled. */
  get isPolled() {
    return this.phase !== 'notified'
  }

  get handles(): Handle[] {
    return this.targets.map(({ point }) => point.handle)
  }

  take(sample: Sample, into: SampleSink) {
    this.last = sample
    this.fault = null
    this.refusals = 0
    this.restUntil = 0
    for (const target of this.targets) this.give(target, sample, into)
  }

  /** What is known goes to a tag that joins. */
  give({ point, odd }: Target, { values, flags, at }: Sample, into: SampleSink) {
    const converted = toTag(values, point.type)
    if (converted.ok) return deliver(into, point, odd, converted.value, qualityBy(flags), at, at)
    this.fault ??= this.whyNot(converted, point.type)
    into.degrade(point.handle, converted.why === 'none' ? quality.BadNoData : quality.BadTypeMismatch, at)
    into.confirm(point.handle, at)
  }

  private whyNot(converted: Converted & { ok: false }, type: DataType): Fault {
    const place = refText(this.ref)
    return converted.why === 'none' ? fault('bacnet.none', { place }) : fault('bacnet.type', { place, type, got: converted.text })
  }

  degrade(code: number, why: Fault | null, into: SampleSink, now = Date.now()) {
    this.fault = why
    for (const { point } of this.targets) into.degrade(point.handle, code, now)
  }

  /** What the device keeps refusing is asked for ever less often. */
  rest(now: number) {
    this.restUntil = now + Math.min(longestRestMs, firstRestMs * 2 ** this.refusals)
    this.refusals++
  }

  /** Its device is another one, or away: nothing is subscribed there. */
  unsubscribe() {
    if (this.placed.notices !== 'off') this.phase = 'wanted'
    this.noticeFault = null
    this.expectUntil = 0
    this.renewAt = 0
    this.noticed = null
  }

  get valueText() {
    return this.last ? this.last.values.map(appText).join(', ') : ''
  }
}

/** Tags that read the same property in the same way share it. */
export const keyOf = ({ address, notices, increment }: BacnetPoint) => `${refText(address)} ${notices} ${increment ?? ''}`

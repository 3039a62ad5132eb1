import { fault, type Fault } from '#core/faults/catalogue'
import { refText } from '#core/bacnet/address'
import { confirmed } from '#core/bacnet/apdu'
import { hasFlags } from '#core/bacnet/planning'
import { isPresentValue, isToldByProperty } from '#core/bacnet/point'
import type { AppValue } from '#core/bacnet/appValue'
import { code, errorMeaning } from '#core/bacnet/codes'
import type { ObjectId } from '#core/bacnet/objectId'
import { prop } from '#core/bacnet/property'
import {
  encodeSubscribe,
  encodeSubscribeProperty,
  encodeUnsubscribe,
  encodeUnsubscribeProperty,
  type Notification,
  type Subscription,
} from '#core/bacnet/services'
import type { BacnetSettings } from '#core/bacnet/settings'
import { statusFlagsOf } from '#core/bacnet/statusFlags'
import { steadyNow } from '#pacing/clock'
import type { SampleSink } from '../../table/intake'
import { isUnknownService, outcomeFault, readOne } from './asking'
import type { Item, Sample } from './item'
import type { Lane } from './lane'
import type { Outcome } from './port'

export interface NoticeEvents {
  /** Which items are polled has changed. */
  changed(): void
  /** They were subscribed, and what should have come did not. */
  lost(items: readonly Item[], why: Fault): void
  /** Something that must not happen did. */
  troubled(error: unknown): void
  /** They come again. */
  back(items: readonly Item[]): void
}

/** How much later than an answer a notification may be, ms. */
const graceMs = 1000
const tickMs = 500
/** A device that has no place left is asked again after that, ms. */
const noPlaceMs = 60_000
const neverMs = 600_000
/** Renewed when so much of a lifetime is over. */
const renewedAfter = 0.5

/**
 * Subscriptions to changes at one device (ANSI/ASHRAE 135, 13.1, 13.14, 13.15): made, renewed before they end, and
 * compared with readings now and then. Where notifications do not arrive, the item is polled until they do.
 */
export class Notices {
  private timer: NodeJS.Timeout | null = null
  private busy = false

  constructor(
    private lane: Lane,
    private process: number,
    private settings: BacnetSettings,
    private items: () => Iterable<Item>,
    /** The items of one object. */
    private of: (object: ObjectId) => Iterable<Item>,
    private table: SampleSink,
    /** Reads items once, beside their rounds. */
    private compare: (items: Item[]) => Promise<void>,
    private events: NoticeEvents,
  ) {}

  adjust(settings: BacnetSettings) {
    this.settings = settings
  }

  start() {
    this.timer ??= setInterval(() => void this.tick(), tickMs)
    this.timer.unref()
    void this.tick()
  }

  stop() {
    if (this.timer) clearInterval(this.timer)
    this.timer = null
  }

  /** Takes a notification to the items that it is about. Returns whether there are any. */
  take({ object, values }: Notification, at: number): boolean {
    const flags = values.find(({ property }) => property === prop.statusFlags)
    let isWanted = false
    const back: Item[] = []
    for (const item of this.of(object)) {
      const { ref } = item
      if (item.placed.notices === 'off') continue
      const found = values.find(({ property, index }) => property === ref.property && index === ref.index)
      if (!found) continue
      isWanted = true
      if (item.phase === 'lost') back.push(item)
      item.phase = 'notified'
      item.noticeFault = null
      item.noticedAt = at
      item.expectUntil = 0
      if (item.comparedAt === 0) item.comparedAt = steadyNow()
      item.noticed = { values: found.values, flags: flags && hasFlags(ref) ? statusFlagsOf(flags.values) : null, at, ms: null }
      item.take(item.noticed, this.table)
    }
    if (back.length > 0) {
      this.events.back(back)
      this.events.changed()
    }
    return isWanted
  }

  /** Tells the device that an item is not wanted any more; whether it hears that does not matter. */
  end(item: Item) {
    if (item.phase !== 'notified' && item.phase !== 'taken' && item.phase !== 'lost') return
    const { process } = this
    const { object } = item.ref
    const content = isToldByProperty(item.placed)
      ? encodeUnsubscribeProperty({ process, object }, item.ref)
      : encodeUnsubscribe({ process, object })
    void this.lane.read(serviceFor(item), content)
  }

  private async tick() {
    if (this.busy || !this.lane.located) return
    this.busy = true
    try {
      const now = steadyNow()
      this.findLost(now)
      for (const item of [...this.items()]) if (this.isDue(item, now) && this.lane.located) await this.subscribe(item)
      await this.compareDue(steadyNow())
    } catch (error) {
      this.events.troubled(error)
    } finally {
      this.busy = false
    }
  }

  private isDue({ phase, renewAt }: Item, now: number) {
    return phase === 'wanted' || (phase !== 'off' && renewAt > 0 && renewAt <= now)
  }

  private async subscribe(item: Item) {
    const { object } = item.ref
    const { increment } = item.placed
    const { lifetime, kind } = this.settings.notices
    const isConfirmed = (item.placed.notices === 'off' ? kind : item.placed.notices) === 'confirmed'
    const subscription: Subscription = { process: this.process, object, isConfirmed, lifetime }
    const content = isToldByProperty(item.placed)
      ? encodeSubscribeProperty(subscription, item.ref, increment)
      : encodeSubscribe(subscription)
    const before = item.noticedAt
    const outcome = await this.lane.read(serviceFor(item), content)
    if (item.phase === 'off' || item.targets.length === 0) return
    if (outcome.kind !== 'done') return this.refused(item, outcome)
    const now = steadyNow()
    item.renewAt = now + lifetime * 1000 * renewedAfter
    // each subscription is followed by what the value is now (13.14.2)
    if (item.noticedAt === before) item.expectUntil = now + this.settings.patience.answer + graceMs
    if (item.phase === 'wanted' || item.phase === 'refused') {
      item.phase = item.noticedAt === before || item.noticedAt === 0 ? 'taken' : 'notified'
      this.events.changed()
    }
    if (item.objectIncrement === null && increment === null) await this.learnIncrement(item)
  }

  /** Which differences need no notification. */
  private async learnIncrement(item: Item) {
    const ref = { ...item.ref, property: prop.covIncrement }
    const { answer } = await readOne((service, content) => this.lane.read(service, content), ref)
    const value = answer?.ok ? answer.values[0] : undefined
    item.objectIncrement = value?.tag === 'real' ? value.value : 0
  }

  private refused(item: Item, outcome: Outcome) {
    const { located, instance } = this.lane
    if (!located || outcome.kind === 'silent' || outcome.kind === 'closed' || outcome.kind === 'unrouted') return
    const place = refText(item.ref)
    const meant = { device: String(instance), station: located.station, what: `a subscription to ${place}` }
    const why = outcomeFault(outcome, meant)!
    item.noticeFault = fault('bacnet.not-subscribed', { place, ...refusalWords(item, outcome, why) })
    const hasNoPlace = outcome.kind === 'error' && noPlace.has(outcome.error.code)
    item.renewAt = steadyNow() + (hasNoPlace ? noPlaceMs : neverMs)
    item.phase = 'refused'
    this.events.changed()
  }

  private findLost(now: number) {
    const lost = [...this.items()].filter(({ phase, expectUntil }) => (phase === 'taken' || phase === 'notified') && expectUntil > 0 && expectUntil < now) // prettier-ignore
    if (lost.length > 0) this.lose(lost)
  }

  private lose(items: readonly Item[]) {
    const { located, instance } = this.lane
    if (!located) return
    const names = items.slice(0, 3).map(({ ref }) => refText(ref))
    const tags = names.join(', ') + (items.length > names.length ? ` and ${items.length - names.length} more` : '')
    const why = fault('bacnet.not-notified', { tags, device: instance, place: `${located.station.host}:${located.station.port}` })
    for (const item of items) {
      item.phase = 'lost'
      // asked for anew each time that it would have been compared: what swallowed it may be mended
      item.renewAt = Math.min(item.renewAt, steadyNow() + this.settings.notices.compare * 1000)
      item.noticeFault = why
      item.expectUntil = 0
    }
    this.events.lost(items, why)
    this.events.changed()
  }

  /** What is notified is read as well, now and then: a difference that nobody told is a notification that was lost. */
  private async compareDue(now: number) {
    const due = [...this.items()].filter(
      ({ phase, comparedAt }) => phase === 'notified' && now - comparedAt >= this.settings.notices.compare * 1000,
    )
    if (due.length === 0 || !this.lane.located) return
    const before = due.map((item) => ({ item, noticed: item.noticed }))
    for (const item of due) item.comparedAt = now
    await this.compare(due)
    const suspects = before.filter(
      ({ item, noticed }) =>
        item.phase === 'notified' && item.noticed === noticed && noticed && item.last && differs(noticed, item.last, incrementOf(item)),
    )
    for (const { item } of suspects) item.expectUntil ||= steadyNow() + this.settings.patience.answer + graceMs
  }
}

const serviceFor = ({ placed }: Item) => (isToldByProperty(placed) ? confirmed.subscribeCovProperty : confirmed.subscribeCov)

/** Why the device does not take a subscription, and what to do. */
const refusalWords = ({ placed }: Item, outcome: Outcome, why: Fault): { why: string; next: string } => {
  if (isUnknownService(outcome) && !isPresentValue(placed.address))
    return { why: 'it tells changes of present values only', next: 'Choose that this tag is polled.' }
  if (isUnknownService(outcome) && placed.increment !== null)
    return { why: 'it takes no increment of ours', next: 'Leave the increment out: the object has its own.' }
  if (outcome.kind !== 'error') return { why: why.what, next: why.next }
  const { words, next } = errorMeaning(outcome.error)
  return { why: words, next }
}

const noPlace = new Set<number>([code.covSubscriptionFailed, code.noSpaceForElement, code.noSpaceForObject])

const incrementOf = ({ placed, objectIncrement }: Item) => placed.increment ?? objectIncrement ?? 0

/** Whether a difference should have been told. */
export const differs = (a: Sample, b: Sample, increment: number): boolean => {
  if (a.flags && b.flags && JSON.stringify(a.flags) !== JSON.stringify(b.flags)) return true
  if (a.values.length !== b.values.length) return true
  return a.values.some((value, i) => isOther(value, b.values[i]!, increment))
}

const isOther = (a: AppValue, b: AppValue, increment: number): boolean => {
  if (a.tag !== b.tag) return true
  if (a.tag === 'real' || a.tag === 'double')
    return Math.abs(a.value - (b as typeof a).value) > increment && !Object.is(a.value, (b as typeof a).value)
  return JSON.stringify(textual(a)) !== JSON.stringify(textual(b))
}

const textual = (value: AppValue) => ('value' in value && typeof value.value === 'bigint' ? String(value.value) : value)

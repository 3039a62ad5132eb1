import { fault, type Fault } from '#core/faults/catalogue'
import { refText } from '#core/bacnet/address'
import type { Notification } from '#core/bacnet/services'
import { isSameStation, type Station } from '#core/bacnet/frames'
import { confirmed } from '#core/bacnet/apdu'
import { encodeRead } from '#core/bacnet/services'
import { packedId, type ObjectId } from '#core/bacnet/objectId'
import { deviceType } from '#core/bacnet/names/objectTypes'
import { prop } from '#core/bacnet/property'
import type { BacnetSettings } from '#core/bacnet/settings'
import { quality } from '#core/tags/quality'
import type { UnitStatus } from '#shared/status'
import { steadyNow } from '#pacing/clock'
import { WriteQueue } from '../writeQueue'
import type { SampleSink } from '../../table/intake'
import type { Handle } from '../../table/tagTable'
import type { JournalWriter } from '../../journal/journal'
import type { PointFinding } from '../driver'
import type { Meters } from '#core/statistics/meters'
import { findingsOf, nameOf, statusOf, type Told } from './deviceStatus'
import type { Directory } from './directory'
import { Item, keyOf, type Target } from './item'
import { Lane } from './lane'
import { Notices } from './notices'
import { asFault, type BacnetPort, type PortUser } from './port'
import { Reader, type Reading } from './reader'
import { Rounds } from './rounds'

export interface DeviceContext {
  link: string
  table: SampleSink
  journal: JournalWriter
  meters: Meters
  port: BacnetPort
  user: PortUser
  directory: Directory
  process: number
}

/** A device of which nothing was heard for so long is asked whether it is there, ms. */
const shortestPulseMs = 5000
const pulseTickMs = 1000

/** A device at work: its tags are polled, or told of, and written. */
export class Device {
  readonly lane: Lane
  readonly writes: WriteQueue
  readonly reader: Reader
  private notices: Notices
  private items = new Map<string, Item>()
  private byObject = new Map<number, Item[]>()
  private byHandle = new Map<Handle, { item: Item; target: Target }>()
  private rounds: Rounds
  private pulse: NodeJS.Timeout
  private closed = false
  private isLossTold = false
  private isKnocking = false

  constructor(
    readonly instance: number,
    private settings: BacnetSettings,
    private context: DeviceContext,
  ) {
    this.lane = new Lane(instance, settings, context, { found: () => this.found(), lost: (why) => this.lost(why) })
    this.writes = new WriteQueue(settings.writes)
    this.reader = new Reader(this.lane, settings.requests)
    this.rounds = new Rounds({
      items: () => this.items.values(),
      plan: (items) => this.reader.plan(items),
      ask: (items) => this.ask(items),
      isThere: () => this.lane.located !== null,
      troubled: (error) => context.journal.trouble(context.link, `A round of device ${instance} broke off.`, asFault(error)),
    })
    this.notices = new Notices(
      ...([
        this.lane,
        context.process,
        settings,
        () => this.items.values(),
        (object: ObjectId) => this.ofObject(object),
        context.table,
      ] as const),
      (items) => this.readNow(items),
      {
        troubled: (error) => context.journal.trouble(context.link, `The subscriptions of device ${instance} broke off.`, asFault(error)),
        changed: () => this.rounds.soon(),
        lost: (items, why) => this.noticesLost(items, why),
        back: (items) => context.journal.note(context.link, `Notifications of device ${instance} arrive again: ${nameOf(items)}.`),
      },
    )
    this.pulse = setInterval(() => void this.beat(), pulseTickMs)
    this.pulse.unref()
  }

  adjust(settings: BacnetSettings) {
    this.settings = settings
    this.lane.adjust(settings)
    this.writes.adjust(settings.writes)
    this.reader.adjust(settings.requests)
    this.notices.adjust(settings)
    this.rounds.now()
  }

  get isEmpty() {
    return this.byHandle.size === 0
  }

  add(target: Target) {
    const { handle } = target.point
    this.drop(handle)
    const key = keyOf(target.placed)
    const item = this.items.get(key) ?? this.newItem(key, target)
    item.targets.push(target)
    this.byHandle.set(handle, { item, target })
    this.showWhatIsKnown(item, target)
    this.rounds.soon()
    if (this.lane.located && item.phase === 'wanted') this.notices.start()
  }

  /** From now on nothing reaches this handle, which may be another tag's by then. */
  drop(handle: Handle) {
    const held = this.byHandle.get(handle)
    if (!held) return
    this.byHandle.delete(handle)
    const { item } = held
    item.targets = item.targets.filter(({ point }) => point.handle !== handle)
    if (item.targets.length > 0) return
    this.notices.end(item)
    item.phase = 'off'
    this.items.delete(item.key)
    const object = packedId(item.ref.object)
    this.byObject.set(
      object,
      this.ofObject(item.ref.object).filter((one) => one !== item),
    )
    if (this.ofObject(item.ref.object).length === 0) this.byObject.delete(object)
    this.rounds.soon()
  }

  private newItem(key: string, { placed }: Target): Item {
    const item = new Item(key, placed.address, placed)
    this.items.set(key, item)
    const object = packedId(item.ref.object)
    const known = this.byObject.get(object)
    if (known) known.push(item)
    else this.byObject.set(object, [item])
    return item
  }

  private ofObject(object: ObjectId): Item[] {
    return this.byObject.get(packedId(object)) ?? []
  }

  of(handle: Handle) {
    return this.byHandle.get(handle) ?? null
  }

  get located() {
    return this.lane.located
  }

  /** Whether it was about something that is wanted here. What another one says in its name does not count. */
  notified(notification: Notification, from: Station): boolean {
    const { located } = this.lane
    if (!located || !isSameStation(located.station, from)) return false
    this.lane.heardAt = steadyNow()
    const isWanted = this.notices.take(notification, Date.now())
    this.context.table.flush()
    return isWanted
  }

  /** Two say that they are this one: whose values would these be. */
  contested(why: Fault) {
    this.lane.lookAgain(why)
  }

  /** Reads items once, beside their rounds. */
  async readNow(items: readonly Item[]) {
    for (const request of this.reader.plan(items)) await this.ask(request)
  }

  close() {
    this.closed = true
    for (const item of this.items.values()) this.notices.end(item)
    this.notices.stop()
    this.rounds.close()
    clearInterval(this.pulse)
    this.lane.close()
  }

  status(name: string): UnitStatus {
    return statusOf(this.told, name)
  }

  findings(): PointFinding[] {
    return findingsOf(this.told)
  }

  private get told(): Told {
    const { instance, lane, rounds, context, settings, reader } = this
    const { strays } = context.port
    return {
      instance,
      lane,
      rounds,
      items: [...this.items.values()],
      strays,
      parallel: settings.requests.parallel,
      wayText: reader.wayText,
    }
  }

  private found() {
    const { journal, link } = this.context
    if (this.isLossTold) journal.note(link, `Device ${this.instance} is there again.`)
    this.isLossTold = false
    for (const item of this.items.values()) {
      item.unsubscribe()
      item.restUntil = 0
    }
    this.rounds.hasten()
    this.rounds.now()
    this.notices.start()
  }

  private lost(why: Fault) {
    const { journal, link, table } = this.context
    if (!this.isLossTold) journal.caution(link, why.what, why)
    this.isLossTold = true
    this.notices.stop()
    for (const item of this.items.values()) {
      item.unsubscribe()
      item.degrade(whereNot(why), why, table)
    }
    table.flush()
  }

  private noticesLost(items: readonly Item[], why: Fault) {
    this.context.journal.caution(this.context.link, why.what, why)
    for (const { interval } of items) this.rounds.hasten(interval)
  }

  /** A tag that joins what is known already gets it; where the device is away, it says so at once. */
  private showWhatIsKnown(item: Item, target: Target) {
    const { table } = this.context
    const { lane } = this
    if (!lane.located && lane.fault) table.degrade(target.point.handle, whereNot(lane.fault), Date.now())
    else if (lane.located && item.last && !item.fault) item.give(target, item.last, table)
    else if (item.fault && item.restUntil > 0) table.degrade(target.point.handle, quality.BadConfigurationError, Date.now())
    table.flush()
  }

  private async ask(items: readonly Item[]) {
    await this.reader.read(items, (item, reading) => this.take(item, reading))
    this.context.table.flush()
  }

  private take(item: Item, reading: Reading) {
    if (this.closed || item.targets.length === 0) return
    const { table, journal, link } = this.context
    switch (reading.kind) {
      case 'value': {
        const grew = reading.bytes > (item.seen ?? 0)
        item.seen = Math.max(item.seen ?? 0, reading.bytes)
        if (grew) this.rounds.soon()
        return item.take({ values: reading.values, flags: reading.flags, at: reading.at, ms: reading.ms }, table)
      }
      case 'refused':
        if (item.restUntil === 0)
          journal.caution(link, `${pathsOf(item)}: device ${this.instance} refuses ${refText(item.ref)}.`, reading.why)
        item.rest(steadyNow())
        return item.degrade(reading.code, reading.why, table)
      case 'away':
        if (!this.lane.located) return
        return item.degrade(this.lane.silentInARow > 1 ? quality.BadNoCommunication : quality.UncertainLastUsableValue, reading.why, table)
    }
  }

  /** Where everything is told of, silence says nothing: whether the device is there is asked now and then. */
  private async beat() {
    const { lane } = this
    if (!lane.located || this.isEmpty || this.isKnocking) return
    const isQuiet = steadyNow() - lane.heardAt >= Math.max(shortestPulseMs, this.settings.interval)
    if (!isQuiet && lane.silentInARow === 0) return
    this.isKnocking = true
    const ref = { object: { type: deviceType, instance: this.instance }, property: prop.systemStatus, index: null }
    const outcome = await lane.read(confirmed.readProperty, encodeRead(ref))
    this.isKnocking = false
    if (outcome.kind === 'silent' && lane.located) this.doubt(outcome)
  }

  /** What was told is only what was last heard, until the device gives a sign again. */
  private doubt({ ms, tries, stray }: { ms: number; tries: number; stray: string }) {
    const { table } = this.context
    const why = fault('bacnet.silent', { device: String(this.instance), place: this.reader.stationText, ms, tries }, stray)
    for (const item of this.items.values()) {
      if (item.phase !== 'notified') continue
      item.degrade(quality.UncertainLastUsableValue, why, table)
      // compared, and so read, as soon as it answers
      item.comparedAt = 0
    }
    table.flush()
  }
}

const whereNot = (why: Fault) => (why.code === 'bacnet.duplicate' || why.code === 'bacnet.other-device' ? quality.BadConfigurationError : quality.BadNoCommunication) // prettier-ignore

const pathsOf = ({ targets }: Item) => targets.map(({ point }) => point.path).join(', ')

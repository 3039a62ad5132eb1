import { fault, type Fault } from '#core/faults/catalogue'
import { formatAddress, refText } from '#core/bacnet/address'
import type { Notification } from '#core/bacnet/services'
import { isSameStation, type Station } from '#core/bacnet/frames'
import { confirmed } from '#core/bacnet/apdu'
import { encodeRead } from '#core/bacnet/services'
import { packedId, type ObjectId } from '#core/bacnet/objectId'
import { deviceType } from '#core/bacnet/names/objectTypes'
import { prop } from '#core/bacnet/property'
import type { BacnetSettings } from '#core/bacnet/settings'
import { quality } from '#core/tags/quality'
import { counted } from '#core/text/counted'
import { duration } from '#core/text/duration'
import type { RefusedPoint, UnitStatus } from '#shared/status'
import { PlanTimer } from '../planTimer'
import { nextBeat } from '../roundPoller'
import { WriteQueue } from '../writeQueue'
import type { SampleSink } from '../../table/intake'
import type { Handle } from '../../table/tagTable'
import type { JournalWriter } from '../../journal/journal'
import type { PointFinding } from '../driver'
import type { Directory } from './directory'
import { Item, keyOf, type Target } from './item'
import { Lane } from './lane'
import { Notices } from './notices'
import { asFault, type BacnetPort, type PortUser } from './port'
import { Reader, type Reading } from './reader'

export interface DeviceContext {
  link: string
  table: SampleSink
  journal: JournalWriter
  port: BacnetPort
  user: PortUser
  directory: Directory
  process: number
}

/** What shares an interval, as it is asked. */
interface Round {
  interval: number
  requests: Item[][]
  nextDue: number
  running: boolean
  measuredMs: number | null
}

/** A device of which nothing was heard for so long is asked whether it is there, ms. */
const shortestPulseMs = 5000
const pulseTickMs = 1000
const mostRefusedShown = 20

/** A device at work: its tags are polled, or told of, and written. */
export class Device {
  readonly lane: Lane
  readonly writes: WriteQueue
  readonly reader: Reader
  private notices: Notices
  private items = new Map<string, Item>()
  private byObject = new Map<number, Item[]>()
  private byHandle = new Map<Handle, { item: Item; target: Target }>()
  private rounds = new Map<number, Round>()
  private planning = new PlanTimer(() => this.replan())
  private timer: NodeJS.Timeout | null = null
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
        changed: () => this.planning.soon(),
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
    this.planning.now()
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
    this.planning.soon()
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
    this.planning.soon()
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
    this.lane.heardAt = Date.now()
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
    this.planning.close()
    clearInterval(this.pulse)
    if (this.timer) clearTimeout(this.timer)
    this.lane.close()
  }

  status(name: string): UnitStatus {
    const refused = this.refused()
    const { lane } = this
    return {
      ...{ unit: String(this.instance), title: `Device ${this.instance}${name ? ` · ${name}` : ''}` },
      ...this.state(),
      ...{ answerMs: lane.answerMs, requests: lane.requests, failures: lane.failures },
      ...{ lateReplies: this.context.port.strays.late, foreignReplies: this.context.port.strays.foreign },
      rounds: [...this.rounds.values()]
        .sort((a, b) => a.interval - b.interval)
        .map(({ interval, requests, measuredMs }) => ({
          ...{ interval, measuredMs, requests: requests.length, points: tagsIn(requests.flat()) },
          predictedMs: lane.answerMs === null ? null : (requests.length * lane.answerMs) / this.settings.requests.parallel,
        })),
      ...{ leftOutUntil: null, lastFault: this.fault },
      ...{ refused: refused.slice(0, mostRefusedShown), refusedCount: refused.length },
    }
  }

  /** The first thing that is wrong with it; null: nothing is. */
  get fault(): Fault | null {
    if (this.lane.fault) return this.lane.fault
    for (const { noticeFault, phase } of this.items.values()) if (noticeFault && phase === 'lost') return noticeFault
    return null
  }

  private state(): Pick<UnitStatus, 'flow' | 'sentence'> {
    const { lane } = this
    if (!lane.located) return lane.fault ? { flow: 'broken', sentence: lane.fault.what } : { flow: 'late', sentence: 'Looking for it' }
    if (lane.silentInARow > 0) return { flow: 'late', sentence: `${counted(lane.silentInARow, 'request')} without an answer` }
    const { fault: why } = this
    if (why) return { flow: 'late', sentence: why.what }
    const slow = [...this.rounds.values()].find(({ measuredMs, interval }) => measuredMs !== null && measuredMs > interval)
    if (slow) return { flow: 'late', sentence: `A round takes ${duration(slow.measuredMs!)}, its tags ask for every ${duration(slow.interval)}` } // prettier-ignore
    return { flow: 'flowing', sentence: this.steady() }
  }

  private steady() {
    const told = [...this.items.values()].filter(({ phase }) => phase === 'notified')
    const polled = [...this.items.values()].filter(({ isPolled }) => isPolled)
    const words = [
      ...(told.length > 0 ? [`${counted(tagsIn(told), 'tag')} told of`] : []),
      ...(polled.length > 0 ? [`${counted(tagsIn(polled), 'tag')} polled, ${this.reader.wayText}`] : []),
    ]
    return words.join(' · ') || 'There, no tags yet'
  }

  /** What the device refuses. */
  refused(): RefusedPoint[] {
    return [...this.items.values()].flatMap(({ fault: why, restUntil, ref, targets }) =>
      why && restUntil > 0
        ? targets
            .filter(({ point }) => !point.onRequest)
            .map(({ point }) => ({ path: point.path, address: formatAddress({ device: this.instance, ...ref }), why: why.what }))
        : [],
    )
  }

  findings(): PointFinding[] {
    const slow = [...this.rounds.values()].filter(({ measuredMs, interval }) => measuredMs !== null && measuredMs > interval)
    return [
      ...[...this.items.values()].flatMap((item) => findingsOf(item)),
      ...slow.flatMap(({ requests, measuredMs, interval }) => {
        const text = `is read every ${duration(measuredMs!)} and not every ${duration(interval)}: that is how long its round takes`
        return requests.flat().flatMap(({ handles }) => handles.map((handle) => ({ handle, kind: 'interval' as const, text })))
      }),
    ]
  }

  private found() {
    const { journal, link } = this.context
    if (this.isLossTold) journal.note(link, `Device ${this.instance} is there again.`)
    this.isLossTold = false
    for (const item of this.items.values()) {
      item.unsubscribe()
      item.restUntil = 0
    }
    for (const round of this.rounds.values()) round.nextDue = 0
    this.planning.now()
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
    for (const item of items) {
      const round = this.rounds.get(item.interval)
      if (round) round.nextDue = 0
    }
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

  private replan() {
    if (this.closed) return
    const byInterval = new Map<number, Item[]>()
    for (const item of this.items.values()) {
      if (!item.isPolled) continue
      const { interval } = item
      const known = byInterval.get(interval)
      if (known) known.push(item)
      else byInterval.set(interval, [item])
    }
    for (const interval of [...this.rounds.keys()]) if (!byInterval.has(interval)) this.rounds.delete(interval)
    for (const [interval, items] of byInterval) {
      const round = this.rounds.get(interval) ?? { interval, requests: [], nextDue: 0, running: false, measuredMs: null }
      round.requests = this.reader.plan(items)
      if (items.some(({ last, fault: why }) => last === null && why === null)) round.nextDue = 0
      this.rounds.set(interval, round)
    }
    this.schedule()
  }

  private schedule() {
    if (this.timer) clearTimeout(this.timer)
    this.timer = null
    if (this.closed || !this.lane.located) return
    const waiting = [...this.rounds.values()].filter(({ running }) => !running)
    if (waiting.length === 0) return
    const next = Math.min(...waiting.map(({ nextDue }) => nextDue))
    this.timer = setTimeout(() => this.runDue(), Math.max(0, next - Date.now()))
  }

  private runDue() {
    const now = Date.now()
    for (const round of this.rounds.values()) if (!round.running && round.nextDue <= now) void this.run(round, now)
    this.schedule()
  }

  private async run(round: Round, now: number) {
    round.running = true
    round.nextDue = nextBeat(round, now)
    const started = performance.now()
    const requests = round.requests
      .map((items) => items.filter(({ restUntil, isPolled, targets }) => restUntil <= now && isPolled && targets.length > 0))
      .filter((items) => items.length > 0)
    try {
      await Promise.all(requests.map((items) => this.ask(items)))
      if (requests.length > 0) round.measuredMs = performance.now() - started
    } catch (error) {
      this.context.journal.trouble(this.context.link, `A round of device ${this.instance} broke off.`, asFault(error))
    }
    round.running = false
    this.schedule()
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
        if (grew) this.planning.soon()
        return item.take({ values: reading.values, flags: reading.flags, at: reading.at, ms: reading.ms }, table)
      }
      case 'refused':
        if (item.restUntil === 0)
          journal.caution(link, `${pathsOf(item)}: device ${this.instance} refuses ${refText(item.ref)}.`, reading.why)
        item.rest(Date.now())
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
    const isQuiet = Date.now() - lane.heardAt >= Math.max(shortestPulseMs, this.settings.interval)
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

const tagsIn = (items: readonly Item[]) =>
  items.reduce((total, { targets }) => total + targets.filter(({ point }) => !point.onRequest).length, 0)

const pathsOf = ({ targets }: Item) => targets.map(({ point }) => point.path).join(', ')

const nameOf = (items: readonly Item[]) => {
  const names = items.slice(0, 3).map(({ ref }) => refText(ref))
  return names.join(', ') + (items.length > names.length ? ` and ${items.length - names.length} more` : '')
}

const findingsOf = ({ targets, fault: why, restUntil, noticeFault }: Item): PointFinding[] => [
  ...(why && restUntil > 0 ? targets.map(({ point }) => ({ handle: point.handle, kind: 'refused' as const, text: why.what })) : []),
  ...(noticeFault ? targets.map(({ point }) => ({ handle: point.handle, kind: 'unnotified' as const, text: noticeFault.what })) : []),
]

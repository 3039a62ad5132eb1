import { fault, type Fault } from '#core/faults/catalogue'
import { pointOf, type ModbusPoint } from '#core/modbus/point'
import { answerMsOf, isBroadcast, type ModbusSettings } from '#core/modbus/settings'
import type { PointDefinition } from '#core/links/protocol'
import { quality } from '#core/tags/quality'
import { oddJudge, unreadableIsBad } from '#core/tags/odd'
import type { TagValue } from '#core/tags/types'
import { duration } from '#core/text/duration'
import { earliest } from '#pacing/earliest'
import type { CheckStep, LinkStatus, UnitStatus } from '#shared/status'
import type { ValueOrigin } from '#shared/values'
import { steadyNow } from '#pacing/clock'
import { deliver } from '../../table/deliver'
import type { Handle } from '../../table/tagTable'
import type { LinkContext, LinkSession, Point, PointFinding, WriteOutcome } from '../driver'
import { WriteQueue } from '../writeQueue'
import { checkConnected } from './check'
import { Lane } from './lane'
import { originOf } from './origin'
import { decoderOf, readFunction, type PolledPoint } from './readBlock'
import { linkSentence } from './sentences'
import { tryOver } from './tryRead'
import { UnitPoller } from './unitPoller'
import { prepareWrite, sendWrite, writeFailureOf } from './writing'

interface Station {
  poller: UnitPoller
  lane: Lane
  /** One per unit: a silent unit holds up nobody else's writes. */
  writes: WriteQueue
  /** Whether the unit offers function 22; null: not tried yet. */
  masksBits: boolean | null
}

/** After so many failed attempts beside a working connection, the device seems to allow no more of them. */
const failedBesideWorking = 2

/**
 * A Modbus link at work: units, each polled by itself, spread over as many connections as the
 * link allows, so that a slow unit holds up nobody who has a connection of their own.
 */
export class ModbusSession<S> implements LinkSession<S> {
  private settings: ModbusSettings
  private lanes: Lane[] = []
  private stations = new Map<number, Station>()
  private points = new Map<Handle, Point>()
  private unitOf = new Map<Handle, number>()
  private connectionsAllowed: number
  /** Lanes whose loss is in the journal: only their return is news. */
  private lossTold = new Set<Lane>()
  /** Points of unit 0 of a line: they are written, and never read. */
  private toAll = new Map<Handle, PolledPoint>()

  /** @param asModbus the settings of the kind of link, as every link of this protocol has them */
  constructor(
    private context: Omit<LinkContext<S>, 'security'>,
    private asModbus: (settings: S) => ModbusSettings,
  ) {
    this.settings = asModbus(context.settings)
    this.connectionsAllowed = this.settings.requests.connections
    this.openLane()
  }

  update(next: S) {
    const before = this.settings
    const settings = this.asModbus(next)
    this.settings = settings
    const reopens = needsReopening(before, settings)
    if (reopens) this.reopen(isElsewhere(before, settings))
    else for (const lane of this.lanes) lane.adjust(settings)
    for (const { poller, writes } of this.stations.values()) {
      poller.adjust(settings)
      writes.adjust(settings.writes)
    }
    if (changesPoints(before, settings)) this.setPoints([...this.points.values()], [])
  }

  setPoints(changed: readonly Point[], removed: readonly Handle[]) {
    const parts = new Map<number, { changed: PolledPoint[]; removed: Handle[] }>()
    const partOf = (unit: number) => {
      const part = parts.get(unit) ?? { changed: [], removed: [] }
      parts.set(unit, part)
      return part
    }
    for (const handle of removed) {
      this.points.delete(handle)
      this.toAll.delete(handle)
      this.forget(handle, partOf)
    }
    for (const point of changed) {
      this.points.set(point.handle, point)
      this.place(point, partOf)
    }
    for (const [unit, part] of parts) this.stationFor(unit).poller.setPoints(part.changed, part.removed)
    this.dropEmptyStations()
  }

  private forget(handle: Handle, partOf: (unit: number) => { removed: Handle[] }) {
    const unit = this.unitOf.get(handle)
    if (unit !== undefined) partOf(unit).removed.push(handle)
    this.unitOf.delete(handle)
  }

  private place(point: Point, partOf: (unit: number) => { changed: PolledPoint[]; removed: Handle[] }) {
    const placed = pointOf(point, this.settings)
    const [before, was] = [this.unitOf.get(point.handle), this.locate(point.handle)?.polled]
    if (before !== undefined && before !== placed?.unit) this.forget(point.handle, partOf)
    if (was && placed && (before !== placed.unit || !isSameSpot(was, placed))) this.context.table.renew(point.handle, Date.now())
    this.toAll.delete(point.handle)
    if (!placed) return this.context.table.degrade(point.handle, quality.BadConfigurationError, Date.now())
    const polled = this.polledOf(point, placed)
    if (isBroadcast(this.settings, placed.unit)) {
      this.toAll.set(point.handle, polled)
      return this.context.table.degrade(point.handle, quality.BadNotReadable, Date.now())
    }
    this.unitOf.set(point.handle, placed.unit)
    if (was && before === placed.unit && isSamePoint(was, polled)) return this.readAfresh(placed.unit, point.handle)
    partOf(placed.unit).changed.push(polled)
  }

  private polledOf(point: Point, placed: ModbusPoint): PolledPoint {
    return {
      handle: point.handle,
      path: point.path,
      table: placed.table,
      offset: placed.offset,
      count: placed.count,
      layout: placed.layout,
      decode: decoderOf(placed.table, placed.layout),
      scaling: point.scaling,
      chosenOdd: point.odd,
      odd: placed.layout.isBcd ? unreadableIsBad(oddJudge(point.type, point.odd)) : oddJudge(point.type, point.odd),
      interval: point.interval ?? this.settings.interval,
      ...(point.onRequest ? { onRequest: true } : {}),
    }
  }

  /** Nothing to plan anew; whoever waits for a value gets it with the next reply, even if that is like the last. */
  private readAfresh(unit: number, handle: Handle) {
    this.stations.get(unit)?.poller.blockFor(handle)?.invalidate()
  }

  async write(handle: Handle, value: TagValue): Promise<WriteOutcome> {
    const [found, point, forAll] = [this.locate(handle), this.points.get(handle), this.toAll.get(handle)]
    if (point && forAll) return this.writeToAll(point, forAll, value)
    if (!found || !point) return { ok: false, quality: quality.BadNotConnected, fault: fault('link.off', { name: this.context.name }) }
    if (point.access !== 'readwrite')
      return { ok: false, quality: quality.BadNotWritable, fault: fault('write.not-writable', { path: point.path }) }
    const prepared = prepareWrite(found.polled, value, this.settings)
    if (!prepared.ok) return prepared.outcome
    return found.station.writes.push(handle, point.path, async ({ until }) => {
      const { station, polled } = found
      const outcome = await sendWrite(station, polled, prepared.request, until)
      if (outcome.kind !== 'reply') return writeFailureOf(point.path, outcome, this.surroundingsOf(station))
      await this.readBack(station, polled)
      return { ok: true }
    })
  }

  /** What it came to nobody tells. */
  private async writeToAll({ path }: Point, polled: PolledPoint, value: TagValue): Promise<WriteOutcome> {
    const prepared = prepareWrite(polled, value, this.settings)
    if (!prepared.ok) return prepared.outcome
    const [lane] = this.lanes
    const outcome = await lane!.write(0, prepared.request, steadyNow() + this.settings.writes.within)
    if (outcome.kind === 'obeyed') return { ok: true }
    const around = { unit: 0, answerMs: 0, laneFault: lane!.fault, link: this.context.name }
    return writeFailureOf(path, outcome as Exclude<typeof outcome, { kind: 'reply' }>, around)
  }

  private surroundingsOf({ poller, lane }: Station) {
    return { unit: poller.unit, answerMs: answerMsOf(this.settings, poller.unit), laneFault: lane.fault, link: this.context.name }
  }

  /** What the device holds now, which need not be what was written. */
  private async readBack({ poller, lane }: Station, point: PolledPoint) {
    poller.blockFor(point.handle)?.invalidate()
    const request = { fc: readFunction[point.table], offset: point.offset, count: point.count }
    const outcome = await lane.write(poller.unit, request, Infinity)
    if (outcome.kind !== 'reply' || !('data' in outcome.reply) || poller.pointOf(point.handle) !== point) return
    poller.blockFor(point.handle)?.patch(point, outcome.reply.data)
    const raw = point.decode(outcome.reply.data, 0)
    const { table } = this.context
    deliver(table, point, point.odd, raw, quality.Good, outcome.at, outcome.at)
    table.flush()
  }

  origin(handle: Handle, brief = false): ValueOrigin | null {
    const found = this.locate(handle)
    if (!found) return null
    const { poller } = found.station
    return originOf({ point: found.polled, block: poller.blockFor(handle), refusal: poller.refusalFor(handle), brief }, this.context.table)
  }

  experience() {
    return Object.fromEntries([...this.stations.values()].map(({ poller }) => [String(poller.unit), poller.experience()]))
  }

  findings(): PointFinding[] {
    return [...this.stations.values()].flatMap(({ poller }) => poller.findings())
  }

  status(): Omit<LinkStatus, 'id' | 'tags' | 'goodTags'> {
    const units = [...this.stations.values()].map(({ poller }) => poller.status()).sort((a, b) => Number(a.unit) - Number(b.unit))
    const open = this.lanes.filter((lane) => lane.isOpen).length
    const answers = units.map((unit) => unit.answerMs).filter((ms) => ms !== null)
    const answerMs = answers.length > 0 ? Math.max(...answers) : null
    const first = this.lanes[0]!
    const counts = { requests: sumOf(units, 'requests'), failures: sumOf(units, 'failures') }
    if (open === 0)
      return {
        ...counts,
        flow: first.fault ? 'broken' : 'late',
        sentence: first.fault?.what ?? 'Connecting',
        fault: first.fault,
        answerMs: null,
        units,
        connections: 0,
      }
    return { ...counts, ...linkSentence(units), answerMs, units, connections: open }
  }

  nextTry(): number | null {
    return earliest(this.lanes.map((lane) => lane.nextTry))
  }

  tryNow(unit: string | null) {
    for (const lane of this.lanes) lane.tryNow()
    for (const [number, { poller }] of this.stations) if (unit === null || unit === String(number)) poller.tryNow()
  }

  /** The link as it is, over the connection that it holds; null while it holds none. */
  check(): AsyncGenerator<CheckStep> | null {
    const lane = this.lanes.find((one) => one.isOpen)
    if (!lane) return null
    const { host, port, way } = this.settings
    return checkConnected(this.settings, way?.serial ? host : `${host}:${port}`, (unit) => lane.read(unit, { fc: 3, offset: 0, count: 1 }))
  }

  /** A serial port is held by one alone: what is tried goes over the connection of the link. */
  async tryRead(point: PointDefinition): Promise<ValueOrigin | null> {
    const [lane] = this.lanes
    if (!this.settings.way?.serial || !lane?.isOpen) return null
    return tryOver(this.settings, point, (unit, request) => lane.read(unit, request))
  }

  close(): Promise<void> {
    for (const { poller } of this.stations.values()) poller.close()
    for (const lane of this.lanes) lane.close()
    const now = Date.now()
    for (const handle of this.points.keys()) this.context.table.degrade(handle, quality.BadOutOfService, now)
    this.context.table.flush()
    return Promise.resolve()
  }

  private locate(handle: Handle) {
    const unit = this.unitOf.get(handle)
    const station = unit === undefined ? undefined : this.stations.get(unit)
    const polled = station?.poller.pointOf(handle)
    return station && polled ? { station, polled } : null
  }

  private stationFor(unit: number): Station {
    const known = this.stations.get(unit)
    if (known) return known
    const lane = this.leastLoadedLane()
    lane.units.add(unit)
    const { name, table, journal, meters } = this.context
    const station: Station = {
      lane,
      masksBits: null,
      writes: new WriteQueue(this.settings.writes),
      poller: new UnitPoller({ link: name, unit, table, journal, meters }, this.settings, lane),
    }
    this.stations.set(unit, station)
    return station
  }

  private leastLoadedLane(): Lane {
    const emptiest = this.lanes.reduce((a, b) => (b.units.size < a.units.size ? b : a))
    return emptiest.units.size > 0 && this.lanes.length < this.connectionsAllowed ? this.openLane() : emptiest
  }

  private openLane(): Lane {
    const lane = new Lane(
      this.settings,
      {
        opened: (l, afterOutage) => this.opened(l, afterOutage),
        closed: (l, why) => this.closed(l, why),
        closesAfterReply: ({ reopeningMs }) => this.closesAfterReply(reopeningMs),
      },
      this.context.wire,
    )
    this.lanes.push(lane)
    return lane
  }

  private opened(lane: Lane, afterOutage: boolean) {
    if (this.lossTold.delete(lane)) this.context.journal.note(this.context.name, 'Connected again.')
    for (const station of this.on(lane)) station.poller.wake(afterOutage)
  }

  private closed(lane: Lane, why: Fault) {
    if (!this.lossTold.has(lane)) this.context.journal.caution(this.context.name, why.what, why)
    this.lossTold.add(lane)
    for (const station of this.on(lane)) station.poller.disconnected(why)
    const working = this.lanes.find((other) => other !== lane && other.isOpen)
    if (working && lane.fruitless >= failedBesideWorking && why.code !== 'modbus.dead-connection') this.merge(lane, working)
  }

  private closesAfterReply(reopeningMs: number) {
    if (this.habitTold) return
    this.habitTold = true
    const cost = `opening it again takes ${duration(reopeningMs)} each time`
    this.context.journal.note(
      this.context.name,
      `The device closes the connection after each reply; it is opened again for each request, and ${cost}.`,
    )
  }
  private habitTold = false

  /** The device takes no more connections: its units share the one that works. */
  private merge(lane: Lane, into: Lane) {
    this.lanes = this.lanes.filter((other) => other !== lane)
    this.connectionsAllowed = this.lanes.length
    this.context.journal.caution(
      this.context.name,
      `The device takes no more than ${this.lanes.length} of our connections; units share them.`,
    )
    for (const station of this.on(lane)) this.move(station, into)
    lane.close()
  }

  private move(station: Station, lane: Lane) {
    station.lane.units.delete(station.poller.unit)
    lane.units.add(station.poller.unit)
    station.lane = lane
    station.poller.moveTo(lane)
  }

  private on(lane: Lane): Station[] {
    return [...this.stations.values()].filter((station) => station.lane === lane)
  }

  private dropEmptyStations() {
    for (const [unit, station] of this.stations) {
      if (!station.poller.isEmpty) continue
      station.poller.close()
      station.lane.units.delete(unit)
      this.stations.delete(unit)
    }
  }

  private reopen(elsewhere: boolean) {
    for (const lane of this.lanes) lane.close()
    this.lanes = []
    this.connectionsAllowed = this.settings.requests.connections
    for (const station of this.stations.values()) {
      const lane = this.lanes.length < this.connectionsAllowed ? this.openLane() : this.lanes[this.stations.size % this.lanes.length]!
      this.move(station, lane)
      if (elsewhere) station.poller.forget()
      else station.poller.unsettle()
    }
    if (this.lanes.length === 0) this.openLane()
  }
}

const isElsewhere = (a: ModbusSettings, b: ModbusSettings) =>
  a.host !== b.host || a.port !== b.port || JSON.stringify(a.way) !== JSON.stringify(b.way)

/** Whether the same words are read in the same way. */
const isSameSpot = (a: Pick<PolledPoint, 'table' | 'offset' | 'layout'>, b: Pick<PolledPoint, 'table' | 'offset' | 'layout'>) =>
  a.table === b.table && a.offset === b.offset && JSON.stringify(a.layout) === JSON.stringify(b.layout)

const isSamePoint = (a: PolledPoint, b: PolledPoint) =>
  isSameSpot(a, b) &&
  a.path === b.path &&
  a.count === b.count &&
  a.interval === b.interval &&
  JSON.stringify([a.scaling, a.chosenOdd]) === JSON.stringify([b.scaling, b.chosenOdd])

const needsReopening = (a: ModbusSettings, b: ModbusSettings) =>
  isElsewhere(a, b) || a.localAddress !== b.localAddress || a.requests.connections !== b.requests.connections

const changesPoints = (a: ModbusSettings, b: ModbusSettings) => a.unit !== b.unit || a.order !== b.order || a.interval !== b.interval

const sumOf = (units: readonly UnitStatus[], what: 'requests' | 'failures') => units.reduce((total, unit) => total + unit[what], 0)

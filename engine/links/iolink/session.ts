import { fault, type Fault } from '#core/faults/catalogue'
import { placeOfBase } from '#core/http/base'
import type { EventList } from '#core/iolink/json'
import { httpOf } from '#core/iolink/keeping'
import type { DeviceDescription } from '#core/iolink/description/description'
import { offeredAt } from '#core/iolink/offered'
import type { ExpectedDevice, IoLinkSettings } from '#core/iolink/settings'
import { stateWords } from '#core/iolink/states'
import type { PointDefinition } from '#core/links/protocol'
import { quality } from '#core/tags/quality'
import type { TagValue } from '#core/tags/types'
import { counted } from '#core/text/counted'
import type { SensorOffer, SensorPortFound } from '#shared/links/sensorPorts'
import type { LinkStatus } from '#shared/status'
import type { ValueOrigin } from '#shared/values'
import type { Handle } from '../../table/tagTable'
import type { LinkBrowser, LinkContext, LinkSession, Point, PointFinding, WriteOutcome } from '../driver'
import { WriteQueue } from '../writeQueue'
import { EventReader, ReportedEvents } from './events'
import { targetOf } from './item'
import { Lookout, type SeenPort } from './lookout'
import { Master, type Asked } from './master'
import { originOf } from './origin'
import { deviceText } from './identity'
import { SensorPort } from './port'
import { foundPort, unitOf } from './portStatus'
import { qualityOf } from './quality'
import { readOnce } from './tryRead'
import { Visit } from './visit'
import { writeTo } from './writing'

/** A link to a master of smart sensors at work: what is plugged in where, and the values behind each port. */
export class IoLinkSession implements LinkSession<IoLinkSettings> {
  private settings: IoLinkSettings
  private master: Master
  private lookout: Lookout
  private ports = new Map<number, SensorPort>()
  private portOf = new Map<Handle, SensorPort>()
  private points = new Map<Handle, Point>()
  private queues = new Map<number, WriteQueue>()
  private reader = new EventReader()
  /** Why the master is not to be reached; null: it is, or nothing is known yet. */
  private fault: Fault | null = null
  private awayCode: number = quality.BadNoCommunication
  private hasLooked = false
  private closed = false

  /** Throws where a secret was sealed elsewhere. */
  constructor(private context: LinkContext<IoLinkSettings>) {
    this.settings = context.settings
    this.master = this.masterNow()
    this.lookout = new Lookout({
      master: () => this.master,
      settings: () => this.settings,
      seen: (ports, events) => this.seen(ports, events),
      away: (failed) => this.away(failed),
    })
  }

  update(settings: IoLinkSettings) {
    const before = this.settings
    this.settings = settings
    if (wayOf(before) !== wayOf(settings)) this.goAnew(before.base !== settings.base || before.master !== settings.master)
    for (const queue of this.queues.values()) queue.adjust(queueOf(settings))
    for (const port of this.ports.values()) port.plan()
    // what belongs where may be another
    this.lookout.again()
  }

  setPoints(changed: readonly Point[], removed: readonly Handle[]) {
    for (const handle of removed) this.remove(handle)
    for (const point of changed) this.place(point)
    this.context.table.flush()
  }

  write(handle: Handle, value: TagValue): Promise<WriteOutcome> {
    const [point, port] = [this.points.get(handle), this.portOf.get(handle)]
    const target = port?.targets.get(handle)
    if (!point || !port || !target)
      return Promise.resolve({ ok: false, quality: quality.BadNotConnected, fault: fault('link.off', { name: this.context.name }) })
    return this.queueOf(port.number).push(handle, point.path, ({ until }) => writeTo(port, target, value, until))
  }

  origin(handle: Handle): ValueOrigin | null {
    const port = this.portOf.get(handle)
    const target = port?.targets.get(handle)
    return port && target ? originOf(port, target, this.fault, this.context.table) : null
  }

  async tryRead(point: PointDefinition): Promise<ValueOrigin | null> {
    return readOnce(this.master, (port) => this.ports.get(port) ?? null, point)
  }

  findings(): PointFinding[] {
    return [...this.ports.values()].flatMap(({ targets }) =>
      [...targets.values()].flatMap(({ point: { handle }, problem }): PointFinding[] => {
        if (problem?.code === 'iolink.type') return [{ handle, kind: 'type', text: problem.what }]
        return problem?.code === 'iolink.refused' || problem?.code === 'iolink.short'
          ? [{ handle, kind: 'refused', text: problem.what }]
          : []
      }),
    )
  }

  experience() {
    return Object.fromEntries(this.inOrder().map(({ number, answerMs }) => [String(number), { answerMs, fences: {} }]))
  }

  browser(): LinkBrowser | Fault {
    if (!this.hasLooked) return this.fault ?? fault('link.not-browsable', { name: this.context.name })
    return new Visit({ ports: () => this.inOrder(), port: (number) => this.ports.get(number) ?? null })
  }

  /** What is plugged in where, for whoever decides about it. */
  sensorPorts(): SensorPortFound[] {
    return this.inOrder().flatMap((port) => foundPort(port, this.expected(port.number)))
  }

  /** What the device at a port offers; where a parameter decides how its data lie, as that is now. Rejects with a Fault. */
  async sensorOffer(number: number): Promise<SensorOffer> {
    const port = this.ports.get(number)
    const { device, state, alias } = port?.seen ?? {}
    if (!port || !device || alias === undefined)
      throw fault('iolink.empty', { port: number, words: stateWords(state ?? 'NOT_AVAILABLE') }) as unknown as Error
    const { description } = port
    if (!description) throw fault('iolink.undescribed', { port: number, device: deviceText(device) }) as unknown as Error
    const when = await this.layoutNow(port, alias, description)
    const named = [description.named, device.productName].filter((text, i, all) => text !== '' && all.indexOf(text) === i).join(' ')
    const expected = { port: number, vendorId: device.vendorId, deviceId: device.deviceId, named, when }
    return { device: expected, points: offeredAt(number, description, expected) }
  }

  private async layoutNow(
    port: SensorPort,
    alias: string,
    { processData, parameters }: DeviceDescription,
  ): Promise<ExpectedDevice['when']> {
    const condition = processData.find((one) => one.condition)?.condition
    const parameter = condition && parameters.find(({ id }) => id === condition.variable)
    if (!parameter) return null
    const { index } = parameter
    const subindex = condition.subindex ?? 0
    const asked = port.note(await this.master.parameter(alias, index, subindex))
    if (!asked.ok) throw asked.why as unknown as Error
    return { index, subindex, value: asked.value.reduce((value, byte) => value * 256 + byte, 0) }
  }

  nextTry() {
    return this.lookout.nextTry
  }

  tryNow() {
    this.lookout.tryNow()
  }

  status(): Omit<LinkStatus, 'id' | 'tags' | 'goodTags'> {
    const ports = this.inOrder()
    const times = ports.flatMap(({ answerMs }) => (answerMs === null ? [] : [answerMs]))
    return {
      ...this.condition(ports),
      answerMs: times.length === 0 ? null : times.reduce((sum, ms) => sum + ms, 0) / times.length,
      requests: ports.reduce((sum, { requests }) => sum + requests, 0),
      failures: ports.reduce((sum, { failures }) => sum + failures, 0),
      connections: this.hasLooked && !this.fault ? 1 : 0,
      units: ports.map((port) => unitOf(port, this.expected(port.number))),
      arrivals: ports.filter((port) => port.isUndecided).length,
    }
  }

  async close() {
    this.closed = true
    this.lookout.close()
    for (const port of this.ports.values()) port.close()
    this.master.close()
    const now = Date.now()
    for (const handle of this.points.keys()) this.context.table.degrade(handle, quality.BadOutOfService, now)
    this.context.table.flush()
    await Promise.resolve()
  }

  private condition(ports: readonly SensorPort[]): Pick<LinkStatus, 'flow' | 'sentence' | 'fault'> {
    if (this.fault) return { flow: 'broken', sentence: this.fault.what, fault: this.fault }
    if (!this.hasLooked) return { flow: 'late', sentence: 'Looking what is plugged in', fault: null }
    const wanted = ports.filter((port) => port.targets.size > 0 || this.expected(port.number))
    const failing = wanted.flatMap((port) => (port.fault ? [port.fault] : []))
    const there = counted(ports.filter(({ seen }) => seen?.device).length, 'device')
    const [first] = failing
    if (!first) return { flow: 'flowing', sentence: `${there} at ${counted(ports.length, 'port')}`, fault: null }
    const share = failing.length === 1 ? '' : ` · ${failing.length} of ${counted(wanted.length, 'port')} give nothing`
    return { flow: failing.length === wanted.length ? 'broken' : 'late', sentence: `${first.what}${share}`, fault: first }
  }

  private inOrder(): SensorPort[] {
    return [...this.ports.values()].sort((a, b) => a.number - b.number)
  }

  private expected(port: number) {
    return this.settings.ports.find((one) => one.port === port) ?? null
  }

  private masterNow(): Master {
    return new Master(this.settings, this.context.security, this.context.wire)
  }

  /** Another way to it; where it is another master, what was known says nothing about what comes. */
  private goAnew(isAnother: boolean) {
    this.master.close()
    this.master = this.masterNow()
    if (!isAnother) return
    const now = Date.now()
    for (const handle of this.points.keys()) this.context.table.renew(handle, now)
    for (const port of this.ports.values()) port.close()
    this.ports.clear()
    this.portOf.clear()
    this.hasLooked = false
    this.fault = null
    this.reader = new EventReader()
    for (const point of this.points.values()) this.place(point)
    this.context.table.flush()
  }

  private place(point: Point) {
    const before = this.points.get(point.handle)
    this.remove(point.handle)
    this.points.set(point.handle, point)
    const { table } = this.context
    if (before && before.address !== point.address) table.renew(point.handle, Date.now())
    const target = targetOf(point)
    if (!target) return table.degrade(point.handle, quality.BadConfigurationError, Date.now())
    const port = this.portAt(target.placed.address.port)
    this.portOf.set(point.handle, port)
    port.add(target)
    if (this.fault) table.degrade(point.handle, this.awayCode, Date.now())
    else if (this.hasLooked && !port.seen) port.take(noSuchPort(port.number))
  }

  private remove(handle: Handle) {
    this.points.delete(handle)
    this.portOf.get(handle)?.drop(handle)
    this.portOf.delete(handle)
  }

  private portAt(number: number): SensorPort {
    const known = this.ports.get(number)
    if (known) return known
    const port = new SensorPort(
      number,
      {
        master: () => this.master,
        settings: () => this.settings,
        table: this.context.table,
        meters: this.context.meters,
        expected: (at) => this.expected(at),
        described: (vendorId, deviceId) => this.context.described?.(vendorId, deviceId) ?? null,
        doubt: () => this.lookout.again(),
      },
      new ReportedEvents(),
    )
    this.ports.set(number, port)
    return port
  }

  private queueOf(port: number): WriteQueue {
    const known = this.queues.get(port) ?? new WriteQueue(queueOf(this.settings))
    this.queues.set(port, known)
    return known
  }

  // --- what a look tells

  private async seen(all: SeenPort[], events: EventList) {
    const { journal, name, table } = this.context
    if (this.fault) journal.note(name, 'The master answers again.')
    this.fault = null
    for (const seen of all) {
      const port = this.portAt(seen.port)
      await port.lookAtLayout(seen)
      if (this.closed) return
      this.tellChange(port, seen)
      port.take(seen)
    }
    const there = new Set(all.map(({ port }) => port))
    for (const port of this.ports.values()) if (!there.has(port.number)) this.missing(port)
    this.hasLooked = true
    this.takeEvents(events)
    table.flush()
  }

  /** A port that the master does not have: it stands there while tags want it. */
  private missing(port: SensorPort) {
    if (port.targets.size > 0 || this.expected(port.number)) return port.take(noSuchPort(port.number))
    port.close()
    this.ports.delete(port.number)
  }

  private tellChange(port: SensorPort, { device, state }: SeenPort) {
    const { journal, name } = this.context
    const before = port.seen?.device ?? null
    const at = `Port ${port.number}:`
    if (!before && device) return journal.note(name, `${at} ${deviceText(device)} is plugged in.`)
    if (before && !device && state !== port.seen?.state) return journal.caution(name, `${at} ${deviceText(before)} is not there any more.`)
    if (!before || !device) return
    if (before.vendorId !== device.vendorId || before.deviceId !== device.deviceId)
      return journal.caution(name, `${at} ${deviceText(before)} was exchanged for ${deviceText(device)}.`)
    if (before.serialNumber !== device.serialNumber)
      journal.note(name, `${at} ${deviceText(device)} was exchanged for one of its kind, serial number ${device.serialNumber}.`)
  }

  private takeEvents(events: EventList) {
    const news = this.reader.news(events)
    news.forEach((event, i) => this.takeEvent(event, i < mostTold))
    if (news.length > mostTold)
      this.context.journal.note(this.context.name, `${counted(news.length - mostTold, 'more event')} came at once.`)
    for (const port of this.ports.values()) {
      port.events.fault = this.lookout.eventsFault
      port.giveFacts()
    }
  }

  private takeEvent({ time, severity, origin, message }: EventList[number], isTold: boolean) {
    if (origin.masterNumber !== undefined && origin.masterNumber !== this.settings.master) return
    const port = this.inOrder().find(
      ({ number, seen }) => origin.portNumber === number || (origin.portNumber === undefined && seen?.alias === origin.deviceAlias),
    )
    if (!port) return
    const known = port.description?.events.find(({ code }) => code === message.code)
    const text = known?.name || message.text
    port.events.take({ code: message.code, severity, mode: message.mode, text, time })
    if (!isTold) return
    const { journal, name } = this.context
    const told = `Port ${port.number}: event ${message.code}${text === '' ? '' : `, ${text}`}${modeWords[message.mode] ?? ''}.`
    if (severity === 'ERROR' || severity === 'WARNING') journal.caution(name, told)
    else journal.note(name, told)
  }

  private away(failed: Extract<Asked<unknown>, { ok: false }>) {
    const { journal, name, table } = this.context
    if (this.fault?.code !== failed.why.code) journal.caution(name, failed.why.what, failed.why)
    this.fault = failed.why
    this.awayCode = qualityOf(failed)
    for (const port of this.ports.values()) port.away(failed.why, this.awayCode)
    table.flush()
  }
}

/** Of what comes at one look; a storm would fill the journal. */
const mostTold = 20

const modeWords: Record<string, string> = { APPEARS: ' has appeared', DISAPPEARS: ' is over' }

const noSuchPort = (port: number): SeenPort => ({ port, state: 'NOT_AVAILABLE', alias: '', device: null, why: null, at: Date.now() })

const queueOf = ({ within }: IoLinkSettings) => ({ keep: 'all' as const, within })

/** What decides where questions go and how. */
const wayOf = (settings: IoLinkSettings) => JSON.stringify([httpOf(settings), settings.master, placeOfBase(settings.base).host])

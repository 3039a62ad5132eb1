import { fault, type Fault } from '#core/faults/catalogue'
import type { IAm, Notification } from '#core/bacnet/services'
import type { Station } from '#core/bacnet/frames'
import { parseAddress } from '#core/bacnet/address'
import type { BacnetSettings } from '#core/bacnet/settings'
import type { PointDefinition } from '#core/links/protocol'
import { quality } from '#core/tags/quality'
import type { TagValue } from '#core/tags/types'
import { counted } from '#core/text/counted'
import type { Priorities } from '#shared/links/priorities'
import type { CheckStep, LinkStatus, UnitStatus } from '#shared/status'
import type { ValueOrigin } from '#shared/values'
import { Backoff } from '#pacing/backoff'
import type { Handle } from '../../table/tagTable'
import type { LinkBrowser, LinkContext, LinkSession, Point, PointFinding, WriteOutcome } from '../driver'
import { Visit } from './visit'
import { checkOver } from './check'
import { Device } from './device'
import { Directory } from './directory'
import { Registration } from './foreign'
import { Inventory } from './inventory'
import { targetOf, type Item, type Target } from './item'
import { Lane } from './lane'
import { originOf } from './origin'
import { asFault, type PortUser } from './port'
import { leasePort, type PortLease } from './ports'
import { prioritiesOf } from './priorities'
import { readOnceOver } from './tryRead'
import { goesByPriorities, prepareWrite, writeTo } from './writing'

/** What is there while the port is open. */
interface Opened {
  lease: PortLease
  directory: Directory
  registration: Registration | null
  devices: Map<number, Device>
  /** Looked into without having tags. */
  visited: Map<number, { inventory: Inventory; lane: Lane | null }>
}

/** A link to a BACnet/IP network at work: one port, and through it every device that tags are of. */
export class BacnetSession implements LinkSession<BacnetSettings>, PortUser {
  private settings: BacnetSettings
  private points = new Map<Handle, Point>()
  private names = new Map<number, string>()
  private opened: Opened | null = null
  private fault: Fault | null = null
  private backoff: Backoff
  private timer: NodeJS.Timeout | null = null
  private opening = 0
  private closed = false
  private readonly process: number

  constructor(private context: Omit<LinkContext<BacnetSettings>, 'security'>) {
    this.settings = context.settings
    this.process = processOf(context.name)
    this.backoff = new Backoff(context.settings.patience.retryFirst, context.settings.patience.retryMost)
    void this.open()
  }

  // --- what the port tells

  see(peer: string, out: boolean, bytes: Buffer) {
    this.context.wire.tap.datagram(peer, out, bytes)
  }

  iAm(who: IAm, from: Station) {
    const { opened } = this
    if (!opened) return
    opened.directory.iAm(who, from)
    const device = opened.devices.get(who.instance)
    const twice = device?.located && opened.directory.duplicates().find((one) => one.device === who.instance)
    if (twice) device.contested(fault('bacnet.duplicate', { device: who.instance, places: twice.places.join(' and ') }))
  }

  notified(notification: Notification, from: Station): boolean {
    if (notification.process !== this.process) return false
    return this.opened?.devices.get(notification.device)?.notified(notification, from) ?? false
  }

  registered(code: number, from: { host: string; port: number }) {
    this.opened?.registration?.take(code, from)
  }

  // --- what the engine asks

  update(settings: BacnetSettings) {
    const before = this.settings
    this.settings = settings
    this.backoff = new Backoff(settings.patience.retryFirst, settings.patience.retryMost)
    if (isElsewhere(before, settings)) return this.openAnew()
    for (const device of this.opened?.devices.values() ?? []) device.adjust(settings)
    if (isReadOtherwise(before, settings)) this.setPoints([...this.points.values()], [])
  }

  setPoints(changed: readonly Point[], removed: readonly Handle[]) {
    for (const handle of removed) {
      this.points.delete(handle)
      this.dropFromDevices(handle)
    }
    for (const point of changed) {
      const before = this.points.get(point.handle)
      this.points.set(point.handle, point)
      if (before && before.address !== point.address) this.context.table.renew(point.handle, Date.now())
      this.place(point)
    }
    this.closeEmpty()
    this.context.table.flush()
  }

  async write(handle: Handle, value: TagValue): Promise<WriteOutcome> {
    const held = this.held(handle)
    if (!held) return this.notConnected()
    const { device, item, target } = held
    if (target.point.access !== 'readwrite')
      return { ok: false, quality: quality.BadNotWritable, fault: fault('write.not-writable', { path: target.point.path }) }
    const prepared = prepareWrite(item, target, value)
    if (!prepared.ok) return prepared.outcome
    return device.writes.push(handle, target.point.path, async ({ until }) => {
      const outcome = await writeTo(device, item, target, prepared.values, until)
      if (outcome.ok) await device.readNow([item])
      return outcome
    })
  }

  /** Who holds the value of a tag, where it goes by priorities. Rejects with a Fault. */
  priorities(handle: Handle): Promise<Priorities> {
    const { device, item, target } = this.heldByPriorities(handle)
    return prioritiesOf(device, item, target)
  }

  /** Gives back what we hold of a tag: null at our priority (19.2.1). */
  async release(handle: Handle): Promise<WriteOutcome> {
    try {
      const { device, item, target } = this.heldByPriorities(handle)
      if (target.point.access !== 'readwrite')
        return { ok: false, quality: quality.BadNotWritable, fault: fault('write.not-writable', { path: target.point.path }) }
      return await device.writes.push(handle, target.point.path, async ({ until }) => {
        const outcome = await writeTo(device, item, target, [{ tag: 'null' }], until)
        if (outcome.ok) await device.readNow([item])
        return outcome
      })
    } catch (why) {
      return { ok: false, quality: quality.BadNotConnected, fault: asFault(why) }
    }
  }

  origin(handle: Handle): ValueOrigin | null {
    const held = this.held(handle)
    if (!held) return null
    const { device, item, target } = held
    return originOf(device.instance, item, target, device.lane.fault, this.context.table)
  }

  experience() {
    return Object.fromEntries(
      [...(this.opened?.devices.values() ?? [])].map(({ instance, lane }) => [String(instance), { answerMs: lane.answerMs, fences: {} }]),
    )
  }

  findings(): PointFinding[] {
    return [...(this.opened?.devices.values() ?? [])].flatMap((device) => device.findings())
  }

  browser(): LinkBrowser | Fault {
    const { opened } = this
    if (!opened) return this.fault ?? fault('link.not-browsable', { name: this.context.name })
    return new Visit({
      everybody: () => opened.directory.everybody(),
      inventory: (instance) => this.inventoryOf(opened, instance),
      remember: (instance, name) => void this.names.set(instance, name),
    })
  }

  /** Over the port at hand; null while there is none. */
  check(signal: AbortSignal): AsyncGenerator<CheckStep> | null {
    const { opened } = this
    if (!opened) return null
    const { directory, registration, lease, devices } = opened
    return checkOver(
      { settings: this.settings, port: lease.port, user: this, directory, registration, wanted: [...devices.keys()] },
      signal,
    )
  }

  async tryRead(point: PointDefinition): Promise<ValueOrigin | null> {
    const { opened } = this
    if (!opened) return null
    return readOnceOver({ ...opened, port: opened.lease.port, user: this, settings: this.settings }, point)
  }

  nextTry() {
    return this.opened ? null : this.backoff.nextTry
  }

  tryNow(unit: string | null) {
    if (this.nextTry() !== null && this.timer) {
      clearTimeout(this.timer)
      void this.open()
    }
    for (const device of this.opened?.devices.values() ?? []) if (unit === null || unit === String(device.instance)) device.lane.tryNow()
  }

  status(): Omit<LinkStatus, 'id' | 'tags' | 'goodTags'> {
    const devices = [...(this.opened?.devices.values() ?? [])].sort((a, b) => a.instance - b.instance)
    const counts = {
      answerMs: mean(devices.flatMap(({ lane }) => (lane.answerMs === null ? [] : [lane.answerMs]))),
      requests: sum(devices.map(({ lane }) => lane.requests)),
      failures: sum(devices.map(({ lane }) => lane.failures)),
      connections: devices.filter(({ located }) => located).length,
      units: devices.map((device) => device.status(this.names.get(device.instance) ?? '')),
    }
    return { ...counts, ...this.condition(devices, counts.units) }
  }

  async close() {
    this.closed = true
    this.shut()
    if (this.timer) clearTimeout(this.timer)
    const now = Date.now()
    for (const handle of this.points.keys()) this.context.table.degrade(handle, quality.BadOutOfService, now)
    this.context.table.flush()
    await Promise.resolve()
  }

  private condition(devices: readonly Device[], units: readonly UnitStatus[]): Condition {
    const { opened, fault: why } = this
    if (!opened) return { flow: why ? 'broken' : 'late', sentence: why?.what ?? 'Opening the port', fault: why }
    const refused = opened.registration?.fault
    if (refused) return { flow: 'broken', sentence: refused.what, fault: refused }
    if (devices.length === 0) return { flow: 'flowing', sentence: `UDP ${opened.lease.port.ownPort} is open, no tags yet`, fault: null }
    return conditionOf(devices, units)
  }

  // --- the port, and what hangs on it

  private async open() {
    const mine = ++this.opening
    try {
      await this.context.after
      const lease = await leasePort(this.settings, this)
      if (this.closed || mine !== this.opening) return lease.release()
      this.fault = null
      this.backoff.reset()
      const { foreign, patience } = this.settings
      const registration = foreign && new Registration(foreign, patience, lease.port, this, () => this.registrationChanged())
      const directory = new Directory(lease.port, this, this.settings, registration)
      this.opened = { lease, directory, registration, devices: new Map(), visited: new Map() }
      for (const point of this.points.values()) this.place(point)
      this.context.table.flush()
    } catch (why) {
      if (this.closed || mine !== this.opening) return
      this.portFailed(asFault(why))
    }
  }

  private portFailed(why: Fault) {
    if (this.fault?.what !== why.what) this.context.journal.caution(this.context.name, why.what, why)
    this.fault = why
    this.degradeAll(quality.BadNotConnected)
    this.timer = setTimeout(() => void this.open(), this.backoff.next())
  }

  /** Another port or another network: what was known says nothing about what comes. */
  private openAnew() {
    this.shut()
    if (this.timer) clearTimeout(this.timer)
    this.fault = null
    const now = Date.now()
    for (const handle of this.points.keys()) this.context.table.renew(handle, now)
    this.context.table.flush()
    void this.open()
  }

  private shut() {
    const { opened } = this
    this.opened = null
    if (!opened) return
    for (const device of opened.devices.values()) device.close()
    for (const { lane } of opened.visited.values()) lane?.close()
    opened.registration?.close()
    opened.lease.release()
  }

  private registrationChanged() {
    const { registration } = this.opened ?? {}
    const { journal, name } = this.context
    if (registration?.fault) journal.caution(name, registration.fault.what, registration.fault)
    else if (registration?.isIn) journal.note(name, 'The broadcast manager takes us.')
  }

  private place(point: Point) {
    const { opened } = this
    const parsed = parseAddress(point.address)
    const target = targetOf(point, this.settings)
    if (!parsed.ok || !target) return this.context.table.degrade(point.handle, quality.BadConfigurationError, Date.now())
    if (!opened) {
      if (this.fault) this.context.table.degrade(point.handle, quality.BadNotConnected, Date.now())
      return
    }
    const { device: instance } = parsed.address
    for (const device of opened.devices.values()) if (device.instance !== instance) device.drop(point.handle)
    this.deviceOf(opened, instance).add(target)
  }

  private deviceOf(opened: Opened, instance: number): Device {
    const known = opened.devices.get(instance)
    if (known) return known
    const { name, table, journal, meters } = this.context
    const device = new Device(instance, this.settings, {
      ...{ link: name, table, journal, meters, port: opened.lease.port, user: this, directory: opened.directory, process: this.process },
    })
    opened.devices.set(instance, device)
    return device
  }

  private inventoryOf(opened: Opened, instance: number): Inventory {
    const known = opened.visited.get(instance)
    const shared = opened.devices.get(instance)?.lane ?? null
    if (known && (known.lane || known.inventory.lane === shared)) return known.inventory
    const around = { port: opened.lease.port, user: this, directory: opened.directory, meters: this.context.meters }
    const own = shared ? null : new Lane(instance, this.settings, around, { found: () => {}, lost: () => {} })
    const inventory = new Inventory(instance, shared ?? own!, this.settings.requests.most)
    opened.visited.set(instance, { inventory, lane: own })
    return inventory
  }

  private dropFromDevices(handle: Handle) {
    for (const device of this.opened?.devices.values() ?? []) device.drop(handle)
  }

  private closeEmpty() {
    for (const [instance, device] of this.opened?.devices ?? []) {
      if (!device.isEmpty) continue
      device.close()
      this.opened!.devices.delete(instance)
    }
  }

  private held(handle: Handle): { device: Device; item: Item; target: Target } | null {
    for (const device of this.opened?.devices.values() ?? []) {
      const held = device.of(handle)
      if (held) return { device, ...held }
    }
    return null
  }

  private heldByPriorities(handle: Handle) {
    const held = this.held(handle)
    if (!held) throw this.notConnected().fault as unknown as Error
    if (!goesByPriorities(held.device.instance, held.item))
      throw fault('bacnet.no-priorities', { place: held.target.point.address }) as unknown as Error
    return held
  }

  private notConnected(): WriteOutcome & { ok: false } {
    return { ok: false, quality: quality.BadNotConnected, fault: this.fault ?? fault('link.off', { name: this.context.name }) }
  }

  private degradeAll(code: number) {
    const now = Date.now()
    for (const handle of this.points.keys()) this.context.table.degrade(handle, code, now)
    this.context.table.flush()
  }
}

/** The same for a link over all of its life, so that a subscription made anew takes the place of the one before. */
const processOf = (name: string) => {
  let hash = 7
  for (const letter of name) hash = (Math.imul(hash, 31) + letter.codePointAt(0)!) >>> 0
  return (hash % 0x3ffffe) + 1
}

const isElsewhere = (a: BacnetSettings, b: BacnetSettings) =>
  JSON.stringify([a.localAddress, a.port, a.broadcast, a.foreign, a.devices]) !==
  JSON.stringify([b.localAddress, b.port, b.broadcast, b.foreign, b.devices])

const isReadOtherwise = (a: BacnetSettings, b: BacnetSettings) =>
  a.interval !== b.interval || a.notices.kind !== b.notices.kind || a.writes.priority !== b.writes.priority

type Condition = Pick<LinkStatus, 'flow' | 'sentence' | 'fault'>

/** How the link is, from how its devices are: the worst is told, and how many are well. */
const conditionOf = (devices: readonly Device[], units: readonly UnitStatus[]): Condition => {
  const worst = units.find(({ flow }) => flow === 'broken') ?? units.find(({ flow }) => flow === 'late')
  if (!worst) return { flow: 'flowing', sentence: devices.length === 1 ? units[0]!.sentence : `${counted(devices.length, 'device')} answer`, fault: null } // prettier-ignore
  const well = units.filter(({ flow }) => flow === 'flowing').length
  const others = devices.length > 1 ? ` · ${well} of ${counted(devices.length, 'device')} as they should be` : ''
  return { flow: worst.flow === 'broken' && well === 0 ? 'broken' : 'late', sentence: worst.sentence + others, fault: worst.lastFault }
}

const sum = (numbers: readonly number[]) => numbers.reduce((total, one) => total + one, 0)
const mean = (numbers: readonly number[]) => (numbers.length === 0 ? null : sum(numbers) / numbers.length)

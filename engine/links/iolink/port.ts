import { fault, type Fault } from '#core/faults/catalogue'
import type { DeviceDescription } from '#core/iolink/description/description'
import { usualInterval } from '#core/iolink/load'
import type { ProcessDataValue } from '#core/iolink/json'
import type { ExpectedDevice, IoLinkSettings } from '#core/iolink/settings'
import { stateWords } from '#core/iolink/states'
import { quality } from '#core/tags/quality'
import { steadyNow } from '#pacing/clock'
import { deliver } from '../../table/deliver'
import type { SampleSink } from '../../table/intake'
import type { Handle } from '../../table/tagTable'
import { pauseAfter, Repeated } from '../repeated'
import type { Meters } from '#core/statistics/meters'
import type { ReportedEvents } from './events'
import { deviceText, expectedText, isExpected } from './identity'
import { takeFrom, type Image, type Target } from './item'
import type { SeenPort } from './lookout'
import type { Asked, Master } from './master'
import { parameterKey, ParameterRead } from './parameterRead'
import { qualityOf } from './quality'

export interface AroundPort {
  master(): Master
  settings(): IoLinkSettings
  table: SampleSink
  meters: Meters
  /** Whether tags or people have decided what belongs there. */
  expected(port: number): ExpectedDevice | null
  described(vendorId: number, deviceId: number): DeviceDescription | null
  /** Its device was not to be reached: who is there has to be looked at anew before anything counts. */
  doubt(): void
}

/** One port of a master: who is plugged in, and all tags that read there. Values count while it is known who gives them. */
export class SensorPort {
  seen: SeenPort | null = null
  readonly targets = new Map<Handle, Target>()
  readonly parameters = new Map<string, ParameterRead>()
  input: Image | null = null
  output: Image | null = null
  /** Why its values do not count; null: they do, or it was not looked at yet. */
  fault: Fault | null = null
  /** Why the last question came to nothing. */
  lastFault: Fault | null = null
  answerMs: number | null = null
  requests = 0
  failures = 0
  private isReady = false
  /** Looks in a row at which it did not say who it is. */
  private unsaid = 0
  private process: Repeated

  constructor(
    readonly number: number,
    private around: AroundPort,
    readonly events: ReportedEvents,
  ) {
    this.process = new Repeated({
      ask: (isOurs) => this.askProcessData(isOurs),
      interval: () => this.processInterval(),
      pauseAfter: (failures) => pauseAfter(around.settings().patience, failures),
    })
  }

  /** Nobody decided yet what becomes of what is plugged in. */
  get isUndecided(): boolean {
    return this.seen?.device != null && this.around.expected(this.number) === null && this.targets.size === 0
  }

  get expected(): ExpectedDevice | null {
    return this.around.expected(this.number)
  }

  get description(): DeviceDescription | null {
    const { device } = this.seen ?? {}
    return device ? this.around.described(device.vendorId, device.deviceId) : null
  }

  add(target: Target) {
    this.targets.set(target.point.handle, target)
    const { address } = target.placed
    if (address.of === 'parameter') this.parameterFor(address.index, address.subindex).add(target)
    this.giveKnown(target)
    this.plan()
  }

  drop(handle: Handle) {
    const target = this.targets.get(handle)
    this.targets.delete(handle)
    if (target?.placed.address.of !== 'parameter') return
    const key = parameterKey(target.placed.address)
    const read = this.parameters.get(key)
    read?.targets.delete(handle)
    if (read?.targets.size !== 0) return
    read.close()
    this.parameters.delete(key)
  }

  /** What a look told. */
  take(told: SeenPort) {
    const before = this.seen
    const seen = this.withKnown(told)
    this.seen = seen
    const why = this.whyNot(seen)
    const isAnother = !isSame(before, seen)
    if (isAnother) this.forgetImages()
    if (isAnother && before?.device) this.doubtValues()
    if (why) this.stop(why, quality.BadNotConnected)
    else this.begin(isAnother)
    if (!seen.device) this.events.clear()
    this.giveFacts()
  }

  /** The master is not to be reached. */
  away(why: Fault, code: number) {
    this.stop(why, code)
    for (const { point } of this.facts()) this.around.table.degrade(point.handle, code, Date.now())
  }

  /** Values wait until it is known again who gives them. */
  unsettle() {
    this.isReady = false
    this.doubtValues()
  }

  /** Asks everything anew: settings are others. */
  again() {
    this.process.again()
    for (const parameter of this.parameters.values()) parameter.again()
  }

  plan() {
    this.process.plan()
    for (const parameter of this.parameters.values()) parameter.plan()
  }

  close() {
    this.process.close()
    for (const parameter of this.parameters.values()) parameter.close()
  }

  /** Notes a question, whoever asked it. */
  note<T>(asked: Asked<T>): Asked<T> {
    this.requests++
    const part = String(this.number)
    if (asked.ok) {
      this.around.meters.answered(part, asked.ms)
      this.answerMs = asked.ms
      return asked
    }
    this.failures++
    this.around.meters.failed(part, asked.code === null ? asked.why.code : `${asked.why.code} ${asked.code}`, null)
    this.lastFault = asked.why
    // codes of a device that is gone, or was exchanged
    if (asked.code !== null && gone.has(asked.code)) {
      this.unsettle()
      this.around.doubt()
    }
    return asked
  }

  /** One look in a row or two at which a device that is there does not say who it is changes nothing. */
  private withKnown(told: SeenPort): SeenPort {
    const { seen } = this
    const isOnlyBusy = told.device === null && told.why !== null && seen?.device != null && told.state === seen.state && this.isReady
    this.unsaid = isOnlyBusy ? this.unsaid + 1 : 0
    return isOnlyBusy && this.unsaid <= mostUnsaid ? { ...told, device: seen.device } : told
  }

  /** Null: what it sends counts. */
  private whyNot({ device, state, why }: SeenPort): Fault | null {
    const port = this.number
    if (!device && why) return why
    if (!device) return fault('iolink.empty', { port, words: stateWords(state) })
    const expected = this.around.expected(port)
    if (!expected || isExpected(expected, device)) return this.layoutFault
    return fault('iolink.wrong', { port, wanted: expectedText(expected), found: deviceText(device) })
  }

  /** How its data lie, a parameter decides: null while that is as it was when they were taken. */
  private layoutFault: Fault | null = null
  private layoutDue = 0

  /** Asks for that parameter, now and then. */
  async lookAtLayout({ alias, device }: SeenPort) {
    const when = this.around.expected(this.number)?.when ?? null
    if (!when || !device) return void (this.layoutFault = null)
    if (device.serialNumber === this.seen?.device?.serialNumber && steadyNow() < this.layoutDue) return
    this.layoutDue = steadyNow() + this.around.settings().parameters
    const asked = this.note(await this.around.master().parameter(alias, when.index, when.subindex))
    if (!asked.ok) {
      this.layoutDue = 0
      return void (this.layoutFault = asked.why)
    }
    const found = asked.value.reduce((value, byte) => value * 256 + byte, 0)
    const facts = { port: this.number, index: when.index, wanted: String(when.value), found: String(found) }
    this.layoutFault = found === when.value ? null : fault('iolink.layout', facts)
  }

  private begin(isAnother: boolean) {
    this.isReady = true
    this.fault = null
    if (isAnother) this.again()
    else this.plan()
  }

  private stop(why: Fault, code: number) {
    this.isReady = false
    this.fault = why
    this.forgetImages()
    const now = Date.now()
    for (const { point, placed } of this.targets.values())
      if (!isFact(placed.address.of)) this.around.table.degrade(point.handle, code, now)
  }

  /** What was read is of a while ago, or of another device. */
  private doubtValues() {
    const now = Date.now()
    for (const { point, placed } of this.targets.values())
      if (!isFact(placed.address.of)) this.around.table.degrade(point.handle, quality.UncertainLastUsableValue, now)
    this.around.table.flush()
  }

  private forgetImages() {
    this.input = null
    this.output = null
    for (const parameter of this.parameters.values()) parameter.image = null
  }

  private parameterFor(index: number, subindex: number): ParameterRead {
    const key = parameterKey({ index, subindex })
    const known = this.parameters.get(key)
    if (known) return known
    const made = new ParameterRead(index, subindex, {
      ...{ table: this.around.table, settings: this.around.settings },
      ask: () => this.askFor((master, alias) => master.parameter(alias, index, subindex)),
      isReady: () => this.isReady,
    })
    this.parameters.set(key, made)
    return made
  }

  /** Asks its device; null: there is none that counts, or it answered and there is another one since. */
  async askFor<T>(question: (master: Master, alias: string) => Promise<Asked<T>>): Promise<Asked<T> | null> {
    const { seen } = this
    if (!this.isReady || !seen) return null
    const asked = this.note(await question(this.around.master(), seen.alias))
    return !asked.ok || (this.isReady && isSame(seen, this.seen)) ? asked : null
  }

  private processInterval(): number | null {
    if (!this.isReady) return null
    const settings = this.around.settings()
    const wanted = this.processTargets().map(({ point, placed }) => point.interval ?? usualInterval(placed.address, settings))
    return wanted.length > 0 ? Math.min(...wanted) : this.isUndecided ? settings.look : null
  }

  private processTargets(side?: 'in' | 'out') {
    return [...this.targets.values()].filter(({ placed: { address } }) =>
      side ? address.of === side : address.of === 'in' || address.of === 'out',
    )
  }

  private facts() {
    return [...this.targets.values()].filter(({ placed }) => isFact(placed.address.of))
  }

  /** How the port is and what its device reports, for the tags that are of that. */
  giveFacts() {
    const { seen } = this
    if (!seen) return
    for (const { point, placed, odd } of this.facts()) {
      if (placed.address.of === 'events' && this.events.fault) {
        this.around.table.degrade(point.handle, quality.BadNotSupported, seen.at)
        continue
      }
      const text = placed.address.of === 'state' ? seen.state : this.events.text
      deliver(this.around.table, point, odd, text, quality.Good, seen.at, seen.at)
    }
  }

  private giveKnown(target: Target) {
    const { of } = target.placed.address
    const { table } = this.around
    if (isFact(of)) return this.giveFacts()
    if (this.fault) return table.degrade(target.point.handle, quality.BadNotConnected, Date.now())
    const image = of === 'in' ? this.input : of === 'out' ? this.output : null
    if (this.isReady && image) takeFrom(target, image, table)
  }

  private async askProcessData(isOurs: () => boolean): Promise<boolean> {
    const asked = await this.askFor((master, alias) => master.processData(alias))
    if (!asked || !isOurs()) return true
    const { table } = this.around
    if (asked.ok) this.takeProcessData(asked.value, asked.at, asked.ms)
    else {
      const code = qualityOf(asked)
      for (const target of this.processTargets()) {
        target.problem = asked.why
        table.degrade(target.point.handle, code, Date.now())
      }
    }
    table.flush()
    return asked.ok
  }

  private takeProcessData({ getData, setData }: ProcessDataValue, at: number, ms: number) {
    this.input = this.takeSide('in', getData?.ioLink, at, ms)
    this.output = this.takeSide('out', setData?.ioLink, at, ms)
  }

  private takeSide(side: 'in' | 'out', data: { valid: boolean; value: number[] } | undefined, at: number, ms: number): Image | null {
    const image = data ? { bytes: Uint8Array.from(data.value), at, ms } : null
    for (const target of this.processTargets(side)) {
      if (image && data!.valid) takeFrom(target, image, this.around.table)
      else {
        target.problem = image
          ? fault('iolink.invalid', { port: this.number, side })
          : fault('iolink.short', { address: target.point.address, bytes: 0 })
        this.around.table.degrade(target.point.handle, image ? quality.BadSensorFailure : quality.BadNoData, at)
        this.around.table.confirm(target.point.handle, at)
      }
    }
    return image
  }
}

const mostUnsaid = 2

/** The device is not accessible, or of another name by now; it has no such data any more. */
const gone = new Set([308, 311, 312, 313])

const isFact = (of: string) => of === 'state' || of === 'events'

const isSame = (a: SeenPort | null, b: SeenPort | null) => whoOf(a) === whoOf(b)
const whoOf = (seen: SeenPort | null): string => {
  const { vendorId, deviceId, serialNumber } = seen?.device ?? {}
  return `${seen?.alias} ${vendorId} ${deviceId} ${serialNumber}`
}

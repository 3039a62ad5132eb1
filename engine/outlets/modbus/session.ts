import { createServer, type Socket } from 'node:net'
import type { Duplex } from 'node:stream'
import { CallSource } from '#core/calls/callBook'
import { framingText } from '#core/modbus/framings'
import { counted } from '#core/text/counted'
import { hostText } from '#core/opcua/endpointAddress'
import { serialText } from '#core/contracts/serial'
import type { ModbusDoor, ModbusLine, ModbusServerSettings } from '#shared/outlets/modbusServer'
import type { ClientStatus, OutletStatus } from '#shared/status'
import { Rate } from '#pacing/rate'
import type { Handle } from '../../table/tagTable'
import { Admission, plainAddress } from '../doors/admission'
import { DoorSet, type Opened } from '../doors/doorSet'
import { flowOfDoors, wasJustRefused } from '../doors/flow'
import { listening } from '../doors/listening'
import { hostOf } from '../doors/place'
import { Refusals } from '../doors/refusals'
import type { OutletContext, OutletSession, OutletTag } from '../driver'
import { Answering } from './answering'
import { Caller } from './caller'
import { noteCall } from './calls'
import { checkDoor } from './doorCheck'
import { LineSet } from './lines'
import { Machines } from './machines'
import { MappedTags } from './mapped'

/** Clients are silent for long; one whose machine is gone is noticed all the same. */
const keepAliveMs = 30_000

interface Connected {
  stream: Duplex
  caller: Caller
  /** Null: a serial line, which has none. */
  address: string | null
  from: string
  door: Pick<ModbusDoor, 'framing'>
}

/** A Modbus server over the tag table: what a map says stands on its registers, coils and inputs. */
export class ModbusServerSession implements OutletSession<ModbusServerSettings> {
  private settings: ModbusServerSettings
  private machines: Machines
  private mapped: MappedTags
  private answering: Answering
  private refusals = new Refusals(() => {})
  private doors: DoorSet<ModbusDoor, Opened>
  private lines: LineSet
  private connected = new Map<string, Connected>()
  private requests = 0
  private rates: { told: Rate; requests: Rate }
  private stopListening: () => void
  private work: Promise<unknown>

  constructor(private context: OutletContext<ModbusServerSettings>) {
    const { settings, table, journal, name, write, site } = context
    this.settings = settings
    this.machines = new Machines(settings)
    this.mapped = new MappedTags(table, settings.map, settings)
    this.answering = new Answering({ mapped: this.mapped, write, outlet: name, site })
    const admission = new Admission(
      () => this.settings.limits,
      (from, text) => this.refusals.note(`somebody from ${from}`, text),
    )
    this.doors = new DoorSet({
      addressOf,
      listen: (door, arrivals) =>
        listening(
          createServer((socket) => void (socket.destroyed || this.come(socket, door))),
          door,
          {
            admits: (socket, ofDoor) =>
              admission.admits(socket.remoteAddress, ofDoor.size) && this.mayCome(plainAddress(socket.remoteAddress)),
            knocked: (socket) => {
              arrivals.note(socket.remoteAddress)
              admission.count(socket)
            },
            unsecured: () => {},
          },
        ),
      opened: (address) => journal.note(name, `Open at ${address}.`),
      failed: (why) => journal.trouble(name, why.what, why),
    })
    this.lines = new LineSet({
      opened: (line, port) => {
        journal.note(name, `Open at ${line.device}, ${serialText(line)}.`)
        this.comeByLine(port, line)
      },
      failed: (why) => journal.caution(name, why.what, why),
    })
    this.rates = { told: new Rate(() => this.mapped.told), requests: new Rate(() => this.requests) }
    this.stopListening = table.listen((handles) => this.mapped.changed(handles))
    this.work = (context.after ?? Promise.resolve()).then(() => this.open())
  }

  /** Doors that did not change stay as they are, with everybody who came in by them. */
  update(settings: ModbusServerSettings) {
    const before = this.settings
    this.settings = settings
    this.machines.take(settings)
    if (mapText(before) !== mapText(settings)) this.mapped.take(settings.map, settings)
    for (const { stream, address } of [...this.connected.values()]) if (address !== null && !this.mayCome(address)) stream.destroy()
    this.work = this.work.then(() => this.open())
  }

  setTags(changed: readonly OutletTag[], removed: readonly Handle[]) {
    this.mapped.setTags(changed, removed)
  }

  shows(path: string) {
    return this.mapped.has(path) && this.machines.all().some((rules) => rules.at(path) !== 'nothing')
  }

  get changesTold() {
    return this.mapped.told
  }

  status(): Omit<OutletStatus, 'id' | 'feeds'> {
    const doors = this.doors.status()
    const clients = [...this.connected].map(([id, one]) => this.clientStatus(id, one))
    const lines = this.lines.status()
    const why = [...doors, ...lines].find((way) => way.fault)?.fault ?? null
    const mapped = this.mapped.status()
    return {
      flow: flowOfDoors([...doors, ...lines]),
      sentence: why?.what ?? sentenceOf(clients.length, mapped.entries, this.rates.requests.perSecond),
      fault: why,
      addresses: doors.map(({ address }) => address),
      clients,
      items: mapped.entries,
      changesPerSecond: this.rates.told.perSecond,
      details: {
        ...{ kind: 'modbus-server', doors, lines, requestsPerSecond: this.rates.requests.perSecond },
        ...mapped,
        refused: this.refusals.list(),
      },
    }
  }

  disconnect(clientId: string): boolean {
    const found = this.connected.get(clientId)
    found?.stream.destroy()
    return found !== undefined
  }

  check(index: number) {
    const found = this.doors.at(index)
    if (!found) return null
    return checkDoor({ ...found, unit: this.settings.unit, map: this.settings.map, ...this.context })
  }

  async close() {
    this.stopListening()
    for (const rate of Object.values(this.rates)) rate.close()
    await this.work
    this.lines.close()
    await this.doors.close()
  }

  /** Who may do nothing at all needs no connection. */
  private mayCome(address: string): boolean {
    const { name, rules } = this.machines.at(address)
    if (rules.opens('')) return true
    this.refusals.note(`somebody from ${address}`, `was not let in: machines (${name}) may read nothing here`)
    return false
  }

  private come(socket: Socket, door: ModbusDoor) {
    const address = plainAddress(socket.remoteAddress)
    this.attend(socket.setKeepAlive(true, keepAliveMs), `${address}:${socket.remotePort}`, address, door)
  }

  /** Whoever is master of a line comes without an address: what holds for those that are not listed holds for it. */
  private comeByLine(port: Duplex, line: ModbusLine) {
    this.attend(port, line.device, null, line)
  }

  private attend(stream: Duplex, id: string, address: string | null, door: Pick<ModbusDoor, 'framing'>) {
    const from = address ?? id
    let source = new CallSource({ name: from, from, as: '' })
    const map = () => this.mapped.registers
    this.context.wire.attendOne(stream, id)
    const caller = new Caller(stream, {
      framing: door.framing,
      asking: () => ({ machine: this.machines.at(address), from: id }),
      hasUnit: (unit) => this.hasUnit(unit, door),
      answer: (unit, pdu, asking) => this.answering.answer(this.meant(unit, door), pdu, asking),
      mostWaiting: () => this.settings.limits.waiting,
      refused: (text) => this.refusals.note(from, text),
      answered: () => this.requests++,
      called: (frame, answer, ms, { machine }) => {
        // the settings may make it another machine
        if (source.caller.as !== machine.name) source = new CallSource({ name: from, from, as: machine.name })
        noteCall(this.context.calls, { source, unit: this.meant(frame.unit, door), pdu: frame.pdu, answer, ms }, map)
      },
    })
    this.connected.set(id, { stream, caller, address, from, door })
    stream.once('close', () => this.connected.delete(id))
  }

  private async open() {
    this.lines.apply(this.settings.lines)
    await this.doors.apply(this.settings.doors)
  }

  private hasUnit(unit: number, door: Pick<ModbusDoor, 'framing'>): boolean {
    return this.meant(unit, door) === this.settings.unit || this.mapped.registers.hasUnit(unit)
  }

  /** Over TCP 0 and 255 mean the server itself, and over lines 0 means all (MODBUS Messaging on TCP/IP V1.0b, 4.4.2.1). */
  private meant(unit: number, { framing }: Pick<ModbusDoor, 'framing'>): number {
    const isItself = unit === 0 || (unit === 255 && framing === 'tcp')
    return isItself && !this.mapped.registers.hasUnit(unit) ? this.settings.unit : unit
  }

  private clientStatus(id: string, { caller, address, from, door }: Connected): ClientStatus {
    const { asked, got } = caller.lastText
    const machine = this.machines.at(address)
    return {
      ...{ id, name: id, from, identity: machine.name },
      security: door.framing === 'tcp' ? 'not encrypted' : `${framingText[door.framing]}, not encrypted`,
      flow: wasJustRefused(caller.refusal) ? 'late' : 'flowing',
      since: caller.since,
      items: this.settings.map.length,
      ...{ lastAsked: asked, lastAskedAt: caller.lastAskedAt, lastGot: got, refused: caller.refusal },
    }
  }
}

const mapText = ({ map, unit, gaps, notGood }: ModbusServerSettings) => JSON.stringify([map, unit, gaps, notGood])

const addressOf = (door: ModbusDoor) =>
  `${hostText(hostOf(door))}:${door.port}${door.framing === 'tcp' ? '' : ` (${framingText[door.framing]} over TCP)`}`

const sentenceOf = (clients: number, entries: number, perSecond: number): string =>
  clients === 0
    ? `Open, nobody connected, ${counted(entries, 'entry', 'entries')} mapped`
    : `${counted(clients, 'client')}, ${counted(perSecond, 'request')}/s, ${counted(entries, 'entry', 'entries')} mapped`

import { decoderFor } from './decode'
import { FrameBytes } from './frameBytes'
import type { FrameFilter } from './filter'
import { Matching } from './matching'
import { ToldTexts } from './toldTexts'
import { piece } from './decoder'
import type { FrameField, Memory, Told } from './told'

/** A frame as it passed. */
export interface PassedFrame {
  /** Unix ms, with a fraction. */
  at: number
  connection: number
  /** From the side that the left upright stands for: we, or whoever asks. */
  out: boolean
  /** Bytes on the wire. */
  length: number
  /** As many of them as were kept. */
  bytes: Uint8Array
}

/** Between whom, and how it is read. */
export interface FrameConnection {
  id: number
  here: string
  peer: string
  /** The kind of link or outlet whose decoder reads it. */
  kind: string
  /** Whether `out` is the way of requests. */
  asks: boolean
}

export type FrameOutcome = Told['outcome'] | 'unanswered'

/** A frame as a list shows it. */
export interface FrameRow {
  /** Counts up; those of frames that made room are gone. */
  n: number
  at: number
  connection: number
  out: boolean
  length: number
  summary: string
  role: Told['role']
  outcome: FrameOutcome
  /** The request of an answer, or the answer of a request. */
  partner: number | null
  /** From the request to its answer. */
  answerMs: number | null
  /** Of an answer: what was asked. */
  asked: string | null
}

export interface OpenedFrame extends FrameRow {
  bytes: Uint8Array
  fields: FrameField[]
  about: string
  call: string
}

export interface BookLimits {
  frames: number
  bytes: number
}

/** A request that is without an answer for so long, has none, unless it says that it waits. */
const patienceMs = 1000
const firstRoom = 1024

/**
 * Frames in bounded memory: what each is, which request an answer belongs to, and which of them a filter lets through. The
 * oldest make room for new ones, which is counted.
 */
export class FrameBook {
  /** The number of the first that is still there. */
  first = 0
  count = 0
  private at = new Float64Array(firstRoom)
  private connection = new Int32Array(firstRoom)
  private length = new Int32Array(firstRoom)
  private flags = new Uint8Array(firstRoom)
  private told = new Int32Array(firstRoom)
  private partner = new Int32Array(firstRoom)
  private bytes = new FrameBytes()
  private texts = new ToldTexts()
  private matching = new Matching()
  private connections = new Map<number, FrameConnection & { memory: Memory }>()

  constructor(private limits: BookLimits) {}

  /** The number that the next one gets. */
  get end() {
    return this.first + this.count
  }

  /** Bytes that are kept. */
  get size() {
    return this.bytes.size
  }

  connect(connection: FrameConnection) {
    const known = this.connections.get(connection.id)
    this.connections.set(connection.id, { ...connection, memory: known?.kind === connection.kind ? known.memory : {} })
  }

  get known(): FrameConnection[] {
    return [...this.connections.values()].map(({ memory: _, ...connection }) => connection)
  }

  add(frame: PassedFrame): number {
    // a tenth at a time: taking one out of the front moves all others
    while (this.count > 0 && !this.hasRoomFor(frame.bytes.length)) this.makeRoom(Math.ceil(this.count / 10))
    if (this.count === this.at.length) this.grow()
    const [i, n] = [this.count++, this.end - 1]
    this.at[i] = frame.at
    this.connection[i] = frame.connection
    this.length[i] = frame.length
    this.flags[i] = frame.out ? 1 : 0
    this.partner[i] = -1
    this.bytes.push(frame.bytes)
    const told = this.read(frame.connection, frame.out, frame.length, frame.bytes, false).told
    this.told[i] = this.texts.idOf(told)
    const partner = this.matching.partnerOf(n, frame.connection, told)
    if (partner !== null && partner >= this.first) {
      this.partner[i] = partner
      this.partner[partner - this.first] = n
    }
    return n
  }

  /** What a list shows of it; null: it is not there any more. */
  row(n: number): FrameRow | null {
    const i = n - this.first
    if (i < 0 || i >= this.count) return null
    const told = this.texts.of(this.told[i]!)
    const partner = this.partner[i]!
    const other = partner >= this.first ? partner - this.first : null
    return {
      ...{ n, at: this.at[i]!, connection: this.connection[i]!, out: this.flags[i] === 1, length: this.length[i]! },
      ...{ summary: told.summary, role: told.role, outcome: this.outcomeOf(i, told) },
      partner: other === null ? null : partner,
      answerMs: other === null ? null : Math.abs(this.at[i]! - this.at[other]!),
      asked: other !== null && told.role === 'answer' ? this.texts.of(this.told[other]!).summary : null,
    }
  }

  open(n: number): OpenedFrame | null {
    const row = this.row(n)
    if (!row) return null
    const bytes = this.bytesOf(n)
    const { told, fields } = this.read(row.connection, row.out, row.length, bytes, true)
    return { ...row, bytes, fields, about: told.about, call: told.call }
  }

  bytesOf(n: number): Uint8Array {
    return this.bytes.at(n - this.first)
  }

  /** The numbers, from one to before another, of those that a filter lets through. */
  *passing(filter: FrameFilter, from: number, to: number): Generator<number> {
    const isText = this.texts.matcher(filter.words)
    for (let i = Math.max(from, this.first) - this.first; i < to - this.first && i < this.count; i++)
      if (this.passes(i, filter, isText)) yield i + this.first
  }

  /** Those that passed longer ago make room. */
  forgetBefore(moment: number) {
    // a part at a time: moving all the others for each one that goes would cost more than keeping it
    let count = Math.ceil(this.count / 10)
    if (count === 0 || this.at[count - 1]! >= moment) return
    while (count < this.count && this.at[count]! < moment) count++
    this.makeRoom(count)
  }

  clear() {
    this.makeRoom(this.count)
  }

  private passes(i: number, { outcome, connection, field, slowerMs }: FrameFilter, isText: (told: number) => boolean): boolean {
    if (connection !== null && this.connection[i] !== connection) return false
    if (!isText(this.told[i]!)) return false
    if (outcome !== 'any' && !isOutcome(outcome, this.outcomeOf(i, this.texts.of(this.told[i]!)))) return false
    if (slowerMs !== null && !this.isSlower(i, slowerMs)) return false
    if (!field) return true
    const bytes = this.bytes.at(i)
    const { fields } = this.read(this.connection[i]!, this.flags[i] === 1, this.length[i]!, bytes, true)
    return fields.some(({ name, means }) => name === field.name && means === field.means)
  }

  private isSlower(i: number, ms: number): boolean {
    const partner = this.partner[i]! - this.first
    return partner >= 0 && Math.abs(this.at[i]! - this.at[partner]!) > ms
  }

  private outcomeOf(i: number, told: Told): FrameOutcome {
    const isDue = told.role === 'request' && told.key !== null && !told.isPatient && this.partner[i] === -1
    return isDue && this.at[this.count - 1]! - this.at[i]! > patienceMs ? 'unanswered' : told.outcome
  }

  private read(connection: number, out: boolean, length: number, bytes: Uint8Array, fields: boolean): { told: Told; fields: FrameField[] } {
    const known = this.connections.get(connection)
    const decode = known && decoderFor(known.kind)
    if (!decode) return { told: piece(`${length} ${length === 1 ? 'byte' : 'bytes'}`, { outcome: 'fine' }), fields: [] }
    return decode(bytes, out === known.asks, known.memory, { fields, isCut: bytes.length < length })
  }

  private hasRoomFor(bytes: number) {
    return this.count < this.limits.frames && this.bytes.size + bytes <= this.limits.bytes
  }

  private makeRoom(count: number) {
    for (const column of [this.at, this.connection, this.length, this.flags, this.told, this.partner])
      column.copyWithin(0, count, this.count)
    this.bytes.drop(count)
    this.first += count
    this.count -= count
    this.texts.keep(this.told.subarray(0, this.count))
  }

  private grow() {
    const room = Math.min(this.limits.frames, 2 * this.at.length)
    const wider = <T extends Float64Array | Int32Array | Uint8Array>(column: T, fresh: T): T => {
      fresh.set(column)
      return fresh
    }
    this.at = wider(this.at, new Float64Array(room))
    this.connection = wider(this.connection, new Int32Array(room))
    this.length = wider(this.length, new Int32Array(room))
    this.flags = wider(this.flags, new Uint8Array(room))
    this.told = wider(this.told, new Int32Array(room))
    this.partner = wider(this.partner, new Int32Array(room))
  }
}

const isOutcome = (wanted: FrameFilter['outcome'], outcome: FrameOutcome) =>
  wanted === 'trouble' ? outcome !== 'fine' : wanted === outcome

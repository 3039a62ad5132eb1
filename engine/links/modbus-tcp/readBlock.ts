import { bitAt, type ReadFunction, type Request } from '#core/modbus/pdu'
import { formatAddress, holdsBits, type Table } from '#core/modbus/address'
import { decoderFor, type Decoder } from '#core/modbus/decoding'
import type { Layout } from '#core/modbus/layout'
import type { Block } from '#core/modbus/planner'
import { quality } from '#core/tags/quality'
import type { OddJudge, OddValues } from '#core/tags/odd'
import type { Scaling } from '#core/tags/scaling'
import type { Fault } from '#core/faults/catalogue'
import { deliver } from '../../table/deliver'
import type { SampleSink } from '../../table/intake'
import type { Handle } from '../../table/tagTable'

/** A point as it is polled: placed, laid out, with its decoder built. */
export interface PolledPoint {
  handle: Handle
  path: string
  table: Table
  offset: number
  count: number
  layout: Layout
  decode: Decoder
  scaling: Scaling | null
  /** What was chosen for odd values, and what judges them by it. */
  chosenOdd: OddValues
  odd: OddJudge | null
  interval: number
  /** No tag: somebody asked for it. */
  onRequest?: true
}

export const readFunction: Record<Table, ReadFunction> = { coil: 1, discrete: 2, holding: 3, input: 4 }

/** Coils have no layout to speak of; the decoder looks at the bit itself. */
export const decoderOf = (table: Table, layout: Layout): Decoder => (holdsBits(table) ? bitAt : decoderFor(layout))

const longestRestMs = 600_000

/** One planned request, with what its last reply carried. */
export class ReadBlock {
  readonly request: Request
  handles: Handle[]
  /** The data of the last good reply. */
  bytes: Buffer | null = null
  repliedAt = 0
  answerMs = 0
  fault: Fault | null = null
  /** While a device keeps refusing this block: not before this time again. */
  restUntil = 0
  private refusals = 0
  /** No longer part of the plan: a reply still under way must not reach handles that may be others' by now. */
  retired = false
  private stale = true

  constructor(
    readonly table: Table,
    readonly plan: Block<PolledPoint>,
  ) {
    this.request = { fc: readFunction[table], offset: plan.offset, count: plan.count }
    this.handles = plan.items.map((item) => item.handle)
  }

  /** Takes a reply into the tag table. A reply equal to the last one only confirms the values. */
  accept(data: Buffer, at: number, ms: number, into: SampleSink) {
    this.repliedAt = at
    this.answerMs = ms
    this.fault = null
    this.refusals = 0
    if (!this.stale && this.bytes!.equals(data)) {
      for (const handle of this.handles) into.confirm(handle, at)
      return
    }
    this.keep(data)
    for (const point of this.plan.items) {
      const raw = point.decode(this.bytes!, this.indexOf(point))
      deliver(into, point, point.odd, raw, quality.Good, at, at)
    }
    this.stale = false
  }

  /** A point that is no longer wanted; the rest of the request stays as it is until there is another plan. */
  letGo(handle: Handle) {
    this.handles = this.handles.filter((one) => one !== handle)
    this.plan.items = this.plan.items.filter((point) => point.handle !== handle)
  }

  /** Never asked yet: worth asking before its interval is over. */
  get isUnread() {
    return this.bytes === null && this.fault === null
  }

  /** Planned anew just as it was. */
  revive(): this {
    this.retired = false
    return this
  }

  /** Values stay as they are and carry the given quality until the next good reply. */
  degrade(code: number, fault: Fault | null, into: SampleSink) {
    this.stale = true
    this.fault = fault
    const now = Date.now()
    for (const handle of this.handles) into.degrade(handle, code, now)
  }

  /** Another source from now on: neither bytes nor values count any more. */
  forget(into: SampleSink) {
    this.stale = true
    this.bytes = null
    this.fault = null
    const now = Date.now()
    for (const handle of this.handles) into.renew(handle, now)
  }

  get isRefused() {
    return this.fault?.code === 'modbus.exception'
  }

  /** What the device refuses of this block: no tag, or all of them. */
  refused(): { path: string; address: string; why: string }[] {
    if (!this.isRefused) return []
    const tags = this.plan.items.filter(({ onRequest }) => !onRequest)
    return tags.map(({ path, table, offset, layout }) => ({
      path,
      address: formatAddress({ unit: null, table, offset, bit: layout.bit }),
      why: this.fault!.what,
    }))
  }

  /** A lone address that the device keeps refusing is asked for ever less often, at least every ten minutes. */
  rest(firstMs: number) {
    this.restUntil = Date.now() + Math.min(longestRestMs, firstMs * 2 ** this.refusals)
    this.refusals++
  }

  /** A value was written: the next reply must not be taken as unchanged. */
  invalidate() {
    this.stale = true
  }

  /** Words of one value that were read outside of the round, so that how it is made shows what it is. */
  patch(point: PolledPoint, data: Buffer) {
    if (this.bytes && !holdsBits(this.table)) data.copy(this.bytes, this.indexOf(point))
    else if (this.bytes) setBit(this.bytes, this.indexOf(point), bitAt(data, 0) === true)
  }

  /** Byte index of a register, bit index in the tables of bits. */
  indexOf(point: PolledPoint) {
    const element = point.offset - this.plan.offset
    return holdsBits(this.table) ? element : 2 * element
  }

  /** Replies are slices of larger network buffers; a copy lets those go. */
  private keep(data: Buffer) {
    if (this.bytes?.length === data.length) data.copy(this.bytes)
    else this.bytes = Buffer.from(data)
  }
}

const setBit = (bytes: Buffer, index: number, on: boolean) => {
  const mask = 1 << (index & 7)
  bytes[index >> 3] = on ? bytes[index >> 3]! | mask : bytes[index >> 3]! & ~mask
}

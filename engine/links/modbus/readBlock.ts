import { bitAt, type ReadFunction, type Request } from '#core/modbus/pdu'
import { formatAddress, holdsBits, type Table } from '#core/modbus/address'
import { decoderFor, type Decoder } from '#core/modbus/decoding'
import type { Layout } from '#core/modbus/layout'
import type { Block } from '#core/links/planner'
import { PolledBlock, type PolledItem } from '../polledBlock'

/** A point of a unit as it is polled. */
export interface PolledPoint extends PolledItem {
  table: Table
  layout: Layout
  decode: Decoder
}

export const readFunction: Record<Table, ReadFunction> = { coil: 1, discrete: 2, holding: 3, input: 4 }

/** Coils have no layout to speak of; the decoder looks at the bit itself. */
export const decoderOf = (table: Table, layout: Layout): Decoder => (holdsBits(table) ? bitAt : decoderFor(layout))

/** One planned request, with what its last reply carried. */
export class ReadBlock extends PolledBlock<PolledPoint> {
  readonly request: Request

  constructor(
    readonly table: Table,
    plan: Block<PolledPoint>,
  ) {
    super(plan)
    this.request = { fc: readFunction[table], offset: plan.offset, count: plan.count }
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
}

const setBit = (bytes: Buffer, index: number, on: boolean) => {
  const mask = 1 << (index & 7)
  bytes[index >> 3] = on ? bytes[index >> 3]! | mask : bytes[index >> 3]! & ~mask
}

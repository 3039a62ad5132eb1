import { holdsBits, type Table } from '../address'

/** Nobody; the first entry of a map is 1. */
const nobody = 0

/**
 * One table of one unit: what is told at each of its offsets, and whose it is. Registers lie as they travel, so that a
 * read is a copy.
 */
export class Bank {
  readonly size: number
  /** Registers: two bytes each. Bits: one byte each, 0 or 1. */
  readonly bytes: Buffer
  private owners: Int32Array
  /** Several bits of one register: their owners by bit. */
  private shared = new Map<number, Int32Array>()
  /** How many offsets from here on belong to somebody, one after the other. */
  private run: Uint32Array
  /** Offsets whose value cannot be had now; counted, because bits share. */
  private absent: Uint16Array
  private absentees = 0

  constructor(
    readonly table: Table,
    claims: readonly { offset: number; count: number; bit: number | null; owner: number }[],
  ) {
    this.size = claims.reduce((end, { offset, count }) => Math.max(end, offset + count), 0)
    this.bytes = Buffer.alloc(this.size * (this.isOfBits ? 1 : 2))
    this.owners = new Int32Array(this.size)
    this.absent = new Uint16Array(this.size)
    this.run = new Uint32Array(this.size)
    for (const claim of claims) this.claim(claim)
    for (let at = this.size - 1, length = 0; at >= 0; at--) this.run[at] = length = this.owners[at] === nobody ? 0 : length + 1
  }

  get isOfBits() {
    return holdsBits(this.table)
  }

  /** Whether each of these offsets belongs to somebody. */
  isWhole(offset: number, count: number): boolean {
    return offset < this.size && this.run[offset]! >= count
  }

  /** Whether something in there cannot be told now. */
  lacks(offset: number, count: number): boolean {
    if (this.absentees === 0) return false
    for (let at = offset; at < Math.min(offset + count, this.size); at++) if (this.absent[at]! > 0) return true
    return false
  }

  note(offset: number, count: number, isAbsent: boolean) {
    for (let at = offset; at < offset + count; at++) this.absent[at]! += isAbsent ? 1 : -1
    this.absentees += isAbsent ? count : -count
  }

  /** The entry at an offset; several where bits of a register are apart. */
  ownersAt(offset: number): readonly { owner: number; bit: number | null }[] {
    const owner = this.owners[offset] ?? nobody
    if (owner > nobody) return [{ owner, bit: null }]
    const bits = this.shared.get(offset)
    return bits ? [...bits].flatMap((one, bit) => (one === nobody ? [] : [{ owner: one, bit }])) : []
  }

  /** Registers as they travel; nothing where nobody is. */
  registers(offset: number, count: number): Buffer {
    const data = Buffer.alloc(2 * count)
    this.bytes.copy(data, 0, 2 * offset, 2 * Math.min(offset + count, this.size))
    return data
  }

  /** Bits as they travel: the first in the lowest bit of the first byte (Modbus Application Protocol V1.1b3, 6.1). */
  bits(offset: number, count: number): Buffer {
    const data = Buffer.alloc((count + 7) >> 3)
    for (let i = 0; i < Math.min(count, this.size - offset); i++) if (this.bytes[offset + i]) data[i >> 3]! |= 1 << (i & 7)
    return data
  }

  private claim({ offset, count, bit, owner }: { offset: number; count: number; bit: number | null; owner: number }) {
    if (bit === null) return void this.owners.fill(owner, offset, offset + count)
    const bits = this.shared.get(offset) ?? new Int32Array(16)
    bits[bit] = owner
    this.shared.set(offset, bits)
    this.owners[offset] = -1
  }
}

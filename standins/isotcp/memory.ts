import type { Area } from '#core/isotcp/address'
import { itemCode } from '#core/isotcp/codes'
import type { Piece, PieceAnswer } from '#core/isotcp/pdu'

export interface DataBlock {
  bytes: Buffer
  /** Denied: access is not allowed. Symbolic: it has no addresses. */
  kind: 'plain' | 'denied' | 'symbolic'
}

/** The memory of a controller: blocks by number, and the areas beside them. */
export class Memory {
  readonly blocks = new Map<number, DataBlock>()
  private areas: Record<Exclude<Area, 'block'>, Buffer> = {
    ...{ input: Buffer.alloc(16), output: Buffer.alloc(16), flag: Buffer.alloc(256) },
    ...{ timer: Buffer.alloc(2 * 32), counter: Buffer.alloc(2 * 32) },
  }

  add(number: number, bytes: number, kind: DataBlock['kind'] = 'plain'): Buffer {
    const block = { bytes: Buffer.alloc(bytes), kind }
    this.blocks.set(number, block)
    return block.bytes
  }

  area(area: Exclude<Area, 'block'>): Buffer {
    return this.areas[area]
  }

  read(piece: Piece): PieceAnswer {
    const found = this.find(piece)
    if (typeof found === 'number') return { ok: false, code: found }
    if (piece.bit === null) return { ok: true, data: found }
    return { ok: true, data: Buffer.from([(found[0]! >> piece.bit) & 1]) }
  }

  /** @returns the code that the controller answers */
  write(piece: Piece, bytes: Buffer): number {
    if (piece.area === 'input' || piece.area === 'timer' || piece.area === 'counter') return itemCode.denied
    const found = this.find(piece)
    if (typeof found === 'number') return found
    if (bytes.length !== found.length) return itemCode.otherType
    if (piece.bit === null) bytes.copy(found)
    else found[0] = (found[0]! & ~(1 << piece.bit)) | ((bytes[0]! & 1) << piece.bit)
    return itemCode.ok
  }

  private find({ area, block, offset, count }: Piece): Buffer | number {
    const width = area === 'timer' || area === 'counter' ? 2 : 1
    const holder = area === 'block' ? this.blocks.get(block) : { bytes: this.areas[area], kind: 'plain' as const }
    if (!holder || holder.kind === 'symbolic') return itemCode.missing
    if (holder.kind === 'denied') return itemCode.denied
    const bytes = holder.bytes.subarray(offset * width, (offset + count) * width)
    return bytes.length === count * width ? bytes : itemCode.address
  }
}

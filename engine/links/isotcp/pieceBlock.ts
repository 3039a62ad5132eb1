import { formatAddress } from '#core/isotcp/address'
import type { Piece } from '#core/isotcp/pdu'
import type { PlannedPiece } from '#core/isotcp/planning'
import type { IsoPoint } from '#core/isotcp/point'
import type { SampleSink } from '../../table/intake'
import { PolledBlock, type PolledItem } from '../polledBlock'

/** A point of a controller as it is polled. */
export type IsoPolled = PolledItem & IsoPoint

/** A part of a piece that goes into one request: nearly always the whole of it. */
export interface Part {
  block: PieceBlock
  /** Bytes from the beginning of the piece. */
  from: number
  bytes: number
}

/** Points of one block or area that are read as one piece, with what came last. */
export class PieceBlock extends PolledBlock<IsoPolled> {
  private gathered: Buffer | null = null
  private missing = 0

  constructor(readonly piece: PlannedPiece<IsoPolled>) {
    super(piece)
  }

  get bytesInAll() {
    return this.piece.count * this.piece.row.width
  }

  get key() {
    return `${this.piece.row.key}/${this.piece.offset}/${this.piece.count}`
  }

  /** Cut so that each part fits into a request. */
  partsOf(most: number): Part[] {
    const parts: Part[] = []
    for (let from = 0; from < this.bytesInAll; from += most)
      parts.push({ block: this, from, bytes: Math.min(most, this.bytesInAll - from) })
    return parts
  }

  /** What is asked for a part. */
  pieceOf({ from, bytes }: Part): Piece {
    const { row, offset } = this.piece
    return { area: row.area, block: row.block, offset: offset + from / row.width, bit: null, count: bytes / row.width }
  }

  /** A round begins: parts of the one before do not count. */
  begin(most: number) {
    this.missing = Math.ceil(this.bytesInAll / most)
  }

  /** Takes a part; with the last one the values are taken. */
  take({ from, bytes }: Part, data: Buffer, at: number, ms: number, into: SampleSink) {
    if (bytes === this.bytesInAll) return this.accept(data, at, ms, into)
    this.gathered ??= Buffer.alloc(this.bytesInAll)
    data.copy(this.gathered, from)
    if (--this.missing === 0) this.accept(this.gathered, at, ms, into)
  }

  indexOf(point: IsoPolled) {
    return (point.offset - this.piece.offset) * this.piece.row.width
  }

  /** Bytes of one value that were read outside of the round. */
  patch(point: IsoPolled, data: Buffer) {
    if (this.bytes) data.copy(this.bytes, this.indexOf(point))
  }

  get isRefused() {
    return this.fault?.code === 'iso.piece'
  }

  /** What the controller refuses of this piece: no tag, or all of them. */
  refused(): { path: string; address: string; why: string }[] {
    if (!this.isRefused) return []
    const tags = this.plan.items.filter(({ onRequest }) => !onRequest)
    return tags.map(({ path, address }) => ({ path, address: formatAddress(address), why: this.fault!.what }))
  }
}

/** A piece in words, as in `DB10, bytes 4 to 19`. */
export const placeOf = ({ row, offset, count }: Pick<PlannedPiece<IsoPoint>, 'row' | 'offset' | 'count'>): string => {
  const where = row.area === 'block' ? `DB${row.block}` : row.area
  const what = row.width === 2 ? '' : count === 1 ? ', byte ' : ', bytes '
  return count === 1 ? `${where}${what || ' '}${offset}` : `${where}${what || ' '}${offset} to ${offset + count - 1}`
}

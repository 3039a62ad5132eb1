import { formatAddress } from '#core/isotcp/address'
import type { Piece } from '#core/isotcp/pdu'
import { bytesIn, type PlannedPart, type PlannedPiece } from '#core/isotcp/planning'
import type { IsoPoint } from '#core/isotcp/point'
import type { SampleSink } from '../../table/intake'
import { PolledBlock, type PolledItem } from '../polledBlock'

/** A point of a controller as it is polled. */
export type IsoPolled = PolledItem & IsoPoint

/** A part of a piece that goes into one request: nearly always the whole of it. */
export interface Part extends Pick<PlannedPart<IsoPolled>, 'from' | 'bytes'> {
  block: PieceBlock
}

/** Points of one block or area that are read as one piece, with what came last. */
export class PieceBlock extends PolledBlock<IsoPolled> {
  private gathered: Buffer | null = null
  /** Bytes that have not come yet. */
  private missing = 0

  constructor(readonly piece: PlannedPiece<IsoPolled>) {
    super(piece)
  }

  get bytesInAll() {
    return bytesIn(this.piece)
  }

  get key() {
    return `${this.piece.row.key}/${this.piece.offset}/${this.piece.count}`
  }

  /** A round begins: parts of the one before do not count. */
  begin() {
    this.missing = this.bytesInAll
  }

  /** Takes a part; with the last one the values are taken. */
  take({ from, bytes }: Part, data: Buffer, at: number, ms: number, into: SampleSink) {
    if (bytes === this.bytesInAll) return this.accept(data, at, ms, into)
    this.gathered ??= Buffer.alloc(this.bytesInAll)
    data.copy(this.gathered, from)
    this.missing -= bytes
    if (this.missing === 0) this.accept(this.gathered, at, ms, into)
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

/** What is asked for a part of a piece. */
export const pieceOf = ({ piece: { row, offset }, from, bytes }: PlannedPart<IsoPoint>): Piece => ({
  ...{ area: row.area, block: row.block, bit: null },
  ...{ offset: offset + from / row.width, count: bytes / row.width },
})

/** A piece in words, as in `DB10, bytes 4 to 19`. */
export const placeOf = ({ row, offset, count }: Pick<PlannedPiece<IsoPoint>, 'row' | 'offset' | 'count'>): string => {
  const where = row.area === 'block' ? `DB${row.block}` : row.area
  const what = row.width === 2 ? '' : count === 1 ? ', byte ' : ', bytes '
  return count === 1 ? `${where}${what || ' '}${offset}` : `${where}${what || ' '}${offset} to ${offset + count - 1}`
}

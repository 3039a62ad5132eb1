/** How many pieces are remembered of each connection’s link, and how much of each, bytes. */
const mostPieces = 48
const mostOfOne = 512

/** A piece as it passed: what was written at once, or came at once. */
export interface Piece {
  /** Unix ms, with a fraction. */
  at: number
  connection: number
  peer: string
  out: boolean
  length: number
  /** The first of it. */
  bytes: Uint8Array
}

/**
 * Remembers the last pieces that passed, always, in memory that is taken once: so that what passed before something broke can
 * be looked at although nobody looked then.
 */
export class Recall {
  private slots: Piece[] = []
  private next = 0

  note(connection: number, peer: string, out: boolean, piece: Uint8Array) {
    const slot = this.slot()
    slot.at = performance.timeOrigin + performance.now()
    slot.connection = connection
    slot.peer = peer
    slot.out = out
    slot.length = piece.length
    slot.bytes.set(piece.length > mostOfOne ? piece.subarray(0, mostOfOne) : piece)
  }

  /** Copies of what is remembered, the oldest first. */
  pieces(): Piece[] {
    const { slots, next } = this
    const inOrder = slots.length < mostPieces ? slots : [...slots.slice(next), ...slots.slice(0, next)]
    return inOrder.map((slot) => ({ ...slot, bytes: slot.bytes.slice(0, Math.min(slot.length, mostOfOne)) }))
  }

  /** The first that came over a connection that was made after this mark of its tap; null: nothing came. */
  heardSince(mark: number): Uint8Array | null {
    return this.pieces().find(({ out, connection }) => !out && connection > mark)?.bytes ?? null
  }

  private slot(): Piece {
    const at = this.next
    this.next = (at + 1) % mostPieces
    return (this.slots[at] ??= { at: 0, connection: 0, peer: '', out: false, length: 0, bytes: new Uint8Array(mostOfOne) })
  }
}

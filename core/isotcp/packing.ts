import { answerRoom, roomIn } from './pdu'

/** Something of so many bytes that is to be read. */
export interface Packed {
  bytes: number
}

/**
 * Packs pieces into the fewest requests: each is put where it leaves least room, the largest first. A request carries so
 * many pieces, and its answer so many bytes.
 */
export const packPieces = <T extends Packed>(pieces: readonly T[], size: number): T[][] => {
  const { pieces: mostPieces, answer: mostBytes } = roomIn(size)
  const requests: { room: number; held: T[] }[] = []
  /** Those that may take one more: what is full is not looked at again. */
  let open: typeof requests = []
  for (const piece of [...pieces].sort((a, b) => b.bytes - a.bytes)) {
    const needs = answerRoom(piece.bytes)
    let best: (typeof requests)[number] | null = null
    for (const request of open) if (request.room >= needs && (best === null || request.room < best.room)) best = request
    if (best === null) {
      best = { room: mostBytes, held: [] }
      requests.push(best)
      open.push(best)
    }
    best.held.push(piece)
    best.room -= needs
    if (best.held.length >= mostPieces || best.room < answerRoom(1)) open = open.filter((one) => one !== best)
  }
  return requests.map(({ held }) => held)
}

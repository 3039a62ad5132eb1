/** A piece that passed, as far as exchanges are told apart by it. */
interface Passed {
  at: number
  connection: number
  out: boolean
}

export interface Exchanges<P> {
  /** The last question that was answered, and its answer. */
  good: P[]
  /** What passed after it: what nobody answered, or what came instead. */
  failed: P[]
}

/** A failed exchange is shown by so many pieces. */
const mostShown = 6

/**
 * The last good exchange and the first failed one, out of the pieces that passed before something broke.
 * @param pieces the oldest first
 * @param failedAt when it was noticed, Unix ms: the answer that came before is the last good one
 * @param isGood whether an incoming piece is an answer as it should be
 */
export const exchangesIn = <P extends Passed>(pieces: readonly P[], isGood: (piece: P) => boolean = () => true): Exchanges<P> => {
  const last = pieces.findLastIndex((piece) => !piece.out && isGood(piece))
  if (last < 0) return { good: [], failed: pieces.slice(0, mostShown) }
  const answer = pieces[last]!
  const question = pieces.findLastIndex((piece, at) => at < last && piece.out && piece.connection === answer.connection)
  const good = question < 0 ? [answer] : pieces.slice(question, last + 1).filter(({ connection }) => connection === answer.connection)
  return { good, failed: pieces.slice(last + 1, last + 1 + mostShown) }
}

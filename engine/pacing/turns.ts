/** After this long, others get their turn: plant traffic does not wait for bookkeeping. */
const turnMs = 8

/** Resolves when whatever else was due has run. */
export const nextTurn = () => new Promise<void>((resolve) => setImmediate(resolve))

/** Calls `work` for each item; whenever a turn is used up, others go first. */
export const inTurns = async <T>(items: Iterable<T>, work: (item: T) => void): Promise<void> => {
  let end = performance.now() + turnMs
  for (const item of items) {
    work(item)
    if (performance.now() < end) continue
    await nextTurn()
    end = performance.now() + turnMs
  }
}

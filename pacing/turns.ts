/** After this long, others get their turn: plant traffic does not wait for bookkeeping. */
const turnMs = 8

/** Resolves when whatever else was due has run. */
export const nextTurn = () => new Promise<void>((resolve) => setImmediate(resolve))

/** Long work that leaves turns to others. */
export class Turns {
  private end = performance.now() + turnMs

  /** Whether it is somebody else's turn. */
  get isOver() {
    return performance.now() >= this.end
  }

  /** Lets others go first. */
  async next() {
    await nextTurn()
    this.end = performance.now() + turnMs
  }

  /** Calls `work` for each item; whenever a turn is used up, others go first. */
  async each<T>(items: Iterable<T>, work: (item: T) => void): Promise<void> {
    for (const item of items) {
      if (this.isOver) await this.next()
      work(item)
    }
  }
}

/** Calls `work` for each item; whenever a turn is used up, others go first. */
export const inTurns = <T>(items: Iterable<T>, work: (item: T) => void): Promise<void> => new Turns().each(items, work)

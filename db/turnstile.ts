/** More than this many waiting, and the next is better refused than kept waiting. */
const mostWaiting = 200

export class TooManyWaiting extends Error {
  constructor() {
    super(`${mostWaiting} changes are waiting already`)
  }
}

/** Lets one through at a time, in the order in which they came; whoever fails holds up nobody. */
export class Turnstile {
  private last: Promise<unknown> = Promise.resolve()
  private waiting = 0

  pass<T>(work: () => Promise<T>): Promise<T> {
    if (this.waiting >= mostWaiting) return Promise.reject(new TooManyWaiting())
    this.waiting++
    const turn = this.last.then(work).finally(() => this.waiting--)
    this.last = turn.catch(() => {})
    return turn
  }
}

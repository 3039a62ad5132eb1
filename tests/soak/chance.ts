/** Chance that comes out the same for the same seed (mulberry32). */
export class Chance {
  constructor(private state: number) {}

  /** From 0 up to, not including, 1. */
  next(): number {
    this.state = (this.state + 0x6d2b79f5) | 0
    let mixed = Math.imul(this.state ^ (this.state >>> 15), 1 | this.state)
    mixed = (mixed + Math.imul(mixed ^ (mixed >>> 7), 61 | mixed)) ^ mixed
    return ((mixed ^ (mixed >>> 14)) >>> 0) / 2 ** 32
  }

  /** A whole number from `low` to `high`, both included. */
  whole(low: number, high: number): number {
    return low + Math.floor(this.next() * (high - low + 1))
  }

  oneOf<T>(all: readonly T[]): T {
    return all[this.whole(0, all.length - 1)]!
  }

  /** Another one for somebody else, so that who comes first changes nothing. */
  apart(): Chance {
    return new Chance(this.whole(0, 0x7fffffff))
  }
}

export const pause = (ms: number) => new Promise<void>((resolve) => setTimeout(resolve, ms))

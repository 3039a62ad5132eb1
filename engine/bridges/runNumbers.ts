import type { Spool } from './spool'

/** So many are reserved at a time: after a crash numbers go on behind those that may have been given out. */
const atOnce = 10_000

/** Numbers of the runs of a bridge, which no two of its runs share, whatever restarts in between. */
export class RunNumbers {
  private next = 1
  private reserved = 0

  constructor(
    private spool: Spool,
    private bridge: number,
  ) {}

  async load() {
    this.next = Math.max(this.next, (await this.spool.reservedRuns(this.bridge)) + 1)
    await this.reserve()
  }

  take(): number {
    const number = this.next++
    // in good time, and without waiting for the disk
    if (number + atOnce / 2 > this.reserved) void this.reserve().catch(() => {})
    return number
  }

  private async reserve() {
    this.reserved = this.next + atOnce
    await this.spool.reserveRuns(this.bridge, this.reserved)
  }
}

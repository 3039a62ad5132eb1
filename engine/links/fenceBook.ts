import { steadyNow } from '#pacing/clock'
/** Learned fences are tried again after this long; where they were right, ever later. */
const firstDoubtMs = 10 * 60_000
const lastDoubtMs = 24 * 3_600_000

/** Offsets across which a device refused to be read, by the rows of elements that it has: tables, blocks. */
export class FenceBook<Row extends string = string> {
  private byRow = new Map<Row, Set<number>>()
  private learnedAt = 0
  private doubtMs = firstDoubtMs

  of(row: Row): number[] {
    return [...(this.byRow.get(row) ?? [])]
  }

  all(): Record<string, number[]> {
    return Object.fromEntries([...this.byRow.keys()].map((row) => [row, this.of(row)]))
  }

  /** Returns whether any of them is new. */
  add(row: Row, offsets: readonly number[], now = steadyNow()): boolean {
    const known = this.byRow.get(row) ?? new Set()
    const before = known.size
    for (const offset of offsets) known.add(offset)
    this.byRow.set(row, known)
    if (this.learnedAt === 0) this.learnedAt = now
    return known.size > before
  }

  /** Whether it is time to doubt what was learned. */
  areOld(now: number): boolean {
    return this.learnedAt > 0 && now - this.learnedAt > this.doubtMs
  }

  /** Returns whether there was anything to forget. */
  forget(): boolean {
    if (this.byRow.size === 0) return false
    this.byRow.clear()
    this.learnedAt = 0
    this.doubtMs = Math.min(lastDoubtMs, 2 * this.doubtMs)
    return true
  }
}

import { setTimeout as delay } from 'node:timers/promises'
import { nextTurn } from '#pacing/turns'

/** Nodes cost half a millisecond each; after this long, others get their turn. */
const sliceMs = 8

/** Works off what is to be done a little at a time, so that plant traffic never waits for it. */
export class Slices {
  private working = false

  /** @param step does one thing; false when nothing is left. @param restMs between two slices, where one thing takes longer than a slice */
  constructor(
    private step: () => boolean,
    private restMs = 0,
  ) {}

  start() {
    if (!this.working) void this.work()
  }

  /** Resolves when nothing is left. */
  async settled() {
    while (this.working) await nextTurn()
  }

  private async work() {
    this.working = true
    while (this.slice()) await (this.restMs > 0 ? delay(this.restMs) : nextTurn())
    this.working = false
  }

  /** Whether something may be left. */
  private slice(): boolean {
    const end = performance.now() + sliceMs
    while (performance.now() < end) if (!this.step()) return false
    return true
  }
}
